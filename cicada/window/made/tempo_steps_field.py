"""Where a pattern's tempo changes, typed."""

from collections.abc import Callable

from PySide6.QtCore import Signal
from typing_extensions import override

from cicada.core.patterns import Pattern
from cicada.window.widgets.fields import TypedField
from cicada.window.words.made import parse_tempo_steps, tempo_steps_text


class TempoStepsField(TypedField):
    """``chosen`` comes with the tempo steps; what cannot be read is said, and taken back."""

    chosen = Signal(object)

    def __init__(self, pattern: Callable[[], Pattern]) -> None:
        super().__init__("changes of its tempo")
        self._pattern = pattern
        self.setPlaceholderText("90 from beat 5")
        self.setToolTip("Other tempos within a round: 90 from beat 5; 100 from beat 9")

    @override
    def take(self, text: str) -> None:
        self.chosen.emit(parse_tempo_steps(text, self._pattern()))
        self.write()

    @override
    def write(self) -> None:
        self.setText(tempo_steps_text(self._pattern()))
        self.shown()
