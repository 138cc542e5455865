"""What is given to the player while it plays, and how soon that is heard."""

import time
from collections import deque
from statistics import median

from PySide6.QtCore import QObject, Signal

from cicada.core.answers import Input
from cicada.playback.messages import Give, Quick
from cicada.window.playing.link import Link


class Giving(QObject):
    """Gives the player presses and moves; ``answered`` says how many seconds one took."""

    answered = Signal(float)

    def __init__(self, link: Link) -> None:
        super().__init__()
        self._link = link
        self._quick = False
        # When what was given and has not been answered was, by its number.
        self._number = 0
        self._given_at: dict[int, float] = {}
        # How long it was from samples being made to their being heard, lately.
        self._ahead: deque[float] = deque(maxlen=21)

    def give(self, given: Input, *, timed: bool = True) -> None:
        """Give a pad or a value something to do; how soon it is heard is measured if ``timed``."""
        self._number += 1
        if timed:
            self._given_at[self._number] = time.monotonic()
        self._link.send(Give(given, self._number))

    def took(self, number: int, until_heard: float | None) -> None:
        """It was answered, and is heard in so many seconds, if that can be known."""
        sent = self._given_at.pop(number, None)
        self._given_at = {n: at for n, at in self._given_at.items() if n > number}
        if sent is not None and until_heard is not None:
            self._ahead.append(max(0.0, until_heard))
            self.answered.emit(time.monotonic() + max(0.0, until_heard) - sent)

    @property
    def delay(self) -> float:
        """Seconds from samples being made to their being heard, as it was lately; 0: unknown."""
        return round(median(self._ahead), 4) if self._ahead else 0.0

    def be_quick(self, *, on: bool) -> None:
        """Hand over little ahead while pads are at hand, so that they are soon heard."""
        if on != self._quick:
            self._quick = on
            self._link.send(Quick(on))

    def player_began(self) -> None:
        """Tell a new player what the last one knew."""
        if self._quick:
            self._link.send(Quick(on=True))
