"""Slow work in worker processes, with progress and cancel, and its result back in the window."""

import multiprocessing
import os
import time
from collections import deque
from collections.abc import Callable, MutableSequence
from concurrent.futures import CancelledError, Future, wait
from functools import partial
from typing import TYPE_CHECKING, NamedTuple, TypeVar, TypeVarTuple, Unpack, cast

from PySide6.QtCore import QObject, QTimer

from cicada.errors import CicadaError
from cicada.jobs.worker import FIELDS, begin_worker, do
from cicada.window.state.beside import Inbox, Post

if TYPE_CHECKING:
    from pebble import ProcessPool

R = TypeVar("R")
Ts = TypeVarTuple("Ts")
Refused = Callable[[str], None]
Shared = MutableSequence[float]

TICK = 100
# A decoder that has said nothing for so long hangs; one asked to stop has so long to do so.
STALLED = 4.5
GRACE = 0.6
DIED = "the worker that was at it has died; the file may be damaged, try another one"
HANGS = "decoding it does not get on; the file is damaged, export it again"
STOPPED = "stopped"
FAULT = "it could not be done, by a mistake in Cicada itself; please report it"


class _Started(NamedTuple):
    """Work under way: what tells of its end, and what then takes its result."""

    future: "Future[object]"
    take: Callable[[], Callable[[], None]]


class Job:
    """A piece of work handed in. ``share`` is how much of it is done, ``what`` its name."""

    def __init__(
        self,
        what: str,
        start: Callable[["ProcessPool", int], _Started],
        failed: Refused,
        *,
        watched: bool,
    ) -> None:
        self.what = what
        self.start, self.failed, self.watched = start, failed, watched
        self.share = 0.0
        self.cancelled = False
        self.started: _Started | None = None
        self.slot = self.number = -1
        self.beats = 0.0
        self.since = 0.0

    def cancel(self) -> None:
        """Stop it; ``failed`` follows."""
        self.cancelled = True


def start_workers(count: int) -> tuple["ProcessPool", Shared]:
    """A pool of fresh interpreters, and what they share: for each ``FIELDS`` numbers."""
    # Not at the top: it is not needed for the first picture of the window.
    from pebble import ProcessPool

    context = multiprocessing.get_context("spawn")
    shared = context.Array("d", FIELDS * count, lock=False)
    pool = ProcessPool(count, initializer=begin_worker, initargs=(shared,), context=context)
    return pool, shared


def stop_workers(pool: "ProcessPool") -> None:
    """End a pool with all that is under way."""
    pool.stop()  # type: ignore[no-untyped-call] # its authors have left it so
    pool.join()


def _tell(post: Post, number: int, _: "Future[object]") -> None:
    """Hand the end of a job over to the window's thread."""
    post(number)


class Jobs(QObject):
    """Workers, made when first needed; each job that dies or hangs is one that failed."""

    def __init__(self) -> None:
        super().__init__()
        self.workers = max(1, min(4, os.cpu_count() or 1))
        self._workers: tuple[ProcessPool, Shared] | None = None
        self._waiting: deque[Job] = deque()
        self._at_it: list[Job] = []
        self._number = 0
        self._inbox = Inbox(self._ended)
        self._timer = QTimer(self)
        self._timer.setInterval(TICK)
        self._timer.timeout.connect(self._look)

    @property
    def running(self) -> int:
        """How many jobs are under way or wait."""
        return len(self._waiting) + len(self._at_it)

    def run(
        self,
        work: Callable[[Unpack[Ts]], R],
        *arguments: *Ts,
        done: Callable[[R], None],
        failed: Refused,
        watched: bool = False,
    ) -> Job:
        """Have ``work`` done; then call ``done`` with its result or ``failed`` with a sentence.

        A ``watched`` one that stops saying how far it is counts as hanging.
        """

        def start(pool: "ProcessPool", slot: int) -> _Started:
            future: Future[R] = pool.schedule(do, args=(slot, work, arguments))

            def take() -> Callable[[], None]:
                result = future.result()
                return lambda: done(result)

            return _Started(cast("Future[object]", future), take)

        job = Job(work.__name__, start, failed, watched=watched)
        self._waiting.append(job)
        self._begin()
        return job

    def _begin(self) -> None:
        while self._waiting and len(self._at_it) < self.workers:
            job = self._waiting.popleft()
            used = {other.slot for other in self._at_it}
            job.slot = next(slot for slot in range(self.workers) if slot not in used)
            at = job.slot * FIELDS
            if self._workers is None:
                self._workers = start_workers(self.workers)
            pool, shared = self._workers
            shared[at : at + FIELDS] = [0.0] * FIELDS
            self._at_it.append(job)
            job.started = job.start(pool, job.slot)
            self._number += 1
            job.number = self._number
            job.started.future.add_done_callback(partial(_tell, self._inbox.post, job.number))
        if self._at_it and not self._timer.isActive():
            self._timer.start()

    def _ended(self, number: int) -> None:
        for job in [job for job in self._at_it if job.number == number]:
            self._finish(job)

    def _look(self) -> None:
        """See how far each is; end those that hang or do not stop."""
        now = time.monotonic()
        for job in [job for job in self._waiting if job.cancelled]:
            self._waiting.remove(job)
            job.failed(STOPPED)
        shared = self._workers[1] if self._workers is not None else []
        for job in self._at_it:
            at = job.slot * FIELDS
            share, beats = shared[at], shared[at + 1]
            job.share = share
            if job.cancelled and not shared[at + 2]:
                shared[at + 2] = 1.0
                job.since = now
            if beats != job.beats and not job.cancelled:
                job.beats, job.since = beats, now
            silent = now - job.since
            hangs = job.watched and job.beats and silent > STALLED
            if job.started is not None and (hangs or (job.cancelled and silent > GRACE)):
                job.started.future.cancel()
        if not self._at_it:
            self._timer.stop()

    def _finish(self, job: Job) -> None:
        self._at_it.remove(job)
        from pebble import ProcessExpired

        assert job.started is not None
        sentence, go_on = "", _nothing
        try:
            go_on = job.started.take()
        except CancelledError:
            sentence = STOPPED if job.cancelled else HANGS
        except ProcessExpired:
            sentence = DIED
        except CicadaError as error:
            sentence = str(error)
        except Exception:
            # A mistake of ours: said, so that nobody waits for it, and not swallowed.
            self._begin()
            job.failed(FAULT)
            raise
        self._begin()
        if sentence:
            job.failed(sentence)
        else:
            go_on()

    def close(self) -> None:
        """Stop the workers; what they write they may end or take back."""
        self._timer.stop()
        self._waiting.clear()
        under_way, self._at_it = self._at_it, []
        if self._workers is not None:
            pool, shared = self._workers
            self._workers = None
            for job in under_way:
                shared[job.slot * FIELDS + 2] = 1.0
            wait([job.started.future for job in under_way if job.started is not None], GRACE)
            stop_workers(pool)
        self._inbox.close()


def _nothing() -> None:
    """What follows a job that has failed."""
