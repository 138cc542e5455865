"""Making a clip as loud as another one, or as a figure says."""

from collections.abc import Callable

from PySide6.QtWidgets import QMenu

from cicada.core.editing import Cell
from cicada.core.keyframe_edits import ChangeKeyframes
from cicada.core.lines import louder
from cicada.core.model import Clip
from cicada.core.reshaping import clip_on
from cicada.jobs.measuring import loudnesses
from cicada.window.clip.chosen_clip import ChosenClip
from cicada.window.state.work import Work
from cicada.window.widgets.asking import Asking
from cicada.window.words.numbers import fixed
from cicada.window.words.quantities import level_text, parse_loudness

FIGURES = (-14, -18, -23)
# The loudness that is wanted, from those measured.
Target = Callable[[list[float | None]], float | None]
# Clips offered to be matched, at most.
MOST = 24


class Matching:
    """Measures clips by themselves, as they are mixed, and sets the chosen one's level."""

    def __init__(self, chosen: ChosenClip, work: Work, asking: Asking) -> None:
        self._chosen, self._work, self._asking = chosen, work, asking
        self._session, self._notices = chosen.session, chosen.notices

    def menu(self, menu: QMenu) -> None:
        """The figures and the other clips of the scene."""
        for figure in FIGURES:
            action = menu.addAction(f"to {figure} LUFS".replace("-", "−"))
            action.triggered.connect(lambda _=False, figure=figure: self.to_figure(figure))
        menu.addAction("to another figure…").triggered.connect(self.ask)
        menu.addSeparator()
        session, project = self._session, self._session.document.project
        for cell, clip in self._others()[:MOST]:
            name = project.placeable(clip.sound).label
            action = menu.addAction(f"to {name} on frame {project.shown(cell.frame)}")
            action.triggered.connect(lambda _=False, cell=cell: self.to_clip(cell))
        if session.cell is None:
            menu.setEnabled(False)

    def _others(self) -> list[tuple[Cell, Clip]]:
        session = self._session
        found: dict[tuple[object, ...], tuple[Cell, Clip]] = {}
        for layer in session.scene.layers:
            for clip in layer.keyframes:
                cell = Cell(layer.id, clip.frame)
                if isinstance(clip, Clip) and cell not in session.chosen:
                    found.setdefault((clip.sound, clip.level, layer.level), (cell, clip))
        return sorted(found.values(), key=lambda each: each[0].frame)

    def ask(self) -> None:
        """Ask for the loudness the chosen clip is to have."""
        figure = self._asking.ask(
            "Match", "Loudness of the clip by itself, in LUFS:", "-20",
            "Set its level", parse_loudness,
        )  # fmt: skip
        if figure is not None:
            self.to_figure(figure)

    def to_figure(self, figure: float) -> None:
        """Set the level of the chosen clip so that by itself it has that loudness, in LUFS."""
        self._measure((), lambda _: figure)

    def to_clip(self, cell: Cell) -> None:
        """Set the level of the chosen clip so that it is as loud as another one."""
        clip, layer = clip_on(self._session.document.project, cell), self._chosen.layer(cell)
        self._measure(((clip, layer.level),), lambda found: found[1])

    def _measure(self, others: tuple[tuple[Clip, float], ...], target: Target) -> None:
        cell, clip = self._session.cell, self._chosen.clip()
        if cell is None or clip is None:
            self._notices.say("Choose a clip first.")
            return
        self._notices.say("Measuring…", lasting=True)

        def done(found: list[float | None]) -> None:
            wanted, now = target(found), found[0]
            if wanted is None or now is None:
                self._notices.say("It is silent: there is no loudness to match.")
                return
            by = wanted - now
            level = louder(clip.level, by)
            if level is None:
                self._notices.say(
                    f"It would have to be {fixed(by, 1)} dB louder, past the highest level."
                )
                return
            edit = ChangeKeyframes(
                cells=(cell,), changes={"level": level}, what="the level to match"
            )
            self._session.document.do(edit)
            sign = "+" if by > 0 else ""
            self._notices.say(f"Level {level_text(level)}: {sign}{fixed(by, 1)} dB.")

        clips = [(clip, self._chosen.layer(cell).level), *others]
        self._work.with_sounds(loudnesses, clips, done=done)
