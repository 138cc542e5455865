"""What is given to the player while it plays, and how soon that is heard."""

import time

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

    def give(self, given: Input) -> None:
        """Give a pad or a value something to do."""
        self._number += 1
        self._given_at[self._number] = time.monotonic()
        self._link.send(Give(given, self._number))

    def took(self, number: int, until_heard: float | None) -> None:
        """It was answered, and is heard in so many seconds, if that can be known."""
        sent = self._given_at.pop(number, None)
        self._given_at = {n: at for n, at in self._given_at.items() if n > number}
        if sent is not None and until_heard is not None:
            self.answered.emit(time.monotonic() + max(0.0, until_heard) - sent)

    def be_quick(self, *, on: bool) -> None:
        """Hand over little ahead while pads are at hand, so that they are soon heard."""
        if on != self._quick:
            self._quick = on
            self._link.send(Quick(on))

    def player_began(self) -> None:
        """Tell a new player what the last one knew."""
        if self._quick:
            self._link.send(Quick(on=True))
