"""The window's end of the player: what is asked of one, and the one in use."""

from collections import deque
from typing import Protocol

from cicada.playback.messages import Message, Report, Status
from cicada.playback.meters import Reading


class PlayerLink(Protocol):
    """The window's end of a player, in its process or, in tests, in this one."""

    rate: int

    @property
    def alive(self) -> bool:
        """Whether the player is there."""

    def send(self, message: Message) -> bool:
        """Tell it something; whether it is there to hear."""

    def status(self) -> Status:
        """Where it is."""

    def reports(self) -> list[Report]:
        """What it has had to say since it was asked last."""

    def readings(self) -> list[Reading]:
        """What came out since it was asked last, also what will only be audible in a while."""

    def close(self) -> None:
        """End it."""


class PlayerMaker(Protocol):
    """Starts a player at a sample rate."""

    def __call__(self, rate: int) -> PlayerLink:
        """A player at that rate."""


class Link:
    """The player in use: started when first needed, and anew at another rate or if it has died."""

    def __init__(self, make: PlayerMaker) -> None:
        self._make = make
        self._player: PlayerLink | None = None
        self._soon: deque[Reading] = deque()

    @property
    def there(self) -> bool:
        """Whether a player was started."""
        return self._player is not None

    def fits(self, rate: int) -> bool:
        """Whether the player is alive and plays at a rate."""
        return self._player is not None and self._player.alive and self._player.rate == rate

    @property
    def died(self) -> bool:
        """Whether a player was started and is gone."""
        return self._player is not None and not self._player.alive

    def begin(self, rate: int) -> None:
        """Start a player in place of the one there is."""
        self.close()
        self._player = self._make(rate)
        self._soon.clear()

    def send(self, message: Message) -> None:
        """Tell the player, if there is one."""
        if self._player is not None:
            self._player.send(message)

    def status(self) -> Status | None:
        """Where the player is; None if there is none."""
        return None if self._player is None else self._player.status()

    def reports(self) -> list[Report]:
        """What it has had to say since it was asked last."""
        return [] if self._player is None else self._player.reports()

    def readings(self, audible: float) -> list[Reading]:
        """What became audible since it was asked last.

        ``audible`` are the samples handed over up to what is audible now.
        """
        if self._player is not None:
            self._soon.extend(self._player.readings())
        found = []
        while self._soon and self._soon[0].written < audible:
            found.append(self._soon.popleft())
        return found

    def close(self) -> None:
        """End the player."""
        if self._player is not None:
            self._player.close()
            self._player = None
