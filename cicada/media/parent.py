"""Processes that work for the window: how they are started, and that they end with it."""

import multiprocessing
import os
import threading
from multiprocessing.process import BaseProcess

# Threads that share a product of matrices spin while they wait: they keep the player from its core.
_ONE_THREAD = {"OPENBLAS_NUM_THREADS": "1", "OMP_NUM_THREADS": "1"}


def start_alone(process: BaseProcess) -> None:
    """Start a process that reckons in its own thread alone."""
    before = {name: os.environ.get(name) for name in _ONE_THREAD}
    os.environ.update(_ONE_THREAD)
    try:
        process.start()
    finally:
        for name, value in before.items():
            if value is None:
                del os.environ[name]
            else:
                os.environ[name] = value


def end_with_window() -> None:
    """From now on, end this process when the one that started it is gone."""
    threading.Thread(target=_watch, name="cicada-parent", daemon=True).start()


def _watch() -> None:
    window = multiprocessing.parent_process()
    if window is not None:
        window.join()
        # Whatever it is at, nobody waits for it any more.
        os._exit(1)
