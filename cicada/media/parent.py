"""A process that works for the window ends with it, however the window ends."""

import multiprocessing
import os
import threading


def end_with_window() -> None:
    """From now on, end this process when the one that started it is gone."""
    threading.Thread(target=_watch, name="cicada-parent", daemon=True).start()


def _watch() -> None:
    window = multiprocessing.parent_process()
    if window is not None:
        window.join()
        # Whatever it is at, nobody waits for it any more.
        os._exit(1)
