"""The recorder in a process of its own, and the window's end of it.

It is begun when somebody wants to record, and ends with the window; a take is on disk as it comes.
"""

import multiprocessing
import sys
import threading
import time
from contextlib import suppress
from multiprocessing.connection import Connection
from multiprocessing.context import SpawnContext
from multiprocessing.sharedctypes import SynchronizedArray
from pathlib import Path
from queue import Empty, SimpleQueue
from typing import Any

import msgspec

from cicada.errors import CicadaError
from cicada.media.parent import end_with_window, start_alone
from cicada.playback.input import LOOK, AudioInput, SimulatedInput
from cicada.playback.priority import ask_for_priority
from cicada.playback.recorder import (
    Begin,
    Close,
    End,
    Find,
    ForgetPeaks,
    Inputs,
    Leave,
    Open,
    Opened,
    Recorder,
    Report,
    Standing,
    Told,
)

_ENCODER = msgspec.msgpack.Encoder()
_TOLD = msgspec.msgpack.Decoder(Told)
_REPORTS = msgspec.msgpack.Decoder(Report)
NOWHERE = Standing(0, 0.0, 0, 0.0, 0.0, 0.0, 0, -1, 0.0)
# Seconds between two looks at what is told while nothing is read.
_IDLE = 0.05
_SWITCH = 0.0005


class Desk:
    """Does what it is told with at most one input at a time."""

    def __init__(self, reports: "SimpleQueue[Report]") -> None:
        self.running = True
        self.recorder: Recorder | None = None
        self._reports = reports

    def do(self, message: Told) -> None:
        """Do as told."""
        match message, self.recorder:
            case Open(), _:
                self._close()
                self._open(message)
            case ((Close() | Leave()), _):
                self._close()
                self.running = not isinstance(message, Leave)
            case Begin(), Recorder() as recorder:
                recorder.begin(message)
            case End(), Recorder() as recorder:
                recorder.end(message)
            case Find(), Recorder() as recorder:
                recorder.find(message)
            case ForgetPeaks(), Recorder() as recorder:
                recorder.forget_peaks()

    def _open(self, message: Open) -> None:
        try:
            source = _opened(message)
        except CicadaError as error:
            self._reports.put(Opened(trouble=str(error)))
            return
        columns = tuple(number for number in message.columns if number < source.channels) or (0,)
        self.recorder = Recorder(source, columns, self._reports.put, time.monotonic, message.folder)
        self._reports.put(Opened(source.rate))

    def _close(self) -> None:
        if self.recorder is not None:
            self.recorder.close()
            self.recorder = None

    def step(self) -> Standing:
        """Read a portion if there is an input; where it stands."""
        if self.recorder is None:
            time.sleep(_IDLE)
            return NOWHERE
        self.recorder.step()
        standing = self.recorder.standing()
        if not self.recorder.open:
            self.recorder = None
        return standing


def _opened(message: Open) -> AudioInput:
    if message.simulated:
        return SimulatedInput(Path(message.device.name))
    from cicada.playback.server_input import ServerInput

    return ServerInput(message.device)


def run_recorder(pipe: Connection, shared: "SynchronizedArray[float]") -> None:
    """The recorder's process: read and write until told to end or the window is gone."""
    sys.setswitchinterval(_SWITCH)
    end_with_window()
    told: SimpleQueue[Told] = SimpleQueue()
    reports: SimpleQueue[Report] = SimpleQueue()
    threading.Thread(target=_hear, args=(pipe, told), daemon=True).start()
    threading.Thread(target=_list_inputs, args=(reports,), daemon=True).start()
    ask_for_priority([])
    desk = Desk(reports)
    while desk.running:
        with suppress(Empty):
            while desk.running:
                desk.do(told.get_nowait())
        if desk.running:
            standing = desk.step()
            with shared.get_lock():
                shared[:] = [float(value) for value in standing]
        with suppress(Empty):
            while True:
                # A window that is gone reads nothing more; the next look at the pipe ends this.
                with suppress(OSError):
                    pipe.send_bytes(_ENCODER.encode(reports.get_nowait()))


def _hear(pipe: Connection, told: "SimpleQueue[Told]") -> None:
    try:
        while True:
            told.put(_TOLD.decode(pipe.recv_bytes()))
    except (EOFError, OSError, msgspec.MsgspecError):
        told.put(Leave())


def _list_inputs(reports: "SimpleQueue[Report]") -> None:
    from cicada.playback.server_input import Sources

    sources, before = Sources(), None
    while True:
        there = sources.there()
        if there != before:
            reports.put(Inputs(there))
            before = there
        time.sleep(2 * LOOK)


class RecorderProcess:
    """The window's end: ``send`` messages, read ``standing`` and ``reports``."""

    def __init__(self) -> None:
        context: SpawnContext = multiprocessing.get_context("spawn")
        self._shared: Any = context.Array("d", [float(value) for value in NOWHERE])
        self._pipe, theirs = context.Pipe()
        self._process = context.Process(
            target=run_recorder, args=(theirs, self._shared), daemon=True, name="cicada-recorder"
        )
        start_alone(self._process)
        theirs.close()

    @property
    def alive(self) -> bool:
        """Whether the process is there."""
        return self._process.is_alive()

    @property
    def pid(self) -> int:
        """The process's number."""
        return self._process.pid or 0

    def send(self, message: Told) -> bool:
        """Tell the recorder; whether it is there to hear."""
        with suppress(OSError, ValueError):
            self._pipe.send_bytes(_ENCODER.encode(message))
        return self.alive

    def standing(self) -> Standing:
        """Where it was when it last said so."""
        with self._shared.get_lock():
            at, zero, rate, left, right, held, clipped, kept, room = list(self._shared)
        return Standing(
            int(at), zero, int(rate), left, right, held, int(clipped), int(kept), room
        )  # fmt: skip

    def reports(self) -> list[Report]:
        """What it has had to say since it was asked last."""
        found: list[Report] = []
        with suppress(OSError, EOFError):
            while self._pipe.poll():
                found.append(_REPORTS.decode(self._pipe.recv_bytes()))
        return found

    def close(self) -> None:
        """End the process; a take under way stays on disk."""
        self.send(Leave())
        self._process.join(2.0)
        if self._process.is_alive():
            self._process.kill()
            self._process.join()
        self._pipe.close()
        self._process.close()
