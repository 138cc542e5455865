"""The sound server's outputs, by the PulseAudio protocol, which PipeWire speaks too.

The server is asked how long what was handed over takes to be audible, to a millisecond, which
PortAudio does not know: measured against a null sink's recording, its figure was 30 ms short.
"""

import ctypes
import time

from typing_extensions import override

from cicada.core.arrays import Block
from cicada.errors import CicadaError
from cicada.playback.messages import Device
from cicada.playback.output import LATENCY, LOW, AudioOutput, OutputFailed

# Sample frames, and fewer where little is handed over ahead.
PORTION, QUICK_PORTION = 512, 240
FLOAT32LE = 5
_PLAYBACK = 1
LEAVE = 2**32 - 1


class Format(ctypes.Structure):
    """What a stream's samples are (``pa_sample_spec``)."""

    _fields_ = (("format", ctypes.c_int), ("rate", ctypes.c_uint32), ("channels", ctypes.c_uint8))


class Buffer(ctypes.Structure):
    """How much a stream holds, in bytes (``pa_buffer_attr``)."""

    _fields_ = tuple(
        (name, ctypes.c_uint32) for name in ("maxlength", "tlength", "prebuf", "minreq", "fragsize")
    )


def simple_library(failed: type[CicadaError]) -> ctypes.CDLL:
    """The library that speaks to the server; raises ``failed`` if it is not installed."""
    try:
        library = ctypes.CDLL("libpulse-simple.so.0")
    except OSError:
        raise failed("there is no sound server", remedy="start one") from None
    library.pa_simple_new.restype = ctypes.c_void_p
    library.pa_simple_get_latency.restype = ctypes.c_uint64
    return library


class ServerOutput(AudioOutput):
    """A sink of the sound server; ``OutputFailed`` if there is no server, or no such sink."""

    real = shared = True

    def __init__(self, rate: int, name: str = "", latency: float = LATENCY) -> None:
        """An empty ``name`` leaves the choice to the server."""
        self.rate, self.name, self.missed = rate, name, 0
        self._latency = latency
        self._lib = simple_library(OutputFailed)
        self._error = ctypes.c_int()
        shape = Format(FLOAT32LE, rate, 2)
        # In small portions: PipeWire would else ask for several blocks at a time, in bursts.
        portion = QUICK_PORTION if latency < LATENCY else PORTION
        room = Buffer(LEAVE, int(latency * rate) * 8, LEAVE, portion * 8, LEAVE)
        made = self._lib.pa_simple_new(
            None, b"Cicada", _PLAYBACK, name.encode() or None, b"film", ctypes.byref(shape), None,
            ctypes.byref(room), ctypes.byref(self._error),
        )  # fmt: skip
        if not made:
            raise OutputFailed("the sound server does not answer", remedy="start it")
        self._stream: ctypes.c_void_p | None = ctypes.c_void_p(made)
        # When what was handed over so far will have been heard, and how many sample frames more
        # the server waits for before anything is.
        self._over, self._wanting = 0.0, int(latency * rate)

    @override
    def write(self, block: Block) -> None:
        if self._wanting <= 0 and time.monotonic() > self._over:
            self.missed += 1
            self._wanting = int(self._latency * self.rate)
        wrong = self._lib.pa_simple_write(
            self._stream,
            block.ctypes.data_as(ctypes.c_void_p),
            ctypes.c_size_t(block.nbytes),
            ctypes.byref(self._error),
        )
        if wrong:
            raise OutputFailed("the sound device has gone", remedy="connect it again")
        self._wanting -= len(block)
        self._over = time.monotonic() + self.delay()

    @override
    def delay(self) -> float:
        taken = self._lib.pa_simple_get_latency(self._stream, ctypes.byref(self._error))
        return float(taken) / 1e6

    @override
    def rest(self) -> float:
        return max(0.0, self.delay() - LOW * self._latency)

    @override
    def close(self) -> None:
        if self._stream is not None:
            self._lib.pa_simple_free(self._stream)
            self._stream = None


class Sinks:
    """The sinks of the sound server. Without a server there are none."""

    def __init__(self) -> None:
        self._server: object = None

    def there(self) -> tuple[Device, ...]:
        """All of them now, by their names."""
        import pulsectl

        try:
            if self._server is None:
                server = pulsectl.Pulse("Cicada's list of devices", connect=False)
                server.connect(autospawn=False, timeout=0.5)
                self._server = server
            found = self._server.sink_list()  # type: ignore[attr-defined]
            chosen = self._server.server_info().default_sink_name  # type: ignore[attr-defined]
        except (pulsectl.PulseError, OSError):
            self.close()
            return ()
        return tuple(
            sorted(Device(sink.name, sink.description, sink.name == chosen) for sink in found)
        )

    def close(self) -> None:
        """Leave the server."""
        if self._server is not None:
            self._server.close()  # type: ignore[attr-defined]
            self._server = None
