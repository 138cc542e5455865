"""Looking for garbage, in one place: in the window's own thread, and not among what stays.

An object of Qt that is garbage must be freed in the window's thread, so nothing looks for garbage
by itself; with many keyframes in memory it would also take half of the time of a plan.
"""

import gc

from PySide6.QtCore import QObject, QTimer

# Milliseconds between two looks, and after which what was opened has been planned and drawn.
PAUSE, SETTLED = 1000, 1000
# Every so many looks go over everything that is not kept for good.
THOROUGH = 60


def hold_off() -> None:
    """What is loaded now stays: looking for garbage in it takes a tenth of the start."""
    gc.disable()


class Collecting(QObject):
    """Looks for garbage while it is open; there is one for the window."""

    def __init__(self) -> None:
        super().__init__()
        self._looks = 0
        hold_off()
        self._timer = QTimer(self)
        self._timer.setInterval(PAUSE)
        self._timer.timeout.connect(self._look)
        self._timer.start()

    def _look(self) -> None:
        self._looks += 1
        gc.collect(2 if self._looks % THOROUGH == 0 else 1)

    def settle(self) -> None:
        """In a moment all that is there stays: look no more among it."""
        QTimer.singleShot(SETTLED, self, gc.freeze)

    def close(self) -> None:
        """Leave it to the interpreter again."""
        self._timer.stop()
        gc.enable()
