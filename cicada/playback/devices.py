"""The output that is played to: opened anew when it fails, another is chosen, or it is back."""

from collections.abc import Callable
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from cicada.playback.messages import Buffered, Device, Devices
from cicada.playback.output import LATENCY, QUICK, AudioOutput, OutputFailed

# Seconds of sound between two looks at which devices there are.
LOOK = 1.5
# Seconds handed over ahead at most, where a hole has shown that the usual are too few; and after
# which without another hole they may be fewer again.
LONGEST, CALM = 0.6, 60.0
# Seconds after which an output that goes on missing blocks is opened anew: in some servers a stream
# that has once run dry is never filled again as far as was asked.
DRY = 2.0


class Ports(NamedTuple):
    """Where outputs come from: ``open`` one by name and latency; those there are."""

    open: Callable[[str, float], AudioOutput]
    there: Callable[[], tuple[Device, ...]]


class Port:
    """One output at a time; without ``ports`` always the one it began with."""

    def __init__(
        self,
        output: AudioOutput,
        ports: Ports | None,
        tell: Callable[[Devices | Buffered], object],
    ) -> None:
        """``tell`` is called with the devices there are, and which is used, where that changed.

        It is called, too, where more or less is handed over ahead than before.
        """
        self.output = output
        self._ports, self._tell = ports, tell
        self._wanted = ""
        self._told: Devices | None = None
        # Sample frames since the last look, since the last hole, since anything sounded, and since
        # this output was opened.
        self._since = self._calm = self._idle = self._fresh = 0
        # Seconds handed over ahead, and how few are enough as long as there is no hole.
        self._latency = self._enough = LATENCY
        self._anew = False
        # The holes of the outputs before this one.
        self._missed = 0

    @property
    def missed(self) -> int:
        """The blocks that came too late, of all outputs."""
        return self._missed + self.output.missed

    def write(self, block: NDArray[np.float32], *, idle: bool = False) -> None:
        """Play a block, shape (2, frames); ``OutputFailed`` only where there is no other output.

        ``idle`` says that nothing plays.
        """
        # A hole is before this block: in what was handed over before it.
        missed, in_silence = self.missed, self._idle > 0
        self._hand_over(block)
        count, rate = block.shape[1], self.output.rate
        self._since += count
        self._calm = 0 if self.missed > missed else self._calm + count
        self._idle = self._idle + count if idle else 0
        self._fresh += count
        if self._ports is None:
            return
        may = self._latency < LONGEST or self._fresh > DRY * rate
        if self.missed > missed and may and not in_silence:
            # What was waiting to be heard is over, so nothing is lost by opening it anew.
            self._reopen(self._ports, min(2 * self._latency, LONGEST), missed=True)
            self._hand_over(block)
        elif idle and (self._anew or self._may_be_fewer(rate)):
            self._reopen(self._ports, self._enough)
        if self._since > LOOK * rate:
            self._look(self._ports)

    def _may_be_fewer(self, rate: int) -> bool:
        calm = self._calm > CALM * rate and self._idle > LONGEST * rate
        return self._latency > self._enough and calm

    @property
    def quick(self) -> bool:
        """Whether little is handed over ahead."""
        return self._latency < LATENCY

    def be_quick(self, *, on: bool) -> None:
        """Hand over little ahead, or as much as is safe, as soon as nothing plays."""
        enough = QUICK if on else LATENCY
        self._anew = self._anew or enough != self._enough
        self._enough = enough

    def _hand_over(self, block: NDArray[np.float32]) -> None:
        try:
            self.output.write(np.ascontiguousarray(block.T))
        except OutputFailed as failure:
            if self._ports is None:
                raise
            self._open(self._ports, failure)

    def use(self, name: str) -> None:
        """Play to the device of that name as long as it is there ("": the system's choice)."""
        self._wanted = name
        if self._ports is not None and name != self.output.name:
            self._open(self._ports, None)

    def _open(self, ports: Ports, failure: OutputFailed | None) -> None:
        """Go on with the device wanted, another one, or in silence."""
        self._reopen(ports, self._latency)
        self._look(ports, failure)

    def _reopen(self, ports: Ports, latency: float, *, missed: bool = False) -> None:
        if latency != self._latency:
            self._tell(Buffered(latency, missed))
        self._missed, self._latency, self._fresh, self._anew = self.missed, latency, 0, False
        before = self.output
        if not before.shared:
            before.close()
        # A server's sink that nothing plays to sleeps for up to two seconds: it is kept awake.
        self.output = ports.open(self._wanted, latency)
        if before.shared:
            before.close()

    def _look(self, ports: Ports, failure: OutputFailed | None = None) -> None:
        """See which devices there are; take the one wanted if it is back."""
        self._since = 0
        there = ports.there()
        names = {device.name for device in there}
        back = self._wanted in names and self.output.name != self._wanted
        # A server moves what played to a device that has gone to another one, and does not say so.
        moved = bool(there and self.output.real and self.output.name) and (
            self.output.name not in names
        )
        if failure is None and (back or moved or (there and not self.output.real)):
            self._reopen(ports, self._latency)
        out = self.output
        default = next((device.name for device in there if device.default), "")
        used = (out.name or default) if out.real else ""
        found = Devices(there, used, "" if out.real else out.name)
        if found != self._told:
            self._told = found
            self._tell(found)
