"""A few random things done to a real window, and that the hands can find what is wrong."""

import pytest

from cicada.window.state.guard import guard
from tests.hands import __main__ as hands
from tests.hands.run import Broken, must_hold


@pytest.mark.parametrize("start", ["empty", "random", "storm"])
def test_a_hundred_random_steps_break_nothing(start):
    code, said = hands.attempt(start, 1, list(range(100)))
    assert code == 0, said


def test_what_breaks_is_shown_by_the_fewest_steps(monkeypatch):
    def attempt(start, seed, steps):
        return int({3, 17} <= set(steps)), ""

    monkeypatch.setattr(hands, "attempt", attempt)
    assert hands.shorten("empty", 1, list(range(18))) == [3, 17]


def test_an_exception_at_the_guard_ends_the_hands(window):
    must_hold(window, [])
    window.sheet.mousePressEvent(None)
    try:
        with pytest.raises(Broken, match="AttributeError in Sheet"):
            must_hold(window, [])
    finally:
        guard.caught.clear()
