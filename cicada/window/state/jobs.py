"""Slow work in worker processes, with progress and cancel, and its result back in the window."""

import os
import time
from collections import deque
from collections.abc import Callable
from concurrent.futures import Future
from threading import Thread
from typing import NamedTuple, TypeVar, TypeVarTuple, Unpack

from PySide6.QtCore import QObject, QTimer

from cicada.errors import CicadaError
from cicada.jobs.process import Died, WorkerProcess
from cicada.window.state.beside import Inbox, Post, must_be_plain

R = TypeVar("R")
Ts = TypeVarTuple("Ts")
Refused = Callable[[str], None]

TICK = 100
# A decoder that has said nothing for so long hangs; one asked to stop has so long to do so.
STALLED = 4.5
GRACE = 0.6
DIED = "the worker that was at it has died; the file may be damaged, try another one"
HANGS = "decoding it does not get on; the file is damaged, export it again"
STOPPED = "stopped"
FAULT = "it could not be done, by a mistake in Cicada itself; please report it"


class Job:
    """A piece of work handed in. ``share`` is how much of it is done, ``what`` its name."""

    def __init__(self, what: str, start: "Start", failed: Refused, *, watched: bool) -> None:
        self.what = what
        self.start, self.failed, self.watched = start, failed, watched
        self.share = 0.0
        self.cancelled = self.ended = False
        self.worker: WorkerProcess | None = None
        self.under_way: _UnderWay | None = None
        self.number = -1
        self.beats = 0.0
        self.since = 0.0

    def cancel(self) -> None:
        """Stop it; ``failed`` follows."""
        self.cancelled = True


class _UnderWay(NamedTuple):
    """Work under way: the thread that waits for it, and what takes its result when it is over."""

    thread: Thread
    take: Callable[[], Callable[[], None]]


Start = Callable[[WorkerProcess, int, Post], _UnderWay]


def start_workers(count: int) -> list[WorkerProcess]:
    """So many workers."""
    return [WorkerProcess() for _ in range(count)]


def stop_workers(workers: list[WorkerProcess]) -> None:
    """End them with all that is under way."""
    for worker in workers:
        worker.close()


def _attend(
    worker: WorkerProcess,
    number: int,
    work: Callable[[Unpack[Ts]], R],
    arguments: tuple[*Ts],
    future: "Future[R]",
    post: Post,
) -> None:
    """Wait for a job in a thread of its own, and hand its end over to the window's."""
    try:
        future.set_result(worker.do(number, work, arguments))
    except BaseException as error:  # noqa: BLE001 - raised again in the window's thread
        future.set_exception(error)
    post(number)


class Jobs(QObject):
    """Workers, made when first needed; each job that dies or hangs is one that failed."""

    def __init__(self) -> None:
        super().__init__()
        self.workers = max(1, min(4, os.cpu_count() or 1))
        self._workers: list[WorkerProcess] = []
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

        def start(worker: WorkerProcess, number: int, post: Post) -> _UnderWay:
            future: Future[R] = Future()
            given = (worker, number, work, arguments, future, post)
            must_be_plain((work, *arguments))
            thread = Thread(target=_attend, args=given, name="cicada-job", daemon=True)

            def take() -> Callable[[], None]:
                result = future.result()
                return lambda: done(result)

            return _UnderWay(thread, take)

        job = Job(work.__name__, start, failed, watched=watched)
        self._waiting.append(job)
        self._begin()
        return job

    def _begin(self) -> None:
        while self._waiting and len(self._at_it) < self.workers:
            job = self._waiting.popleft()
            self._workers = self._workers or start_workers(self.workers)
            busy = [other.worker for other in self._at_it]
            job.worker = next(worker for worker in self._workers if worker not in busy)
            self._number += 1
            job.number = self._number
            self._at_it.append(job)
            job.under_way = job.start(job.worker, job.number, self._inbox.post)
            job.under_way.thread.start()
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
        for job in self._at_it:
            assert job.worker is not None
            shared = job.worker.shared
            job.share, beats = shared[0], shared[1]
            if job.cancelled and not shared[2]:
                shared[2] = 1.0
                job.since = now
            if beats != job.beats and not job.cancelled:
                job.beats, job.since = beats, now
            silent = now - job.since
            hangs = job.watched and job.beats and silent > STALLED
            if hangs or (job.cancelled and silent > GRACE):
                job.ended = True
                job.worker.end(job.number)
        if not self._at_it:
            self._timer.stop()

    def _finish(self, job: Job) -> None:
        self._at_it.remove(job)
        assert job.under_way is not None
        sentence, go_on = "", _nothing
        try:
            go_on = job.under_way.take()
        except Died:
            sentence = STOPPED if job.cancelled else HANGS if job.ended else DIED
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
        until = time.monotonic() + GRACE
        for job in under_way:
            if job.worker is not None:
                job.worker.shared[2] = 1.0
        for job in under_way:
            if job.worker is not None and job.under_way is not None:
                job.under_way.thread.join(max(0.0, until - time.monotonic()))
                job.worker.end(job.number)
                job.under_way.thread.join()
        stop_workers(self._workers)
        self._workers = []
        self._inbox.close()


def _nothing() -> None:
    """What follows a job that has failed."""
