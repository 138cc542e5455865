"""Saying what others do to the project's file, and what can be done about it."""

from PySide6.QtCore import Signal

from cicada.window.state.document import Document
from cicada.window.state.elsewhere import Elsewhere
from cicada.window.widgets.strip import Strip


class ElsewhereStrip(Strip):
    """A line over the foot of the window, there while something is to be decided."""

    copy_wanted = Signal()
    taken = Signal()

    def __init__(self, document: Document, elsewhere: Elsewhere) -> None:
        super().__init__("elsewhere", "What others do to this project")
        self._document, self._elsewhere = document, elsewhere
        self.there = self.button("Take what is there", self._take_what_is_there)
        self.keep = self.button("Keep what is here", elsewhere.keep_mine)
        self.take_over = self.button("Take it over", elsewhere.take_over)
        self.copy = self.button("Save under another name…", self.copy_wanted)
        elsewhere.changed.connect(self.show_it)
        document.saved_state_changed.connect(self.show_it)

    def show_it(self) -> None:
        """Say how things are."""
        doing, dirty = self._elsewhere.doing, self._document.dirty
        name = self._document.file_name
        self.words.setText(_sentence(doing, name, dirty=dirty))
        self.words.setToolTip(self.words.text())
        self.there.setVisible(doing == "changed")
        self.keep.setVisible(doing == "changed")
        self.take_over.setVisible(doing == "held")
        self.copy.setVisible(doing == "held")
        self.setVisible(doing != "nothing")

    def _take_what_is_there(self) -> None:
        self._elsewhere.take_what_is_there()
        self.taken.emit()


def _sentence(doing: str, name: str, *, dirty: bool) -> str:
    if doing == "held":
        unsaved = " What you did here and did not save is not in its file." if dirty else ""
        return f"{name} is being worked on in another window; here you can look on.{unsaved}"
    if doing == "gone":
        return f"{name} is not there any more. Saving writes it again."
    undo = " What you have done here can be had again by undo." if dirty else ""
    return f"{name} was changed by another program.{undo}"
