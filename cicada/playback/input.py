"""What is recorded from: a protocol, and a sound file that plays as if it were a microphone."""

import time
from collections.abc import Callable, Iterator
from contextlib import ExitStack, suppress
from pathlib import Path
from typing import NamedTuple, Protocol

import numpy as np
from typing_extensions import override

from cicada.core.arrays import Block
from cicada.errors import BadSound, CicadaError

# Seconds between two looks at which inputs there are, and where a stream comes from.
LOOK = 0.5
# Readings a second.
PORTIONS = 100


class InputFailed(CicadaError):
    """The input is not there, or has gone."""


class InputDevice(NamedTuple):
    """An input: its name for the system and for people, and what it gives.

    ``places`` says for the server what each channel is; a ``loop`` is what an output plays.
    """

    name: str
    title: str
    rate: int
    channels: int
    places: tuple[int, ...] = ()
    loop: bool = False
    default: bool = False


class Attached(NamedTuple):
    """Whether what is read is from the input asked for; up to sample ``sure`` it was."""

    there: bool
    sure: int


class AudioInput(Protocol):
    """Somewhere samples come from, at its own ``rate``."""

    rate: int
    channels: int

    def read(self) -> Block:
        """The next samples, shape (n, channels); waits for them. Raises ``InputFailed``."""

    def delay(self) -> float:
        """Seconds since the sample read last was made."""

    def attached(self) -> Attached:
        """Where what is read comes from."""

    def close(self) -> None:
        """Let go of it."""


class SimulatedInput(AudioInput):
    """Gives a sound file at the speed of time, and then silence."""

    def __init__(
        self,
        path: Path,
        clock: Callable[[], float] = time.monotonic,
        sleep: Callable[[float], None] = time.sleep,
    ) -> None:
        """Raises ``BadSound`` if the file cannot be read."""
        from cicada.media.decode import opened

        self._open = ExitStack()
        file = self._open.enter_context(opened(path))
        self.rate, self.channels = file.info.rate, file.info.channels
        self._clock, self._sleep = clock, sleep
        self._blocks: Iterator[Block] = iter(file.blocks())
        self._left = np.zeros((0, self.channels), np.float32)
        self._read = 0
        self._began = clock()

    @override
    def read(self) -> Block:
        count = self.rate // PORTIONS
        while len(self._left) < count:
            self._left = np.concatenate((self._left, self._more(count)))
        block, self._left = self._left[:count], self._left[count:]
        self._read += count
        ahead = self._began + self._read / self.rate - self._clock()
        if ahead > 0:
            self._sleep(ahead)
        return block

    def _more(self, count: int) -> Block:
        with suppress(BadSound):
            for block in self._blocks:
                return block
        return np.zeros((count, self.channels), np.float32)

    @override
    def delay(self) -> float:
        return self._clock() - self._began - self._read / self.rate

    @override
    def attached(self) -> Attached:
        return Attached(there=True, sure=self._read)

    @override
    def close(self) -> None:
        self._open.close()


def device_of_file(path: Path) -> InputDevice:
    """The simulated input that plays a file; raises ``BadSound``."""
    from cicada.media.decode import describe

    info = describe(path)
    return InputDevice(str(path), f"{path.name}, as if it were a microphone",
                       info.rate, info.channels)  # fmt: skip
