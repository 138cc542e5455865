"""The bar that shows what is listened to: where in it, and how loud."""

import re

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import QFrame, QHBoxLayout, QLabel, QPushButton, QSlider

from cicada.window.playing.listening import HIGHEST, LOWEST, Listening, What
from cicada.window.widgets.fields import QuantityField, whole
from cicada.window.widgets.seek_track import SeekTrack
from cicada.window.words.numbers import NUMBER, read, shown


def parse_loudness(text: str) -> float:
    """A loudness in LUFS: ``-20``, ``-20 LUFS``. Raises ``ValueError`` with a sentence."""
    match = re.match(rf"^\s*({NUMBER})\s*(lufs)?\s*$", text, re.IGNORECASE)
    if match is None:
        raise ValueError(f"“{text.strip()}” is no loudness: write -20 or -20 LUFS")
    value = read(match[1])
    if not LOWEST <= value <= HIGHEST:
        raise ValueError(f"listening goes from {LOWEST:g} to {HIGHEST:g} LUFS")
    return value


def loudness_text(value: float) -> str:
    """A loudness as it is typed."""
    return f"{shown(value)} LUFS"


LOUDNESS = whole(parse_loudness, loudness_text, "How loud every sound is listened to")


# Steps of the slider.
STEPS = 1000


class ListenBar(QFrame):
    """Shown while something is listened to, or ``always``, with a button then."""

    wanted = Signal()

    def __init__(self, listening: Listening, *, always: bool = False) -> None:
        super().__init__()
        self._listening, self._always = listening, always
        self._offered: What | None = None
        row = QHBoxLayout(self)
        row.setContentsMargins(4, 2, 2, 2)
        row.setSpacing(8)
        self.button = QPushButton("Listen")
        self.button.setAutoDefault(False)
        self.button.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self.button.setToolTip("Hear it by itself, once through (Space)")
        self.button.setVisible(always)
        self.button.clicked.connect(self.wanted)
        row.addWidget(self.button)
        self.track = SeekTrack(28)
        self.track.setToolTip("Click to hear it from there")
        self.track.sought.connect(self._seek)
        self.track.setMinimumWidth(40)
        row.addWidget(self.track, 1)
        self.came_up = QLabel()
        self.came_up.setObjectName("soft")
        row.addWidget(self.came_up)
        self.value = QSlider(Qt.Orientation.Horizontal)
        self.value.setRange(0, STEPS)
        self.value.setMinimumWidth(80)
        self.value.setAccessibleName("the number the blend follows")
        self.value.valueChanged.connect(self._move_value)
        row.addWidget(self.value, 1)
        self.time = QLabel()
        self.time.setMinimumWidth(92)
        row.addWidget(self.time)
        self.level = QuantityField("Listening level", LOUDNESS)
        self.level.setFixedWidth(84)
        self.level.chosen.connect(listening.set_level)
        row.addWidget(self.level)
        listening.changed.connect(self._show)
        self._show()

    def offer(self, what: What | None) -> None:
        """Say what the button would let be heard."""
        self._offered = what
        self._show()

    def _seek(self, share: float) -> None:
        listening = self._listening
        if listening.what is not None:
            listening.listen(listening.what, share * listening.length)

    def _move_value(self, step: int) -> None:
        low, high = self._listening.ends
        self._listening.move_value(low + (high - low) * step / STEPS)

    def _show_made(self) -> None:
        """What came up of a pool, and the number a blend follows."""
        listening = self._listening
        self.came_up.setVisible(bool(listening.came_up))
        self.came_up.setText(listening.came_up)
        self.value.setVisible(listening.blend is not None)
        if listening.blend is not None and not self.value.isSliderDown():
            low, high = listening.ends
            self.value.blockSignals(True)
            self.value.setValue(round((listening.number - low) / (high - low) * STEPS))
            self.value.blockSignals(False)
            self.value.setToolTip(f"{listening.number:.3g}, from {low:g} to {high:g}")

    def _show(self) -> None:
        listening = self._listening
        self._show_made()
        busy = listening.what is not None
        self.setVisible(busy or self._always)
        self.button.setText("Stop" if busy else "Listen")
        self.button.setEnabled(busy or self._offered is not None)
        self.level.set_value(listening.level)
        self.level.setToolTip(
            f"Every sound is heard at this loudness, as far as its peaks allow. "
            f"Now: {listening.gain_text}."
            if busy
            else "Every sound is heard at this loudness, as far as its peaks allow."
        )
        heard = listening.heard
        if heard is None:
            self.time.setText("Reading it…" if busy else "")
            self.track.show_position(None)
            if not busy:
                self.track.show_peaks(None)
            return
        self.track.show_peaks(listening.peaks())
        self.track.show_position(listening.position / max(1e-9, listening.length))
        self.time.setText(f"{listening.position:.2f} / {listening.length:.2f} s")
