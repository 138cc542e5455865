"""A signal that asks for the end of the window: it ends as it would be killed, but orderly.

What was not saved stays in the journal, and the next start offers it.
"""

import signal
import socket
from collections.abc import Callable

from PySide6.QtCore import QObject, QSocketNotifier

ASK = (signal.SIGINT, signal.SIGTERM, signal.SIGHUP)


class Ended(QObject):
    """Calls ``end`` with the number of the signal, in the window's own turn.

    Python hears of a signal only when it runs, which under Qt may be much later; the socket that is
    written to when one comes wakes it.
    """

    def __init__(self, end: Callable[[int], None]) -> None:
        super().__init__()
        self._end, self._number = end, 0
        self._ours, theirs = socket.socketpair()
        self._ours.setblocking(False)
        theirs.setblocking(False)
        self._theirs = theirs
        signal.set_wakeup_fd(theirs.fileno(), warn_on_full_buffer=False)
        for number in ASK:
            # What is ignored stays so, as under nohup.
            if signal.getsignal(number) is not signal.SIG_IGN:
                signal.signal(number, self._note)
        self._notifier = QSocketNotifier(self._ours.fileno(), QSocketNotifier.Type.Read, self)
        self._notifier.activated.connect(self._woken)

    def _note(self, number: int, _: object) -> None:
        self._number = number

    def _woken(self) -> None:
        self._ours.recv(64)
        if self._number in ASK:
            self._end(self._number)

    def close(self) -> None:
        """Be woken no more."""
        signal.set_wakeup_fd(-1)
        self._notifier.setEnabled(False)
        self._ours.close()
        self._theirs.close()
