"""The sound server's inputs, by the PulseAudio protocol, which PipeWire speaks too.

A server whose input goes away feeds a stream from another one and says nothing; so it is asked
again and again which input this stream is from.
"""

import ctypes
import os
import threading
from typing import Any
from uuid import uuid4

import numpy as np
from typing_extensions import override

from cicada.core.arrays import Block
from cicada.playback.input import (
    LOOK,
    PORTIONS,
    Attached,
    AudioInput,
    InputDevice,
    InputFailed,
)
from cicada.playback.server import FLOAT32LE, LEAVE, Buffer, Format, simple_library

_RECORD = 2
_PLACES = 32


class _Places(ctypes.Structure):
    _fields_ = (("channels", ctypes.c_uint8), ("map", ctypes.c_int * _PLACES))


class ServerInput(AudioInput):
    """An input of the sound server; ``InputFailed`` if there is none, or no such one."""

    def __init__(self, device: InputDevice) -> None:
        self.rate, self.channels, self._name = device.rate, device.channels, device.name
        self._lib = simple_library(InputFailed)
        self._error = ctypes.c_int()
        self._read = 0
        self._attached = Attached(there=True, sure=0)
        shape = Format(FLOAT32LE, self.rate, self.channels)
        portion = self.rate // PORTIONS
        room = Buffer(LEAVE, LEAVE, LEAVE, LEAVE, portion * 4 * self.channels)
        # With each channel where the input has it, nothing is mixed from one to another.
        places = None
        if len(device.places) == self.channels <= _PLACES:
            places = _Places(self.channels, (ctypes.c_int * _PLACES)(*device.places))
        self._title = f"take {uuid4().hex}"
        made = self._lib.pa_simple_new(
            None, b"Cicada", _RECORD, device.name.encode() or None, self._title.encode(),
            ctypes.byref(shape), None if places is None else ctypes.byref(places),
            ctypes.byref(room), ctypes.byref(self._error),
        )  # fmt: skip
        if not made:
            raise InputFailed(
                "the input cannot be opened", file=device.title, remedy="choose another one"
            )
        self._stream: ctypes.c_void_p | None = ctypes.c_void_p(made)
        self._block = np.zeros((portion, self.channels), np.float32)
        self._over = threading.Event()
        self._watch = threading.Thread(target=self._look, name="cicada-input", daemon=True)
        self._watch.start()

    @override
    def read(self) -> Block:
        block = self._block
        wrong = self._lib.pa_simple_read(
            self._stream,
            block.ctypes.data_as(ctypes.c_void_p),
            ctypes.c_size_t(block.nbytes),
            ctypes.byref(self._error),
        )
        if wrong:
            raise InputFailed("the input has gone", remedy="connect it again")
        self._read += len(block)
        return block.copy()

    @override
    def delay(self) -> float:
        taken = self._lib.pa_simple_get_latency(self._stream, ctypes.byref(self._error))
        return float(taken) / 1e6

    @override
    def attached(self) -> Attached:
        return self._attached

    def _look(self) -> None:
        """See again and again which input the stream is from."""
        import pulsectl

        try:
            with pulsectl.Pulse("Cicada's look at its input", connect=False) as server:
                server.connect(autospawn=False, timeout=0.5)
                while not self._over.wait(LOOK):
                    sure = self._read
                    if not self._from_it(server):
                        self._attached = self._attached._replace(there=False)
                        return
                    self._attached = Attached(there=True, sure=sure)
        except (pulsectl.PulseError, OSError):
            # A server that is gone ends the reading, too.
            return

    def _from_it(self, server: object) -> bool:
        """Whether the stream is from the input asked for; one that is not named may be any."""
        outputs = server.source_output_list()  # type: ignore[attr-defined]
        ours = [x for x in outputs if x.name == self._title]
        if not ours:
            return False
        if not self._name:
            self._name = server.source_info(ours[0].source).name  # type: ignore[attr-defined]
        names = {x.index: x.name for x in server.source_list()}  # type: ignore[attr-defined]
        return names.get(ours[0].source) == self._name

    @override
    def close(self) -> None:
        self._over.set()
        self._watch.join(2.0)
        if self._stream is not None:
            self._lib.pa_simple_free(self._stream)
            self._stream = None


def _keep_rate(source: Any, struct: Any) -> None:  # noqa: ANN401 - of the package's own kinds
    """Copy the rate out of what the server sent, which is gone once it has been read."""
    source.own_rate = int(struct.sample_spec.rate)


class Sources:
    """The inputs of the sound server. Without a server there are none."""

    def __init__(self) -> None:
        self._server: object = None

    def there(self) -> tuple[InputDevice, ...]:
        """All of them now: microphones and the like first, then what outputs play."""
        import pulsectl

        # The place the package has for fields that it does not copy by itself.
        pulsectl.PulseSourceInfo._init_from_struct = _keep_rate  # noqa: SLF001 - see above
        try:
            if self._server is None:
                server = pulsectl.Pulse(f"Cicada's list of inputs {os.getpid()}", connect=False)
                server.connect(autospawn=False, timeout=0.5)
                self._server = server
            found = self._server.source_list()  # type: ignore[attr-defined]
            chosen = self._server.server_info().default_source_name  # type: ignore[attr-defined]
        except (pulsectl.PulseError, OSError):
            self.close()
            return ()
        devices = [
            InputDevice(
                source.name, source.description, source.own_rate,
                source.channel_count, tuple(source.channel_list_raw),
                source.monitor_of_sink != LEAVE, source.name == chosen,
            )
            for source in found
        ]  # fmt: skip
        return tuple(sorted(devices, key=lambda device: (device.loop, device.title, device.name)))

    def close(self) -> None:
        """Leave the server."""
        if self._server is not None:
            self._server.close()  # type: ignore[attr-defined]
            self._server = None
