"""Styles: settings kept under a name and put on the chosen clips."""

from functools import partial

from PySide6.QtWidgets import QMenu

from cicada.core.styles import ForgetStyle, KeepStyle, putting, style_of
from cicada.window.clip.chosen_clip import ChosenClip
from cicada.window.widgets.asking import Asking, some_words


class Styling:
    """Puts styles on, keeps and forgets them."""

    def __init__(self, chosen: ChosenClip, asking: Asking) -> None:
        self.chosen, self.asking, self.notices = chosen, asking, chosen.notices
        self.document, self.session = chosen.document, chosen.session

    def menu(self, menu: QMenu) -> None:
        """The styles there are, and keeping and forgetting them."""
        menu.clear()
        cells = self.session.clip_cells()
        styles = self.document.project.styles
        for style in styles:
            self.chosen.offer(menu, style.name, partial(putting, style, cells))
        if not styles:
            menu.addAction("No styles are kept yet").setEnabled(False)
        menu.addSeparator()
        kept = menu.addAction("Keep these settings as a style…")
        kept.setEnabled(self.chosen.clip() is not None)
        kept.triggered.connect(self.keep_style)
        if styles:
            forget = menu.addMenu("Forget")
            for style in styles:
                action = forget.addAction(style.name)
                action.triggered.connect(
                    lambda _=False, name=style.name: self.document.do(ForgetStyle(name=name))
                )
        self.chosen.draw_while_open(menu)

    def keep_style(self) -> None:
        """Ask for a name, and keep the settings of the chosen clip under it."""
        clip = self.chosen.clip()
        if clip is None:
            self.notices.say("Choose a clip first.")
            return
        name = self.asking.ask("Style", "Its name:", "", "Keep the style", some_words)
        if name is not None:
            self.document.do(KeepStyle(style=style_of(name, clip)))
