"""Threads beside the window: what they work with is plain, and no object of Qt.

The last one to let go of an object of Qt frees it, which only the window's own thread may do. So a
thread is given plain things, and posts plain things back.
"""

import os
from collections import deque
from collections.abc import Callable, Iterable
from concurrent.futures import Future
from contextlib import suppress
from queue import Empty, SimpleQueue
from threading import Thread
from typing import Any, NamedTuple

import shiboken6
from PySide6.QtCore import QObject, QSocketNotifier

from cicada.window.state.guard import guard

Take = Callable[..., None]
# Seconds that work which does not come to an end is waited for when the window closes.
HANGS = 3.0


class Post:
    """Hands things over to the window's thread, from any."""

    def __init__(self) -> None:
        self.items: deque[tuple[Any, ...]] = deque()
        self.wake = os.eventfd(0, os.EFD_NONBLOCK | os.EFD_CLOEXEC)
        self._closed = False

    def __call__(self, *item: object) -> None:
        """Post something; where nobody reads any more it is dropped."""
        self.items.append(item)
        if not self._closed:
            os.eventfd_write(self.wake, 1)

    def close(self, *, left: bool = False) -> None:
        """Nobody reads any more. A thread may only be posting yet if one is ``left``."""
        self._closed = True
        if not left:
            os.close(self.wake)


class Inbox(QObject):
    """The window's end of a post: ``take`` is called with what each item is made of."""

    def __init__(self, take: Take) -> None:
        super().__init__()
        self.post = Post()
        self._take = take
        self._notifier = QSocketNotifier(self.post.wake, QSocketNotifier.Type.Read, self)
        self._notifier.activated.connect(self._arrived)

    def _arrived(self) -> None:
        os.eventfd_read(self.post.wake)
        try:
            # Only what is there now: the window has its turn before the next.
            for _ in range(len(self.post.items)):
                # Taking one may open a question, and the rest is taken while that is open.
                if self.post.items:
                    self._take(*self.post.items.popleft())
        finally:
            if self.post.items:
                os.eventfd_write(self.post.wake, 1)

    def close(self, *, left: bool = False) -> None:
        """Read no more; every thread that posts must be over, but one that is ``left``."""
        self._notifier.setEnabled(False)
        self.post.close(left=left)


class Beside:
    """A thread that does one thing after the other.

    Work is a function that is called with a ``Post`` for what comes of it, and its arguments. One
    that never returns, from a disk that has gone, is left behind when the window closes.
    """

    def __init__(self, name: str, take: Take) -> None:
        self._name = name
        self._inbox = Inbox(take)
        self._wanted: SimpleQueue[_Wanted | None] = SimpleQueue()
        self._thread: Thread | None = None
        self._closed = False

    def do(self, work: Callable[..., None], *arguments: object) -> "Future[None]":
        """Hand in some work."""
        must_be_plain((work, *arguments))
        future: Future[None] = Future()
        if self._closed:
            future.cancel()
            return future
        if self._thread is None:
            self._thread = Thread(target=_serve, args=(self._name, self._wanted), name=self._name)
            # What hangs in it does not hold the process up.
            self._thread.daemon = True
            self._thread.start()
        self._wanted.put(_Wanted(future, work, (self._inbox.post, *arguments)))
        return future

    def wait(self) -> None:
        """Wait until all that was handed in is done; what it posted is taken by and by."""
        self.do(lambda _: None).result()

    def close(self) -> None:
        """Do no more, and wait for the work under way, a moment if it hangs."""
        self._closed = True
        with suppress(Empty):
            while (left := self._wanted.get_nowait()) is not None:
                left.future.cancel()
        self._wanted.put(None)
        if self._thread is not None:
            self._thread.join(HANGS)
        self._inbox.close(left=self._thread is not None and self._thread.is_alive())


class _Wanted(NamedTuple):
    """A piece of work, and who waits for it."""

    future: "Future[None]"
    work: Callable[..., None]
    arguments: tuple[Any, ...]


def _serve(name: str, wanted: "SimpleQueue[_Wanted | None]") -> None:
    """What the thread does."""
    while (each := wanted.get()) is not None:
        if each.future.set_running_or_notify_cancel():
            try:
                each.work(*each.arguments)
            except Exception as error:  # noqa: BLE001 - nobody else would hear of it
                guard.catch(error, name)
            each.future.set_result(None)


def must_be_plain(things: Iterable[object]) -> None:
    """Fail if one of these is an object of Qt, or a function that holds one."""
    for each in things:
        thing = getattr(each, "func", each)
        held = [thing, getattr(thing, "__self__", None)]
        held += [cell.cell_contents for cell in getattr(thing, "__closure__", None) or ()]
        assert not any(isinstance(one, shiboken6.Object) for one in held), thing
