"""A plain sound made here: what it is, set in a few fields and heard."""

from math import log2

from msgspec.structs import replace
from PySide6.QtWidgets import (
    QCheckBox,
    QDialog,
    QHBoxLayout,
    QLabel,
    QLineEdit,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from cicada.core.made import Countdown, Making, Noise, RoomTone, Tone
from cicada.core.made_edits import ChangeMaking
from cicada.core.model import Sound
from cicada.core.shelf_edits import ChangeSounds
from cicada.jobs.room_tone import colour_of
from cicada.synth.instruments import hertz_of
from cicada.window.playing.listening import Listening
from cicada.window.state.session import Session
from cicada.window.state.work import Work
from cicada.window.widgets.choice import Choice
from cicada.window.widgets.fields import LEVEL, Kind, QuantityField, time, whole
from cicada.window.widgets.rows import Page, soft
from cicada.window.words.made import TITLES, WHAT
from cicada.window.words.numbers import shown
from cicada.window.words.pitches import parse_pitch, pitch_text
from cicada.window.words.quantities import TimeUnits, parse_whole

SHAPES = [("sine", "sine", ""), ("triangle", "triangle", ""), ("square", "square", ""),
          ("saw", "saw", "")]  # fmt: skip
COLOURS = [("white", "white", "As much in every hertz"), ("pink", "pink", "3 dB less an octave"),
           ("brown", "brown", "6 dB less an octave")]  # fmt: skip


def _hertz(text: str) -> float:
    plain = text.strip().lower()
    if plain.replace(".", "", 1).replace(",", "", 1).isdigit():
        plain += " hz"
    return round(hertz_of(parse_pitch(plain)), 4)


PITCH = Kind(
    _hertz, lambda value: f"{shown(value)} Hz", "A frequency, or a note with its octave (A4)",
    lambda value: pitch_text(69.0 + 12 * _octaves(value)),
)  # fmt: skip


def _octaves(hertz: float) -> float:
    return log2(hertz / 440.0)


class MadeDialog(QDialog):
    """Each change is made at once, and all of them are undone together."""

    def __init__(
        self,
        parent: QWidget,
        session: Session,
        work: Work,
        listening: Listening,
        sound: str,
        step: object,
    ) -> None:
        """All changes join ``step``."""
        super().__init__(parent)
        self._session, self._work, self._listening = session, work, listening
        self._document = session.document
        self.sound, self._step = sound, step
        making = self._making()
        self._kind = type(making)
        self.setWindowTitle(TITLES[self._kind])
        self.setMinimumWidth(430)
        column = QVBoxLayout(self)
        column.setContentsMargins(20, 16, 20, 16)
        column.setSpacing(10)
        what = QLabel(WHAT[self._kind])
        what.setWordWrap(True)
        what.setObjectName("soft")
        column.addWidget(what)
        self.page = Page()
        column.addWidget(self.page)
        self.fields: dict[str, QuantityField] = {}
        self.choices: dict[str, Choice] = {}
        self.name = QLineEdit()
        self.name.setAccessibleName("Name")
        self.name.editingFinished.connect(self._rename)
        self.page.row("name", self.name)
        self._build()
        self.says = soft("")
        self.says.setWordWrap(True)
        column.addWidget(self.says)
        row = QHBoxLayout()
        self.listen = QPushButton("Listen")
        self.listen.clicked.connect(lambda: self._listening.toggle(self.sound))
        row.addWidget(self.listen)
        row.addStretch(1)
        close = QPushButton("Close")
        close.clicked.connect(self.close)
        row.addWidget(close)
        column.addLayout(row)
        # Enter takes what was typed, and presses nothing.
        for button in self.findChildren(QPushButton):
            button.setAutoDefault(False)
        self._document.changed.connect(self.refresh)
        listening.changed.connect(self._show_listening)
        self.refresh()

    # -- building ------------------------------------------------------------------------------

    def _units(self) -> TimeUnits:
        return TimeUnits(self._document.project.timebase.fps)

    def _build(self) -> None:
        kind = self._kind
        length = time(self._units)
        if kind is Countdown:
            self._field("beeps", "beeps", whole(parse_whole, lambda v: f"{v:.0f}", "", 1))
            self._field("every", "one every", length)
        else:
            self._field("seconds", "length", length)
        if hasattr(kind, "hertz"):
            self._field("hertz", "pitch", PITCH)
        if kind is Tone:
            self._choice("shape", "wave", SHAPES)
        if kind is Noise:
            self._choice("colour", "colour", COLOURS)
        if hasattr(kind, "level"):
            self._field("level", "level", LEVEL)
        if hasattr(kind, "wide"):
            self.wide = QCheckBox("left and right differ")
            self.wide.clicked.connect(lambda on: self._change("wide", on))
            self.page.row("", self.wide)
        if hasattr(kind, "seed"):
            again = QPushButton("Another one")
            again.setToolTip("The same noise, drawn anew")
            again.clicked.connect(self._draw_anew)
            self.page.row("", again)
        if kind is RoomTone:
            self._colour_row()

    def _field(self, name: str, words: str, kind: Kind) -> None:
        field = QuantityField(words, kind)
        field.setFixedWidth(120)
        field.chosen.connect(lambda value: self._change(name, value))
        self.fields[name] = field
        self.page.row(words, field)

    def _choice(self, name: str, words: str, options: list[tuple[str, str, str]]) -> None:
        choice = Choice(words, options)
        choice.chosen.connect(lambda value: self._change(name, value))
        self.choices[name] = choice
        self.page.row(words, choice)

    def _colour_row(self) -> None:
        """The stretch of a sound whose quiet it is coloured like."""
        length = time(self._units)
        self.first, self.last = (QuantityField(words, length) for words in ("from", "to"))
        for field, value in ((self.first, 0.0), (self.last, 1.0)):
            field.setFixedWidth(76)
            field.set_value(value)
        self.take = QPushButton("Take its colour")
        self.take.setToolTip("From the sound that is chosen on the shelf: a stretch without speech")
        self.take.clicked.connect(self.take_colour)
        self.page.row("coloured like", self.first, soft("to"), self.last, self.take)

    # -- showing -------------------------------------------------------------------------------

    def _now(self) -> Sound | None:
        sounds = self._document.project.sounds
        return next((each for each in sounds if each.id == self.sound and each.making), None)

    def _making(self) -> Making:
        now = self._now()
        assert now is not None
        assert now.making is not None
        return now.making

    def refresh(self) -> None:
        """Show how it is made now; it is closed where it is gone, or something else."""
        now = self._now()
        if now is None or type(now.making) is not self._kind:
            self.close()
            return
        making = now.making
        if not self.name.hasFocus():
            self.name.setText(now.name)
        for name, field in self.fields.items():
            field.set_value(float(getattr(making, name)))
        for name, choice in self.choices.items():
            choice.set_value(getattr(making, name))
        if hasattr(making, "wide"):
            self.wide.setChecked(making.wide)
        if isinstance(making, RoomTone):
            self._say_colour(making)

    def _say_colour(self, making: RoomTone) -> None:
        chosen = self._session.sound
        names = {s.id: s.label for s in self._document.project.sounds if s.id != self.sound}
        if not any(making.bands):
            self.says.setText(
                "It is silent yet: choose a sound on the shelf, and take the colour of a stretch "
                "of it in which nothing happens."
            )
        else:
            self.says.setText("")
        self.take.setEnabled(chosen in names)

    def _show_listening(self) -> None:
        self.listen.setText("Stop" if self._listening.what == self.sound else "Listen")

    # -- changing ------------------------------------------------------------------------------

    def _change(self, name: str, value: object) -> None:
        making = self._making()
        current = getattr(making, name)
        if isinstance(current, int) and isinstance(value, float):
            value = int(value)
        made = replace(making, **{name: value})
        heard = self._listening.what == self.sound
        self._document.do(ChangeMaking(sound=self.sound, making=made), joins=self._step)
        if heard:
            self._listening.listen(self.sound)
        self.refresh()

    def _draw_anew(self) -> None:
        making = self._making()
        if isinstance(making, (Noise, RoomTone)):
            self._change("seed", making.seed + 1)

    def _rename(self) -> None:
        now, text = self._now(), self.name.text().strip()
        if now is not None and text and text != now.name:
            self._document.do(ChangeSounds(sounds=(self.sound,), changes={"name": text}))

    def take_colour(self) -> None:
        """Measure the stretch that is chosen, and have its levels."""
        chosen = self._session.sound
        if chosen is None or chosen == self.sound:
            return
        self.says.setText("Listening to it…")
        self._work.with_sounds(
            colour_of, chosen, self.first.value, self.last.value,
            done=lambda bands: self._change("bands", bands), failed=self.says.setText,
        )  # fmt: skip
