"""What a worker process does for the window: one job at a time, and how far it is."""

import os
from collections.abc import Callable
from multiprocessing.sharedctypes import SynchronizedArray
from typing import TypeVar

from cicada.media.parent import end_with_window

# Of each job under way: the share done, how often it has said so, and whether it is to stop.
FIELDS = 3


class _Worker:
    """The worker this process is: the numbers it shares with the window, the job it is at."""

    shared: "SynchronizedArray[float] | None" = None
    slot = 0


def begin_worker(shared: "SynchronizedArray[float]") -> None:
    """Set up a fresh worker process, which gives way to the window and the player."""
    _Worker.shared = shared
    os.nice(10)
    end_with_window()


Result = TypeVar("Result")


def do(slot: int, work: Callable[..., Result], arguments: tuple[object, ...]) -> Result:
    """Do a piece of work as the job in ``slot``."""
    _Worker.slot = slot
    progress(0.0)
    return work(*arguments)


def progress(share: float) -> bool:
    """Say how far the job is; whether to go on."""
    shared, at = _Worker.shared, _Worker.slot * FIELDS
    if shared is None:
        return True
    shared[at] = share
    shared[at + 1] += 1
    return not shared[at + 2]


def decoded() -> None:
    """Say that decoding is over: what follows may take its time and counts as no hanging."""
    if _Worker.shared is not None:
        _Worker.shared[_Worker.slot * FIELDS + 1] = 0
