"""Saying that something went wrong in Cicada itself, once, and what became of it."""

from collections import Counter

from PySide6.QtCore import Signal, qVersion
from PySide6.QtGui import QGuiApplication

from cicada.store.log import Log, versions
from cicada.window.state.guard import Caught, guard
from cicada.window.widgets.strip import Strip
from cicada.window.words.quantities import times_text

# What failed, in words, by the name of the method.
_WHILE = {
    "paint": "drawing a part of the window",
    "mouse": "following the mouse", "wheel": "following the mouse", "enter": "following the mouse",
    "drag": "dragging", "drop": "dropping", "startDrag": "dragging",
    "key": "taking a key", "resize": "fitting the window",
    "close": "closing", "a slot": "doing that", "a thread": "working beside the window",
}  # fmt: skip


def in_words(caught: Caught) -> str:
    """What somebody was doing when it happened."""
    method = caught.what.rpartition(".")[2]
    return next((words for name, words in _WHILE.items() if method.startswith(name)), "working")


def details(all_caught: list[Caught], numbers: Counter[str]) -> str:
    """All there is to be copied and sent: no names, paths or messages of anybody's."""
    lines = [versions(f"Qt {qVersion()}"), f"lately: {', '.join(guard.lately) or 'nothing'}"]
    for caught in all_caught:
        lines.append(f"{caught.kind} in {caught.what} ({numbers[caught.where]} times)")
        lines += [f"  {step}" for step in caught.steps]
    return "\n".join(lines)


class TroubleStrip(Strip):
    """A line over the foot of the window, there while something is to be said."""

    copied = Signal()

    def __init__(self, log: Log) -> None:
        super().__init__("trouble", "What went wrong")
        self._log = log
        self._known: dict[str, Caught] = {}
        self._numbers: Counter[str] = Counter()
        self.copy = self.button("Copy details", self._copy)
        self.away = self.button("Put away", self.hide)

    def say(self, told: list[Caught], *, put_back: bool) -> None:
        """Say what was caught, and whether the last step was taken back for it."""
        for caught in told:
            new = caught.where not in self._known
            self._known.setdefault(caught.where, caught)
            self._numbers[caught.where] += 1
            if new:
                self._log.write(details([caught], self._numbers).splitlines())
        last = told[-1]
        number = self._numbers[last.where]
        again = f" It has happened {times_text(number)}." if number > 1 else ""
        became = (
            "What you did last was taken back; all else is as it was."
            if put_back
            else "Nothing of yours has changed."
        )
        self.words.setText(f"A mistake in Cicada, while {in_words(last)}. {became}{again}")
        self.words.setToolTip("The details say where in Cicada; they hold nothing of yours.")
        self.show()

    def _copy(self) -> None:
        text = details(list(self._known.values()), self._numbers)
        QGuiApplication.clipboard().setText(text)
        self.copied.emit()
