"""What goes wrong while something plays, and what is said of it."""

import time
from collections import deque
from collections.abc import Callable

# So many players that end within so many seconds are enough.
DEATHS, DYING = 3, 10.0


class Outages:
    """Counts holes and players that are gone; ``tell`` is called with a sentence."""

    def __init__(self, tell: Callable[[str], None]) -> None:
        self._tell = tell
        self._deaths: deque[float] = deque(maxlen=DEATHS)
        # The holes there were before, and whether one has been said since something began to play.
        self._missed, self._said = 0, False

    def begins(self) -> None:
        """Something begins to play."""
        self._said = False

    def missed(self, number: int, *, sounding: bool) -> None:
        """So many blocks were not there in time: said once, while something plays."""
        if number > self._missed and sounding and not self._said:
            self._said = True
            self._tell("The sound had a hole: this machine is busy with other things.")
        self._missed = number

    def died(self) -> bool:
        """The player is gone; whether another one is to be started in its place."""
        self._deaths.append(time.monotonic())
        if len(self._deaths) == DEATHS and self._deaths[-1] - self._deaths[0] < DYING:
            self._tell("Nothing can be heard: what plays the sound ends again and again.")
            return False
        self._tell("What plays the sound had ended, and was started again.")
        return True
