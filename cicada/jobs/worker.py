"""Inside a worker process: it does one job after the other, and says how far it is."""

import os
import signal
import traceback
from collections.abc import Callable
from multiprocessing.connection import Connection
from multiprocessing.sharedctypes import SynchronizedArray
from pickle import PickleError

from cicada.errors import CicadaError
from cicada.media.parent import end_with_window

# Of the job under way: the share done, how often it has said so, and whether it is to stop.
FIELDS = 3


class _Here:
    """What this process shares with the one it works for."""

    shared: "SynchronizedArray[float] | None" = None


def serve(pipe: Connection, shared: "SynchronizedArray[float]") -> None:
    """Do what comes down the pipe, and send back whether it was done, and its result or error."""
    signal.signal(signal.SIGINT, signal.SIG_IGN)
    _Here.shared = shared
    # It gives way to the window and the player.
    os.nice(10)
    end_with_window()
    while True:
        try:
            answer = _done(*pipe.recv())
            try:
                pipe.send(answer)
            except (TypeError, AttributeError, PickleError) as error:
                pipe.send((False, TypeError(f"what came of it cannot travel: {error}")))
        except (EOFError, OSError):
            # Nobody is there any more.
            return


def _done(work: Callable[..., object], arguments: tuple[object, ...]) -> tuple[bool, object]:
    progress(0.0)
    try:
        return True, work(*arguments)
    except CicadaError as error:
        return False, error
    except Exception as error:  # noqa: BLE001 - raised again where the job came from
        error.add_note(traceback.format_exc())
        return False, error


def progress(share: float) -> bool:
    """Say how far the job is; whether to go on."""
    shared = _Here.shared
    if shared is None:
        return True
    shared[0] = share
    shared[1] += 1
    return not shared[2]


def decoded() -> None:
    """Say that decoding is over: what follows may take its time and counts as no hanging."""
    if _Here.shared is not None:
        _Here.shared[1] = 0
