"""The output that is played to: opened anew when it fails, another is chosen, or it is back."""

from collections.abc import Callable
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from cicada.playback.messages import Device, Devices
from cicada.playback.output import AudioOutput, OutputFailed

# Seconds of sound between two looks at which devices there are.
LOOK = 1.5


class Ports(NamedTuple):
    """Where outputs come from: ``open`` one by name, ``there`` are those there are."""

    open: Callable[[str], AudioOutput]
    there: Callable[[], tuple[Device, ...]]


class Port:
    """One output at a time; without ``ports`` always the one it began with."""

    def __init__(
        self, output: AudioOutput, ports: Ports | None, tell: Callable[[Devices], object]
    ) -> None:
        """``tell`` is called with the devices there are, and which is used, where that changed."""
        self.output = output
        self._ports, self._tell = ports, tell
        self._wanted = ""
        self._told: Devices | None = None
        # Sample frames written since the last look.
        self._since = 0

    def write(self, block: NDArray[np.float32]) -> None:
        """Play a block, shape (2, frames); ``OutputFailed`` only where there is no other output."""
        try:
            self.output.write(np.ascontiguousarray(block.T))
        except OutputFailed as failure:
            if self._ports is None:
                raise
            self._open(self._ports, failure)
        self._since += block.shape[1]
        if self._ports is not None and self._since > LOOK * self.output.rate:
            self._look(self._ports)

    def use(self, name: str) -> None:
        """Play to the device of that name as long as it is there ("": the system's choice)."""
        self._wanted = name
        if self._ports is not None and name != self.output.name:
            self._open(self._ports, None)

    def _open(self, ports: Ports, failure: OutputFailed | None) -> None:
        """Go on with the device wanted, another one, or in silence."""
        self.output.close()
        self.output = ports.open(self._wanted)
        self._look(ports, failure)

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
            self.output.close()
            self.output = ports.open(self._wanted)
        out = self.output
        default = next((device.name for device in there if device.default), "")
        used = (out.name or default) if out.real else ""
        found = Devices(there, used, "" if out.real else out.name)
        if found != self._told:
            self._told = found
            self._tell(found)
