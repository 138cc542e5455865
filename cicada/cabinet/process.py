"""The keeper in a process of its own, and the window's end of it.

It is begun when the cabinet is first looked at, gives way to everything else, and ends with the
window. What it finds is read from the index itself.
"""

import multiprocessing
import os
import threading
import time
from contextlib import suppress
from multiprocessing.connection import Connection
from multiprocessing.context import SpawnContext
from pathlib import Path
from queue import Empty, SimpleQueue

import msgspec
from typing_extensions import override

from cicada.cabinet.index import opened
from cicada.cabinet.keeper import Keeper
from cicada.cabinet.messages import Leave, Progress, Told
from cicada.disk.paths import is_folder
from cicada.media.parent import end_with_window, start_alone

_ENCODER = msgspec.msgpack.Encoder()
_TOLD = msgspec.msgpack.Decoder(Told)
_PROGRESS = msgspec.msgpack.Decoder(Progress)
# Seconds of rest where there is nothing to do, and the niceness of what is in no hurry.
_REST, _NICE = 0.1, 15


def run_keeper(pipe: Connection, file: Path, starter: Path | None) -> None:
    """The keeper's process: keep the index until told to end or the window is gone."""
    end_with_window()
    os.nice(_NICE)
    told: SimpleQueue[Told] = SimpleQueue()
    changes: SimpleQueue[str] = SimpleQueue()
    threading.Thread(target=_hear, args=(pipe, told), daemon=True).start()
    if starter is not None:
        from cicada.synth.starter import make_starter

        with suppress(OSError):
            make_starter(starter)
    index, said = opened(file)
    watching = _Watching(changes)

    def tell(progress: Progress) -> None:
        with suppress(OSError):
            pipe.send_bytes(_ENCODER.encode(msgspec.structs.replace(progress, said=said)))

    keeper = Keeper(index, tell, time.monotonic, watching.watch)
    if starter is not None and is_folder(starter):
        index.add_folder(str(starter))
        keeper.changed(str(starter))
    while keeper.running:
        with suppress(Empty):
            while keeper.running:
                keeper.do(told.get_nowait())
        with suppress(Empty):
            while True:
                keeper.changed(changes.get_nowait())
        if keeper.running:
            time.sleep(0.0 if keeper.step() else _REST)
    watching.close()
    index.close()


def _hear(pipe: Connection, told: "SimpleQueue[Told]") -> None:
    try:
        while True:
            told.put(_TOLD.decode(pipe.recv_bytes()))
    except (EOFError, OSError, msgspec.MsgspecError):
        told.put(Leave())


class _Watching:
    """Hears of changes below folders; where the system tells of none they are looked at in time."""

    def __init__(self, changes: "SimpleQueue[str]") -> None:
        from watchdog.observers import Observer

        self._observer = Observer()
        self._changes = changes
        self._watched: set[str] = set()
        self._observer.start()

    def watch(self, folder: str) -> None:
        """Hear of changes below a folder."""
        from watchdog.events import FileSystemEvent, FileSystemEventHandler

        changes = self._changes

        class Heard(FileSystemEventHandler):
            @override
            def on_any_event(self, event: FileSystemEvent) -> None:
                # Reading a file is an event, too.
                if event.event_type not in ("opened", "closed_no_write"):
                    for path in (event.src_path, getattr(event, "dest_path", "")):
                        changes.put(os.fsdecode(path))

        if folder in self._watched:
            return
        # One that is not there, or too many of them: looked at now and then instead.
        with suppress(OSError):
            self._observer.schedule(Heard(), folder, recursive=True)
            self._watched.add(folder)

    def close(self) -> None:
        """Hear no more."""
        self._observer.stop()
        self._observer.join(2.0)


class KeeperProcess:
    """The window's end: ``send`` messages, read ``progress``."""

    def __init__(self, file: Path, starter: Path | None = None) -> None:
        """``starter`` is where the starter collection stands, or is made if it does not."""
        context: SpawnContext = multiprocessing.get_context("spawn")
        self._pipe, theirs = context.Pipe()
        self._process = context.Process(
            target=run_keeper, args=(theirs, file, starter), daemon=True, name="cicada-keeper"
        )
        start_alone(self._process)
        theirs.close()

    @property
    def alive(self) -> bool:
        """Whether the process is there."""
        return self._process.is_alive()

    def send(self, message: Told) -> None:
        """Tell the keeper."""
        with suppress(OSError, ValueError):
            self._pipe.send_bytes(_ENCODER.encode(message))

    def progress(self) -> Progress | None:
        """The newest it has said; None if nothing since it was asked last."""
        newest = None
        with suppress(OSError, EOFError, msgspec.MsgspecError):
            while self._pipe.poll():
                newest = _PROGRESS.decode(self._pipe.recv_bytes())
        return newest

    def close(self) -> None:
        """End the process."""
        self.send(Leave())
        self._process.join(2.0)
        if self._process.is_alive():
            self._process.kill()
            self._process.join()
        self._pipe.close()
        self._process.close()
