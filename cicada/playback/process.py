"""The player in a process of its own, and the window's end of it.

Messages go down a pipe, the position comes back through shared memory, sound is read from the
memory-mapped cache: the window can stall without a gap in the sound.
"""

import ctypes
import gc
import multiprocessing
import sys
import threading
import time
from concurrent.futures import ThreadPoolExecutor
from contextlib import suppress
from multiprocessing.connection import Connection
from multiprocessing.context import SpawnContext
from multiprocessing.sharedctypes import SynchronizedArray
from pathlib import Path
from queue import Empty, SimpleQueue
from typing import Any

import msgspec

from cicada.media.cache import SoundCache
from cicada.media.parent import end_with_window, start_alone
from cicada.playback.devices import LOOK, Ports
from cicada.playback.messages import IDLE, Device, Message, Quit, Report, Status
from cicada.playback.meters import SIZE, Reading, Ring
from cicada.playback.output import LATENCY, AudioOutput, OutputFailed, SilentOutput
from cicada.playback.player import BLOCK, Player
from cicada.playback.priority import ask_for_priority

_ENCODER = msgspec.msgpack.Encoder()
_DECODER = msgspec.msgpack.Decoder(Message)
_REPORTS = msgspec.msgpack.Decoder(Report)
_FIELDS = len(Status._fields)
# Two turns at most of another thread between two of the mixer's.
_SWITCH = 0.0001
# Going over all objects for garbage holds the mixer up for 100 ms with a large film; plans and
# mixers leave none.
_YOUNG_ALONE = 10_000, 1_000_000, 1_000_000


class Outputs:
    """Opens the outputs of this machine at a rate, and knows which there are.

    A thread asks the server for them, for one that does not answer must not hold up the mixer.
    """

    def __init__(self, rate: int) -> None:
        self._rate = rate
        self._failed = False
        self._there: tuple[Device, ...] = ()
        threading.Thread(target=self._look, name="cicada-devices", daemon=True).start()

    def _look(self) -> None:
        from cicada.playback.server import Sinks

        sinks = Sinks()
        while True:
            self._there = sinks.there()
            time.sleep(LOOK)

    def open(self, name: str = "", latency: float = LATENCY) -> AudioOutput:
        """The device of that name, else the system's own choice, else the silent stand-in.

        ``latency`` are the seconds of sound handed over ahead.
        """
        from cicada.playback.server import ServerOutput

        for wanted in (name, "") if name else ("",):
            with suppress(OutputFailed):
                return ServerOutput(self._rate, wanted, latency)
        return self._without_server(latency)

    def _without_server(self, latency: float) -> AudioOutput:
        from cicada.playback.device import DeviceOutput, look_again

        try:
            if self._failed:
                look_again()
            return DeviceOutput(self._rate, BLOCK, latency)
        except OutputFailed as failure:
            self._failed = True
            return SilentOutput(self._rate, failure.problem, latency=latency)

    def there(self) -> tuple[Device, ...]:
        """The devices one can choose among: those of the sound server."""
        return self._there


def run_player(
    messages: Connection,
    shared: "SynchronizedArray[float]",
    metered: "ctypes.Array[ctypes.c_double]",
    rate: int,
    cache: Path,
) -> None:
    """The player's process: mix and write until told to quit or the window is gone."""
    sys.setswitchinterval(_SWITCH)
    gc.set_threshold(*_YOUNG_ALONE)
    end_with_window()
    queue: SimpleQueue[Message] = SimpleQueue()
    receiver = threading.Thread(target=_receive, args=(messages, queue), daemon=True)
    receiver.start()
    outputs = Outputs(rate)
    ports = Ports(outputs.open, outputs.there)
    beside = ThreadPoolExecutor(1, "cicada-preparing")
    preparing = beside.submit(threading.get_native_id).result()
    ask_for_priority([receiver.native_id or 0, preparing])
    ring = Ring(memoryview(metered))
    player = Player(outputs.open(), SoundCache(cache), ports, beside.submit)
    while player.running:
        # Not in the output's own waiting, where a press would be noticed only when it is over.
        with suppress(Empty):
            while player.running:
                player.handle(queue.get(timeout=player.output.rest()))
        if player.running:
            player.step()
            with shared.get_lock():
                shared[:] = [float(value) for value in player.status(time.monotonic())]
            while player.readings:
                ring.write(player.readings.popleft())
            while player.reports:
                # A window that is gone reads nothing more; the next look at the pipe ends this.
                with suppress(OSError):
                    messages.send_bytes(_ENCODER.encode(player.reports.popleft()))


def _receive(messages: Connection, queue: "SimpleQueue[Message]") -> None:
    try:
        while True:
            queue.put(_DECODER.decode(messages.recv_bytes()))
    except (EOFError, OSError, msgspec.MsgspecError):
        # One that hears nothing more ends, and is started again if there is somebody to hear.
        queue.put(Quit())


class PlayerProcess:
    """The window's end: ``send`` messages, read the ``status``.

    Messages are packed and sent by a thread, in their order, for a large film takes a while.
    """

    def __init__(self, rate: int, cache: SoundCache) -> None:
        context: SpawnContext = multiprocessing.get_context("spawn")
        self._shared: Any = context.Array("d", _FIELDS)
        metered = context.RawArray("d", SIZE)
        self._ring = Ring(memoryview(metered))
        ours, theirs = context.Pipe()
        self._pipe = ours
        self.rate = rate
        self._process = context.Process(
            target=run_player,
            args=(theirs, self._shared, metered, rate, cache.folder),
            daemon=True,
            name="cicada-player",
        )
        start_alone(self._process)
        theirs.close()
        self._outbox: SimpleQueue[Message | None] = SimpleQueue()
        self._sender = threading.Thread(target=self._deliver, name="cicada-to-player", daemon=True)
        self._sender.start()

    @property
    def alive(self) -> bool:
        """Whether the process is there."""
        return self._process.is_alive()

    def send(self, message: Message) -> bool:
        """Tell the player; whether it is there to hear."""
        self._outbox.put(message)
        return self.alive

    def _deliver(self) -> None:
        while (message := self._outbox.get()) is not None:
            # One that is gone hears nothing more; whoever asks sees that it is not alive.
            with suppress(OSError, ValueError):
                self._pipe.send_bytes(_ENCODER.encode(message))

    def status(self) -> Status:
        """Where the player was when it last said so."""
        with self._shared.get_lock():
            values = list(self._shared)
        doing, sample, clock, real, rate, plays, pace, missed, written = values
        if not self.alive:
            doing = IDLE
        return Status(
            int(doing), sample, clock, bool(real), int(rate), int(plays), pace, int(missed),
            written,
        )  # fmt: skip

    def readings(self) -> list[Reading]:
        """What came out since it was asked last, also what will only be audible in a while."""
        return list(self._ring.read())

    def reports(self) -> list[Report]:
        """What it has had to say since it was asked last."""
        found: list[Report] = []
        with suppress(OSError, EOFError):
            while self._pipe.poll():
                found.append(_REPORTS.decode(self._pipe.recv_bytes()))
        return found

    def close(self) -> None:
        """End the process."""
        self.send(Quit())
        self._outbox.put(None)
        self._process.join(2.0)
        if self._process.is_alive():
            self._process.kill()
            self._process.join()
        self._sender.join()
        self._pipe.close()
        self._process.close()
