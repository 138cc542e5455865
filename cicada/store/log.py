"""What went wrong in Cicada itself, written down for those who mend it."""

import logging
import platform
import sys
from collections.abc import Iterable
from pathlib import Path

from cicada import __version__

SIZE = 256 << 10


def versions(*more: str) -> str:
    """What it was that ran: Cicada, Python, and ``more``."""
    python = f"Python {sys.version.split()[0]}"
    return ", ".join([f"Cicada {__version__}", python, *more, platform.platform()])


def _pass_over(record: logging.LogRecord) -> None:
    """What cannot be written is not said on a terminal that nobody looks at."""


class Log:
    """A file of what went wrong, which does not grow beyond its size."""

    def __init__(self, file: Path) -> None:
        self.file = file
        self._logger: logging.Logger | None = None

    def write(self, lines: Iterable[str]) -> None:
        """Write some lines down; where that is not possible nothing happens."""
        if self._logger is None:
            # Not needed as long as all goes well.
            from logging.handlers import RotatingFileHandler

            try:
                self.file.parent.mkdir(parents=True, exist_ok=True)
                handler = RotatingFileHandler(self.file, maxBytes=SIZE, backupCount=1)
            except OSError:
                return
            handler.setFormatter(logging.Formatter("%(asctime)s %(message)s"))
            handler.handleError = _pass_over  # type: ignore[method-assign]
            self._logger = logging.Logger("cicada")
            self._logger.addHandler(handler)
        self._logger.error("%s", "\n  ".join(lines))

    def close(self) -> None:
        """Write no more."""
        if self._logger is not None:
            for handler in list(self._logger.handlers):
                handler.close()
            self._logger = None
