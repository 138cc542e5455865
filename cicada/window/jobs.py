"""Slow work in a worker process, with progress and cancel, and its result back in the window."""

import multiprocessing
from collections.abc import Callable
from concurrent.futures import Future, ProcessPoolExecutor
from concurrent.futures.process import BrokenProcessPool
from typing import Any

from PySide6.QtCore import QObject, Qt, Signal

from cicada.deliver.work import begin_worker
from cicada.errors import CicadaError

Then = Callable[[Any], None]


class Jobs(QObject):
    """One worker process, made when first needed. Results come back in the window's thread."""

    _over = Signal(object, object, object)

    def __init__(self) -> None:
        super().__init__()
        self._pool: ProcessPoolExecutor | None = None
        # Progress and cancel; making them starts a process, so not before the first job.
        self._shared: tuple[Any, Any] | None = None
        self.running = 0
        self._over.connect(self._finish, Qt.ConnectionType.QueuedConnection)

    @property
    def progress(self) -> float:
        """The share done of the job that says how far it is."""
        return 0.0 if self._shared is None else float(self._shared[0].value)

    def cancel(self) -> None:
        """Ask the job under way to stop."""
        if self._shared is not None:
            self._shared[1].set()

    def run(self, work: Callable[..., Any], *arguments: object, done: Then, failed: Then) -> None:
        """Have ``work`` done; then call ``done`` with its result or ``failed`` with a sentence."""
        context = multiprocessing.get_context("spawn")
        if self._shared is None:
            self._shared = context.Value("d", 0.0), context.Event()
        if self._pool is None:
            self._pool = ProcessPoolExecutor(1, context, begin_worker, self._shared)
        if not self.running:
            self._shared[0].value = 0.0
            self._shared[1].clear()
        self.running += 1
        try:
            future = self._pool.submit(work, *arguments)
        except BrokenProcessPool:
            self._pool = None
            self.running -= 1
            self.run(work, *arguments, done=done, failed=failed)
            return
        future.add_done_callback(lambda future: self._over.emit(future, done, failed))

    def _finish(self, future: "Future[Any]", done: Then, failed: Then) -> None:
        self.running -= 1
        try:
            result = future.result()
        except BrokenProcessPool:
            self._pool = None
            failed("the worker that was at it has died; the file may be damaged, try another one")
        except CicadaError as error:
            failed(str(error))
        else:
            done(result)

    def close(self) -> None:
        """Stop the worker."""
        self.cancel()
        if self._pool is not None:
            self._pool.shutdown(cancel_futures=True)
            self._pool = None
