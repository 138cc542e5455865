"""Threads beside the window: what they work with is plain, and no object of Qt.

The last one to let go of an object of Qt frees it, which only the window's own thread may do. So a
thread is given plain things, and posts plain things back.
"""

import os
from collections import deque
from collections.abc import Callable, Iterable
from concurrent.futures import Future, ThreadPoolExecutor
from typing import Any

import shiboken6
from PySide6.QtCore import QObject, QSocketNotifier

from cicada.window.state.guard import guard

Take = Callable[..., None]


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

    def close(self) -> None:
        """Nobody reads any more. No thread may be posting."""
        self._closed = True
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

    def close(self) -> None:
        """Read no more; every thread that posts must be over."""
        self._notifier.setEnabled(False)
        self.post.close()


class Beside:
    """A thread that does one thing after the other.

    Work is a function that is called with a ``Post`` for what comes of it, and its arguments.
    """

    def __init__(self, name: str, take: Take) -> None:
        self._name = name
        self._inbox = Inbox(take)
        self._pool = ThreadPoolExecutor(1, name)

    def do(self, work: Callable[..., None], *arguments: object) -> "Future[None]":
        """Hand in some work."""
        must_be_plain((work, *arguments))
        return self._pool.submit(_do, self._name, work, (self._inbox.post, *arguments))

    def wait(self) -> None:
        """Wait until all that was handed in is done; what it posted is taken by and by."""
        self._pool.submit(lambda: None).result()

    def close(self) -> None:
        """Wait for the work under way and do no more."""
        self._pool.shutdown(cancel_futures=True)
        self._inbox.close()


def _do(name: str, work: Callable[..., None], arguments: tuple[Any, ...]) -> None:
    try:
        work(*arguments)
    except Exception as error:  # noqa: BLE001 - a future would swallow it
        guard.catch(error, name)


def must_be_plain(things: Iterable[object]) -> None:
    """Fail if one of these is an object of Qt, or a function that holds one."""
    for each in things:
        thing = getattr(each, "func", each)
        held = [thing, getattr(thing, "__self__", None)]
        held += [cell.cell_contents for cell in getattr(thing, "__closure__", None) or ()]
        assert not any(isinstance(one, shiboken6.Object) for one in held), thing
