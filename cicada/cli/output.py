"""What commands print, and how they are ended; what they have done does not hang on either.

Some say what they have done (``say``, ``warn``): if that cannot be printed it is not. For others
the print is what was asked for (``give``): if it cannot be printed they have failed.
"""

import os
import signal
import stat
import sys
from contextlib import suppress
from types import FrameType
from typing import TextIO

from cicada.disk.why import size_text, why
from cicada.errors import CannotWrite, plain

# How long after it was asked to end a command that has not ended is asked again, in seconds.
_AGAIN = 2.0


class Ended(KeyboardInterrupt):
    """A signal has asked for the end; ``code`` is the exit code for it."""

    def __init__(self, number: int) -> None:
        super().__init__(number)
        self.code = 128 + number
        # By Ctrl+C, and so by the person who waits for it.
        self.interrupted = number == signal.SIGINT


def _end(number: int, _: FrameType | None) -> None:
    # What is raised inside a library that was called back may be dropped there.
    signal.signal(signal.SIGALRM, lambda *_: _end(number, None))
    signal.setitimer(signal.ITIMER_REAL, _AGAIN)
    raise Ended(number)


def prepare() -> None:
    """Have outputs that take any letter, and be ended by signals as by Ctrl+C."""
    for number in (0, 1, 2):
        try:
            os.fstat(number)
        except OSError:
            # Or the next file that is opened would be printed into.
            os.open(os.devnull, os.O_RDWR)
    # What libraries print of their own is nothing the person can use: only what we say is seen.
    # One that was closed is none.
    coding = None if sys.stderr is None else sys.stderr.encoding
    own = os.fdopen(os.dup(2), "w", buffering=1, encoding=coding)
    nowhere = os.open(os.devnull, os.O_WRONLY)
    os.dup2(nowhere, 2)
    os.close(nowhere)
    sys.stderr = own
    for stream in (sys.stdout, sys.stderr):
        if hasattr(stream, "reconfigure"):
            stream.reconfigure(errors="backslashreplace")
    for end in (signal.SIGINT, signal.SIGTERM, signal.SIGHUP):
        # What is ignored stays so, as under nohup.
        if signal.getsignal(end) is not signal.SIG_IGN:
            with suppress(ValueError):
                signal.signal(end, _end)


def say(text: str) -> None:
    """Say something that has been done, if anybody hears it."""
    _try_to_print(text, sys.stdout)


def warn(text: str) -> None:
    """Say something that one should know, if anybody hears it."""
    _try_to_print(text, sys.stderr)


def _try_to_print(text: str, stream: TextIO | None) -> None:
    with suppress(OSError, ValueError):
        print("\n".join(map(plain, text.split("\n"))), file=stream, flush=True)


def give(text: str, end: str = "\n", *, flush: bool = True) -> None:
    """Print what was asked for; raises ``CannotWrite`` if it cannot be.

    ``BrokenPipeError`` is for the caller to pass on: whoever read it has had enough.
    """
    if sys.stdout is None:
        raise CannotWrite("there is no output to print to", remedy="do not close it")
    try:
        print(text, end=end, flush=flush)
    except BrokenPipeError:
        raise
    except (OSError, ValueError) as error:
        raise CannotWrite(
            f"the output cannot be printed ({why(error)})", remedy="print it elsewhere"
        ) from None


def refuse_too_large(size: int) -> None:
    """Raise ``CannotWrite`` if the output is a file on a disk that cannot take so many bytes."""
    try:
        handle = sys.stdout.fileno()
        if not stat.S_ISREG(os.fstat(handle).st_mode):
            return
        disk = os.fstatvfs(handle)
    except (AttributeError, OSError, ValueError):
        return
    free = disk.f_bavail * disk.f_frsize
    if size > free:
        raise CannotWrite(
            f"the output takes about {size_text(size)}, and {size_text(free)} are free",
            remedy="print it elsewhere, or set a limit in the run",
        )


def close() -> None:
    """Leave nothing for Python to print at its end, where it would complain."""
    signal.setitimer(signal.ITIMER_REAL, 0)
    for stream in (sys.stdout, sys.stderr):
        try:
            if stream is not None:
                stream.flush()
        except (OSError, ValueError):
            nowhere = os.open(os.devnull, os.O_WRONLY)
            os.dup2(nowhere, stream.fileno())
            os.close(nowhere)
