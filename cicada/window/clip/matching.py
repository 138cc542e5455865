"""Making a clip as loud as another one, or as a figure says."""

from collections.abc import Callable
from typing import TYPE_CHECKING

from PySide6.QtWidgets import QMenu

from cicada.core.editing import Cell
from cicada.core.keyframe_edits import ChangeKeyframes
from cicada.core.model import Clip, Layer
from cicada.deliver.work import loudnesses
from cicada.window.widgets.asking import ask
from cicada.window.words.numbers import fixed
from cicada.window.words.quantities import level_text, parse_loudness

if TYPE_CHECKING:
    from cicada.window.frame.main_window import MainWindow

FIGURES = (-14, -18, -23)
# The loudness that is wanted, from those measured.
Target = Callable[[list[float | None]], float | None]
# Clips offered to be matched, at most.
MOST = 24


class Matching:
    """Measures clips by themselves, as they are mixed, and sets the chosen one's level."""

    def __init__(self, window: "MainWindow") -> None:
        self._window = window

    def menu(self, menu: QMenu) -> None:
        """The figures and the other clips of the scene."""
        for figure in FIGURES:
            action = menu.addAction(f"to {figure} LUFS".replace("-", "−"))
            action.triggered.connect(lambda _=False, figure=figure: self.to_figure(figure))
        menu.addAction("to another figure…").triggered.connect(self.ask)
        menu.addSeparator()
        session, project = self._window.session, self._window.document.project
        for cell, clip in self._others()[:MOST]:
            name = project.sound(clip.sound).name or clip.sound
            shown = cell.frame + project.first_frame
            action = menu.addAction(f"to {name} on frame {shown}")
            action.triggered.connect(lambda _=False, cell=cell: self.to_clip(cell))
        if session.cell is None:
            menu.setEnabled(False)

    def _others(self) -> list[tuple[Cell, Clip]]:
        session = self._window.session
        found: dict[tuple[object, ...], tuple[Cell, Clip]] = {}
        for layer in session.scene.layers:
            for clip in layer.keyframes:
                cell = Cell(layer.id, clip.frame)
                if isinstance(clip, Clip) and cell not in session.chosen:
                    found.setdefault((clip.sound, clip.level, layer.level), (cell, clip))
        return sorted(found.values(), key=lambda each: each[0].frame)

    def ask(self) -> None:
        """Ask for the loudness the chosen clip is to have."""
        figure = ask(
            self._window, "Match", "Loudness of the clip by itself, in LUFS:", "-20",
            "Set its level", parse_loudness,
        )  # fmt: skip
        if figure is not None:
            self.to_figure(figure)

    def to_figure(self, figure: float) -> None:
        """Set the level of the chosen clip so that by itself it has that loudness, in LUFS."""
        self._measure((), lambda _: figure)

    def to_clip(self, cell: Cell) -> None:
        """Set the level of the chosen clip so that it is as loud as another one."""
        layer = self._layer(cell)
        clip = next(k for k in layer.keyframes if k.frame == cell.frame)
        if isinstance(clip, Clip):
            self._measure(((clip, layer.level),), lambda found: found[1])

    def _layer(self, cell: Cell) -> Layer:
        return next(x for x in self._window.session.scene.layers if x.id == cell.layer)

    def _measure(self, others: tuple[tuple[Clip, float], ...], target: Target) -> None:
        window = self._window
        cell, clip = window.session.cell, window.session.keyframe()
        if cell is None or not isinstance(clip, Clip):
            window.say("Choose a clip first.")
            return
        window.say("Measuring…", lasting=True)

        def done(found: list[float | None]) -> None:
            wanted, now = target(found), found[0]
            if wanted is None or now is None:
                window.say("It is silent: there is no loudness to match.")
                return
            level = round(clip.level * 10 ** ((wanted - now) / 20), 6)
            if level > 16:
                window.say(
                    f"It would have to be {fixed(wanted - now, 1)} dB louder, "
                    "past the highest level."
                )
                return
            what = "the level to match"
            window.document.do(ChangeKeyframes(cells=(cell,), changes={"level": level}, what=what))
            sign = "+" if wanted > now else ""
            window.say(f"Level {level_text(level)}: {sign}{fixed(wanted - now, 1)} dB.")

        clips = [(clip, self._layer(cell).level), *others]
        window.jobs.run(
            loudnesses, window.document.project, window.presence.standing.files,
            window.sounds.cache.folder, clips, done=done, failed=window.say,
        )  # fmt: skip
