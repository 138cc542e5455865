"""Threads beside the window: work in order, and what hangs is left behind."""

import threading
import time

import pytest

from cicada.window.state import beside
from cicada.window.state.beside import Beside
from cicada.window.state.guard import guard


@pytest.fixture
def thread(qapp):
    made = []

    def make(take=lambda *_: None):
        made.append(Beside("test", take))
        return made[-1]

    yield make
    for each in made:
        if not each._closed:
            each.close()


def post_number(post, number):
    post(number)


def test_what_is_handed_in_is_done_in_order_and_taken_in_order(thread, qtbot):
    taken = []
    each = thread(taken.append)
    for number in range(50):
        each.do(post_number, number)
    qtbot.waitUntil(lambda: len(taken) == 50)
    assert taken == list(range(50))


def test_what_was_cancelled_or_comes_too_late_is_not_done(thread):
    begun, started, done = threading.Event(), threading.Event(), []

    def long(_):
        begun.set()
        started.wait(5)

    def note(_, what):
        done.append(what)

    each = thread()
    each.do(long)
    assert begun.wait(5)
    waiting = each.do(note, "cancelled")
    assert waiting.cancel()
    last = each.do(note, "left at the end")
    threading.Timer(0.1, started.set).start()
    each.close()
    assert last.cancelled()
    assert each.do(note, "too late").cancelled()
    assert done == []


def test_work_that_hangs_holds_no_window_up_and_posts_nowhere_afterwards(thread, monkeypatch):
    monkeypatch.setattr(beside, "HANGS", 0.2)
    begun, goes_on, posted = (threading.Event() for _ in range(3))

    def hang(post):
        begun.set()
        goes_on.wait(20)
        post("nobody reads this")
        posted.set()

    each = thread()
    each.do(hang)
    assert begun.wait(5)
    began = time.monotonic()
    each.close()
    assert time.monotonic() - began < 2
    goes_on.set()
    assert posted.wait(5)


def test_a_mistake_in_it_is_caught_and_it_goes_on(thread, qtbot):
    taken = []
    each = thread(taken.append)

    def mistaken(_):
        raise KeyError("x")

    each.do(mistaken).result(5)
    each.do(post_number, 1)
    qtbot.waitUntil(lambda: taken == [1])
    qtbot.waitUntil(lambda: bool(guard.caught) or bool(guard._elsewhere))
    guard.caught.clear()
    guard._elsewhere.clear()
