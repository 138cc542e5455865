"""A pattern is written: its tempo, its parts one under the other, heard while it is written."""

from functools import partial

from msgspec.structs import replace
from PySide6.QtWidgets import (
    QComboBox,
    QDialog,
    QHBoxLayout,
    QLabel,
    QLineEdit,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from cicada.core.made_edits import ChangeMaking
from cicada.core.model import Sound
from cicada.core.noting import fitting, with_part
from cicada.core.patterns import TICKS, Pattern, PatternPart, VoiceName, seconds_of
from cicada.core.shelf_edits import ChangeSounds
from cicada.errors import BadEdit, CicadaError
from cicada.store.midi_file import losses, read_midi, written
from cicada.store.projectfile import write_atomically
from cicada.window.made.part_grid import LABELS, LEAST_CELL
from cicada.window.made.part_row import HEAD, PartRow
from cicada.window.made.tempo_steps_field import TempoStepsField
from cicada.window.playing.listening import Listening
from cicada.window.state.session import Session
from cicada.window.widgets.asking import Asking
from cicada.window.widgets.fields import Kind, QuantityField, whole
from cicada.window.widgets.rows import scrolled, soft
from cicada.window.words.made import ENDINGS, parse_tempo, pattern_sentence
from cicada.window.words.numbers import shown
from cicada.window.words.quantities import begun, parse_share, parse_whole, share_text

GRIDS = ((1, "beats"), (2, "halves"), (3, "thirds"), (4, "quarters"), (6, "sixths"), (8, "eighths"))
SWUNG = ((2, "halves"), (4, "quarters"))
MIDI = "MIDI files (*.mid *.midi)"
_WIDEST_CELL = 26


def _swing(text: str) -> float:
    share = parse_share(text)
    if not 0.5 <= share <= 0.75:
        raise ValueError("swing goes from 50 % (straight) to 75 %")
    return share


BPM = whole(parse_tempo, lambda value: shown(value, 6), "Beats a minute", 1)
SWING = Kind(_swing, share_text, "The share of each pair that its first half has; 50 % is straight")


class PatternDialog(QDialog):
    """What is written is made at once: each thing that is done is a step to undo."""

    def __init__(
        self, parent: QWidget, session: Session, listening: Listening, asking: Asking, sound: str
    ) -> None:
        super().__init__(parent)
        self._session, self._document = session, session.document
        self._listening, self._asking = listening, asking
        self.sound = sound
        self.setWindowTitle("Pattern")
        self.resize(940, 580)
        column = QVBoxLayout(self)
        column.setContentsMargins(18, 14, 18, 14)
        column.setSpacing(8)
        column.addLayout(self._first_row())
        column.addLayout(self._second_row())
        inside = QWidget()
        self._parts = QVBoxLayout(inside)
        self._parts.setContentsMargins(0, 0, 8, 0)
        self._parts.setSpacing(0)
        self._parts.addStretch(1)
        column.addWidget(scrolled(inside), 1)
        self.rows: list[PartRow] = []
        self.says = QLabel()
        self.says.setWordWrap(True)
        self.says.setObjectName("soft")
        column.addWidget(self.says)
        column.addLayout(self._last_row())
        self._document.changed.connect(self.refresh)
        listening.changed.connect(self._show_listening)
        self.refresh()

    # -- building ------------------------------------------------------------------------------

    def _first_row(self) -> QHBoxLayout:
        row = QHBoxLayout()
        row.setSpacing(6)
        self.name = QLineEdit()
        self.name.setAccessibleName("name of the pattern")
        self.name.editingFinished.connect(self._rename)
        row.addWidget(self.name, 1)
        self.bpm = QuantityField("beats a minute", BPM)
        self.bpm.chosen.connect(lambda bpm: self._set("change its tempo", bpm=bpm))
        self.steps = TempoStepsField(lambda: self.pattern)
        self.steps.chosen.connect(lambda steps: self._set("change its tempo", steps=steps))
        self.follows = QComboBox()
        self.follows.setAccessibleName("whose tempo it has")
        self.follows.setToolTip("Its own tempo, or that of a scene, from its first beat on")
        self.follows.activated.connect(self._follow)
        self.swing = QuantityField("swing", SWING)
        self.swing.chosen.connect(lambda share: self._set("change its swing", swing=share))
        self.swing_unit = QComboBox()
        self.swing_unit.setAccessibleName("what swings")
        for number, words in SWUNG:
            self.swing_unit.addItem(words, TICKS // number)
        self.swing_unit.activated.connect(
            lambda index: self._set(
                "change its swing", swing_unit=int(self.swing_unit.itemData(index))
            )
        )
        row.addWidget(soft("tempo"))
        row.addWidget(self.bpm)
        row.addWidget(soft("then"))
        row.addWidget(self.steps)
        row.addWidget(self.follows)
        row.addWidget(soft("swing"))
        row.addWidget(self.swing)
        row.addWidget(self.swing_unit)
        for field in (self.bpm, self.swing):
            field.setFixedWidth(72)
        self.steps.setFixedWidth(168)
        return row

    def _second_row(self) -> QHBoxLayout:
        row = QHBoxLayout()
        row.setSpacing(6)
        self.length = QLabel()
        row.addWidget(self.length, 1)
        self.fit = QPushButton()
        self.fit.setToolTip("Change its tempo so that all of it lasts whole frames")
        self.fit.clicked.connect(self._fit)
        row.addWidget(self.fit)
        self.grid = QComboBox()
        self.grid.setAccessibleName("a cell of the grid")
        for number, words in GRIDS:
            self.grid.addItem(f"cells of {words}" if number > 1 else "cells of a beat",
                              TICKS // number)  # fmt: skip
        self.grid.activated.connect(
            lambda index: self._set("change its grid", grid=int(self.grid.itemData(index)))
        )
        row.addWidget(self.grid)
        self.repeats = QuantityField(
            "rounds", whole(parse_whole, lambda v: f"{v:.0f}", "How many rounds", 1)
        )
        self.repeats.setFixedWidth(52)
        self.repeats.chosen.connect(
            lambda number: self._set("change its rounds", repeats=int(number))
        )
        row.addWidget(soft("rounds"))
        row.addWidget(self.repeats)
        self.ending = QComboBox()
        self.ending.setAccessibleName("what rings past its end")
        for value, words, tip in ENDINGS:
            self.ending.addItem(f"at its end: {words}", value)
            self.ending.setItemData(self.ending.count() - 1, tip, 3)
        self.ending.activated.connect(
            lambda index: self._set("change its end", ending=self.ending.itemData(index))
        )
        row.addWidget(self.ending)
        return row

    def _last_row(self) -> QHBoxLayout:
        row = QHBoxLayout()
        self.listen = QPushButton("Listen")
        self.listen.setObjectName("main")
        self.listen.clicked.connect(lambda: self._listening.toggle(self.sound))
        self.add = QPushButton("Add a part")
        self.add.clicked.connect(self.add_part)
        self.midi_in = QPushButton("Take in a MIDI file…")
        self.midi_in.clicked.connect(self.take_midi)
        self.midi_out = QPushButton("Write a MIDI file…")
        self.midi_out.clicked.connect(self.write_midi)
        close = QPushButton("Close")
        close.clicked.connect(self.close)
        for button in (self.listen, self.add, self.midi_in, self.midi_out):
            row.addWidget(button)
        row.addStretch(1)
        row.addWidget(close)
        return row

    # -- showing -------------------------------------------------------------------------------

    def _now(self) -> Sound | None:
        sounds = self._document.project.sounds
        found = next((each for each in sounds if each.id == self.sound), None)
        return found if found is not None and isinstance(found.making, Pattern) else None

    @property
    def pattern(self) -> Pattern:
        """The pattern as it is."""
        now = self._now()
        assert now is not None
        assert isinstance(now.making, Pattern)
        return now.making

    def refresh(self) -> None:
        """Show the pattern as it is now; it is closed where it is gone."""
        now = self._now()
        if now is None:
            self.close()
            return
        pattern, project = self.pattern, self._document.project
        if not self.name.hasFocus():
            self.name.setText(now.name)
        self.bpm.set_value(pattern.bpm)
        if not self.steps.being_typed:
            self.steps.write()
        for field in (self.bpm, self.steps):
            field.setEnabled(pattern.follows is None)
        self._show_scenes(pattern)
        self.swing.set_value(pattern.swing)
        for box, value in (
            (self.swing_unit, pattern.swing_unit), (self.grid, pattern.grid),
            (self.ending, pattern.ending),
        ):  # fmt: skip
            box.setCurrentIndex(box.findData(value))
        self.repeats.set_value(pattern.repeats)
        base = project.timebase
        self.length.setText(begun(pattern_sentence(pattern, base)))
        frames = round(seconds_of(pattern) * base.fps)
        whole_frames = "frame" if frames == 1 else "frames"
        self.fit.setText(f"Fit {max(1, frames)} {whole_frames}…")
        self.fit.setEnabled(pattern.follows is None)
        self._show_parts(pattern)

    def _show_scenes(self, pattern: Pattern) -> None:
        self.follows.clear()
        self.follows.addItem("its own", None)
        for scene in self._document.project.scenes:
            if scene.tempo or scene.id == pattern.follows:
                self.follows.addItem(f"that of {scene.label}", scene.id)
        self.follows.setCurrentIndex(max(0, self.follows.findData(pattern.follows)))

    def _show_parts(self, pattern: Pattern) -> None:
        while len(self.rows) > len(pattern.parts):
            row = self.rows.pop()
            row.hide()
            row.deleteLater()
        while len(self.rows) < len(pattern.parts):
            row, number = PartRow(), len(self.rows)
            row.changed.connect(partial(self._change_part, number))
            row.removed.connect(partial(self._remove_part, number))
            row.said.connect(self.say)
            self._parts.insertWidget(number, row)
            self.rows.append(row)
        room = self.width() - HEAD - LABELS - 80
        cells = pattern.round_ticks / pattern.grid
        wide = min(_WIDEST_CELL, max(LEAST_CELL, room / cells))
        fitting_sounds = [
            sound for sound in self._document.project.sounds
            if sound.id != self.sound and not isinstance(sound.making, Pattern)
        ]  # fmt: skip
        # Enter takes what was typed, and presses nothing.
        for button in self.findChildren(QPushButton):
            button.setAutoDefault(False)
        for number, row in enumerate(self.rows):
            row.show_part(pattern, number, fitting_sounds, wide)

    def say(self, text: str) -> None:
        """Say what was understood, or is wrong."""
        self.says.setText(begun(text))

    def _show_listening(self) -> None:
        self.listen.setText("Stop" if self._listening.what == self.sound else "Listen")

    # -- changing ------------------------------------------------------------------------------

    def _do(self, pattern: Pattern, named: str) -> None:
        if pattern == self.pattern:
            self.refresh()
            return
        heard, at = self._listening.what == self.sound, self._listening.position
        try:
            done = self._document.do(ChangeMaking(sound=self.sound, making=pattern, named=named))
        except CicadaError as error:
            self.say(str(error))
            return
        if done and heard:
            # It goes on where it was, as it is now.
            self._listening.stop()
            self._listening.listen(self.sound, min(at, seconds_of(pattern)))

    def _set(self, named: str, **changes: object) -> None:
        self._do(replace(self.pattern, **changes), named)

    def _rename(self) -> None:
        now, text = self._now(), self.name.text().strip()
        if now is not None and text and text != now.name:
            self._document.do(ChangeSounds(sounds=(self.sound,), changes={"name": text}))

    def _follow(self, index: int) -> None:
        scene = self.follows.itemData(index)
        self._set("change whose tempo it has", follows=scene)

    def _fit(self) -> None:
        base = self._document.project.timebase
        frames = self._asking.ask(
            "Fit frames", "How many frames all of it is to last:",
            str(max(1, round(seconds_of(self.pattern) * base.fps))), "Fit it", parse_whole,
        )  # fmt: skip
        if not frames:
            return
        try:
            made = fitting(self.pattern, frames / base.fps)
        except BadEdit as error:
            self.say(str(error))
            return
        self._do(made, f"fit {frames:.0f} frames")

    def _change_part(self, number: int, part: PatternPart, named: str) -> None:
        self._do(with_part(self.pattern, number, part), named)

    def _remove_part(self, number: int) -> None:
        parts = self.pattern.parts
        self._set("remove a part", parts=parts[:number] + parts[number + 1 :])

    def add_part(self) -> None:
        """Add a part below the others, as long as the longest."""
        pattern = self.pattern
        voice: VoiceName = "drums" if not pattern.parts else "plucked"
        part = PatternPart(voice=voice, length=pattern.round_ticks)
        self._set("add a part", parts=(*pattern.parts, part))

    # -- MIDI ----------------------------------------------------------------------------------

    def take_midi(self) -> None:
        """Have what a MIDI file holds in the place of all that is written."""
        path = self._asking.file_to_open("Take in a MIDI file", MIDI)
        if path is None:
            return
        try:
            found = read_midi(path)
        except CicadaError as error:
            self.say(str(error))
            return
        kept = replace(found.pattern, grid=self.pattern.grid)
        self._do(kept, f"take in {path.name}")
        self.say(" ".join((f"Taken in: {len(kept.parts)} parts.", *found.said)))

    def write_midi(self) -> None:
        """Write it as a MIDI file, once it has been said what such a file cannot hold."""
        pattern = self.pattern
        said = losses(pattern)
        if said:
            answer = self._asking.choose(
                "A MIDI file cannot hold all of it.", ["Write it", "Leave it"], safe=1,
                detail="\n".join(said),
            )  # fmt: skip
            if answer != 0:
                return
        path = self._asking.file_to_write("Write a MIDI file", MIDI, ".mid", (".mid", ".midi"))
        if path is None:
            return
        try:
            write_atomically(path, written(pattern))
        except CicadaError as error:
            self.say(str(error))
            return
        self.say(f"Written: {path}")
