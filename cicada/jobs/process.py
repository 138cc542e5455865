"""A worker process, seen from outside: it can be ended at any time, and costs the job it is at.

Each has a pipe of its own. Where several share one, a worker that is ended as it takes up the next
job takes that along, and nobody ever hears of it.
"""

import multiprocessing
from collections.abc import Callable
from contextlib import suppress
from multiprocessing.connection import Connection
from multiprocessing.context import SpawnProcess
from threading import Lock
from typing import TypeVar, TypeVarTuple, Unpack, cast

from cicada.jobs.worker import FIELDS, serve
from cicada.media.parent import start_alone

R = TypeVar("R")
Ts = TypeVarTuple("Ts")
# Seconds in which a process that is killed is gone, but for one the system holds on to.
LONGEST = 2.0
# Fresh interpreters: a copy of this one would have its threads' locks, but not its threads.
_CONTEXT = multiprocessing.get_context("spawn")


class Died(Exception):
    """The process ended amid a job."""


class WorkerProcess:
    """Begun when it has something to do, and anew after it has ended.

    ``shared`` are the ``FIELDS`` numbers of the job it is at.
    """

    def __init__(self) -> None:
        self.shared = _CONTEXT.Array("d", FIELDS, lock=False)
        self._lock = Lock()
        self._process: SpawnProcess | None = None
        self._pipe: Connection | None = None
        # The job it is at, by its number.
        self._at: int | None = None
        self._tried_again = -1

    def do(self, number: int, work: Callable[[Unpack[Ts]], R], arguments: tuple[*Ts]) -> R:
        """Have a job done and wait for it, in any thread; raises what it raises, or ``Died``."""
        while True:
            pipe = self._begin(number)
            try:
                pipe.send((work, arguments))
                done, result = pipe.recv()
            except (EOFError, OSError):
                ended = self._over(broken=True)
                # One that ended while it had nothing to do is noticed only now.
                if ended or self.shared[1] or number == self._tried_again:
                    raise Died from None
                self._tried_again = number
                continue
            except Exception:
                self._over(broken=True)
                raise
            self._over()
            if not done:
                raise cast("Exception", result)
            return cast("R", result)

    def end(self, number: int) -> None:
        """End the process if it is at that job."""
        with self._lock:
            if self._at == number and self._process is not None:
                self._at = None
                self._process.kill()

    def close(self) -> None:
        """End the process, whatever it is at."""
        with self._lock:
            self._at = None
            self._let_go()

    def _begin(self, number: int) -> Connection:
        with self._lock:
            if self._process is None or self._pipe is None or not self._process.is_alive():
                self._let_go()
                self._pipe, theirs = _CONTEXT.Pipe()
                process = _CONTEXT.Process(
                    target=serve, args=(theirs, self.shared), name="cicada-worker", daemon=True
                )
                start_alone(process)
                # So that the pipe is closed when the process is gone.
                theirs.close()
                self._process = process
            self.shared[:] = [0.0] * FIELDS
            self._at = number
            return self._pipe

    def _over(self, *, broken: bool = False) -> bool:
        """The job is over, one way or another; whether its process was ended meanwhile."""
        with self._lock:
            ended, self._at = self._at is None, None
            if ended or broken:
                self._let_go()
            return ended

    def _let_go(self) -> None:
        if self._process is not None:
            with suppress(OSError):
                self._process.kill()
            self._process.join(LONGEST)
        if self._pipe is not None:
            self._pipe.close()
        self._process = self._pipe = None
