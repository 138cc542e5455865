"""A part of a pattern: its head, and the grid it is written on."""

from collections.abc import Sequence

from msgspec.structs import replace
from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import (
    QComboBox,
    QFrame,
    QHBoxLayout,
    QLabel,
    QLineEdit,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from cicada.core.model import Sound
from cicada.core.noting import repitched
from cicada.core.patterns import TICKS, Pattern, PatternPart, PlayedSound, VoiceName
from cicada.synth.instruments import DRUMS, INSTRUMENTS
from cicada.window.made.part_grid import PartGrid
from cicada.window.widgets.fields import LEVEL, PAN, Kind, QuantityField
from cicada.window.widgets.rows import soft
from cicada.window.words.made import odd_text, outside_text
from cicada.window.words.numbers import read, shown
from cicada.window.words.pitches import parse_pitch, range_text, understood

HEAD = 300
# The rows a part begins with, from the top.
USUAL: dict[VoiceName, tuple[int, ...]] = {
    "drums": (42, 46, 39, 38, 36),
    "struck": (84, 81, 79, 76, 74, 72),
    "plucked": (72, 69, 67, 64, 62, 60),
    "blown": (84, 81, 79, 76, 74, 72),
    "bowed": (60, 57, 55, 52, 50, 48),
    "sung": (67, 64, 62, 60, 57, 55),
}


def _beats(text: str) -> float:
    try:
        beats = read(text.lower().replace("beats", "").replace("beat", "").strip())
    except ValueError:
        raise ValueError("a length is a number of beats") from None
    if not 0 < beats <= 10_000:
        raise ValueError("a part has up to 10,000 beats")
    return beats


BEATS = Kind(_beats, lambda value: f"{shown(value, 6)} beats", "How long its round is")


class PartRow(QFrame):
    """``changed`` comes with the part as it is to be and what was done, ``removed`` for it to go.

    ``said`` comes with what was understood, or is wrong.
    """

    changed = Signal(object, str)
    removed = Signal()
    said = Signal(str)

    def __init__(self) -> None:
        super().__init__()
        self.part = PatternPart()
        # Pitches that have rows without notes on them.
        self._extra: set[float] = set()
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 4, 0, 8)
        row.setSpacing(8)
        row.addWidget(self._head(), 0, Qt.AlignmentFlag.AlignTop)
        self.grid = PartGrid()
        self.grid.changed.connect(self.changed)
        self.grid.said.connect(self.said)
        self.grid.repitch_wanted.connect(self._repitch)
        row.addWidget(self.grid, 0, Qt.AlignmentFlag.AlignTop)
        row.addStretch(1)

    def _head(self) -> QWidget:
        head = QWidget()
        head.setFixedWidth(HEAD)
        column = QVBoxLayout(head)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(4)
        first, second, third = QHBoxLayout(), QHBoxLayout(), QHBoxLayout()
        for line in (first, second, third):
            line.setSpacing(5)
            column.addLayout(line)
        self.name = QLineEdit()
        self.name.setAccessibleName("name of the part")
        self.name.setPlaceholderText("name")
        self.name.editingFinished.connect(self._rename)
        self.voice = QComboBox()
        self.voice.setAccessibleName("instrument")
        self.voice.activated.connect(self._choose_voice)
        first.addWidget(self.name, 1)
        first.addWidget(self.voice, 2)
        self.length = QuantityField("length of the part", BEATS)
        self.level = QuantityField("level of the part", LEVEL)
        self.pan = QuantityField("place of the part", PAN)
        self.length.chosen.connect(
            lambda beats: self._change("length", max(1, round(beats * TICKS)))
        )
        self.level.chosen.connect(lambda level: self._change("level", level))
        self.pan.chosen.connect(lambda pan: self._change("pan", pan))
        for field, share in ((self.length, 4), (self.level, 6), (self.pan, 4)):
            second.addWidget(field, share)
        self.off = QPushButton("Off")
        self.off.setCheckable(True)
        self.off.setToolTip("As if it were not there")
        self.off.clicked.connect(lambda on: self._change("off", on))
        self.pitch = QLineEdit()
        self.pitch.setAccessibleName("add a row for a pitch")
        self.pitch.setPlaceholderText("add a row: C4, 440 Hz")
        self.pitch.returnPressed.connect(self._add_row)
        self.pitch.textEdited.connect(self._understand)
        self.gone = QPushButton("Remove")
        self.gone.clicked.connect(self.removed)
        third.addWidget(self.off)
        third.addWidget(self.pitch, 1)
        third.addWidget(self.gone)
        self.range = soft("")
        self.odd = QLabel()
        self.odd.setObjectName("warning")
        self.odd.setWordWrap(True)
        column.addWidget(self.range)
        column.addWidget(self.odd)
        for each in (self.name, self.voice, self.length, self.level, self.pan, self.pitch):
            each.setMinimumWidth(40)
        return head

    # -- showing -------------------------------------------------------------------------------

    def rows(self) -> list[float]:
        """The pitches that have rows, from the top."""
        own = {note.pitch for note in self.part.notes} | self._extra
        if not self.part.notes and not self._extra:
            own = {float(pitch) for pitch in USUAL[self.part.voice]}
        elif len(own) < 4 and self.part.sound is None:
            own |= {float(pitch) for pitch in USUAL[self.part.voice]}
        return sorted(own, reverse=True)

    def show_part(
        self, pattern: Pattern, number: int, sounds: Sequence[Sound], wide: float
    ) -> None:
        """Show a part of a pattern; ``sounds`` can be played by it."""
        part = self.part = pattern.parts[number]
        if not self.name.hasFocus():
            self.name.setText(part.name)
        self.voice.clear()
        self.voice.addItem("Drums", "drums")
        for voice, instrument in INSTRUMENTS.items():
            self.voice.addItem(instrument.title, voice)
        for sound in sounds:
            self.voice.addItem(f"{sound.label}, from the shelf", f"sound {sound.id}")
        wanted = part.voice if part.sound is None else f"sound {part.sound.sound}"
        self.voice.setCurrentIndex(self.voice.findData(wanted))
        self.length.set_value(part.length / TICKS)
        self.level.set_value(part.level)
        self.pan.set_value(part.pan)
        self.off.setChecked(part.off)
        self.range.setText(self._range_words())
        outside = outside_text(part)
        words = [each for each in (outside, odd_text(pattern, number)) if each]
        self.odd.setText("; ".join(words))
        self.odd.setVisible(bool(self.odd.text()))
        self.grid.show_part(part, self.rows(), pattern.grid, pattern.round_ticks, wide)
        self.grid.setEnabled(not part.off)

    def _range_words(self) -> str:
        part = self.part
        if part.sound is not None:
            return f"as it is at {understood('plucked', part.sound.root, sound=True)}"
        if part.voice == "drums":
            return f"{len(DRUMS)} drums, by their numbers"
        return f"plays {range_text(part.voice)}"

    # -- changing ------------------------------------------------------------------------------

    def _change(self, name: str, value: object) -> None:
        words = {
            "length": "change the length of a part", "level": "change the level of a part",
            "pan": "change the place of a part", "off": "switch a part off or on",
        }  # fmt: skip
        self.changed.emit(replace(self.part, **{name: value}), words[name])

    def _rename(self) -> None:
        name = self.name.text().strip()
        if name != self.part.name:
            self.changed.emit(replace(self.part, name=name), "rename a part")

    def _choose_voice(self, index: int) -> None:
        chosen = str(self.voice.itemData(index))
        if chosen.startswith("sound "):
            played = PlayedSound(chosen.removeprefix("sound "))
            made = replace(self.part, sound=played)
        else:
            made = replace(self.part, sound=None, voice=chosen)
        if not made.notes:
            self._extra.clear()
        self.changed.emit(made, "choose an instrument")

    def _understand(self, text: str) -> None:
        if not text.strip():
            return
        try:
            pitch = parse_pitch(text)
        except ValueError as error:
            self.said.emit(str(error))
            return
        self.said.emit(understood(self.part.voice, pitch, sound=self.part.sound is not None))

    def _add_row(self) -> None:
        try:
            pitch = parse_pitch(self.pitch.text())
        except ValueError as error:
            self.said.emit(str(error))
            return
        self._understand(self.pitch.text())
        self._extra |= set(self.rows()) | {pitch}
        self.pitch.clear()
        self.changed.emit(self.part, "")

    def _repitch(self, old: float, new: float) -> None:
        self._extra |= set(self.rows())
        self._extra.discard(old)
        self._extra.add(new)
        self.changed.emit(repitched(self.part, old, new), "change the pitch of a row")
