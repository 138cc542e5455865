"""At which frame a line next comes into a range or leaves it, found without reading each."""

from bisect import bisect_left
from collections.abc import Callable
from fractions import Fraction
from typing import NamedTuple

from cicada.core.exact import ExactLine, ExactRange


class Bounds(NamedTuple):
    """How far a value goes, and what it is where nothing is drawn."""

    low: Fraction
    high: Fraction
    begins: Fraction

    def within(self, number: Fraction) -> Fraction:
        """The number, or the bound it is beyond."""
        return min(max(number, self.low), self.high)


def next_crossing(
    line: ExactLine, bounds: Bounds, wanted: ExactRange, first: int, last: int, *, inside: bool
) -> int | None:
    """The first of some frames at which a value that follows a line is in a range, or is not.

    Which of the two depends on whether it was ``inside``. None if there is no such frame.
    """

    def at(frame: int) -> Fraction:
        return bounds.within(line.at(Fraction(frame)))

    for begin, end in line.stretches(first, last):
        above = _where(lambda f: at(f) >= wanted.low, begin, end)
        below = _where(lambda f: wanted.is_below(at(f)), begin, end)
        low, high = max(above[0], below[0]), min(above[1], below[1])
        if not inside and low <= high:
            return low
        if inside and (low > begin or low > high):
            return begin
        if inside and high < end:
            return high + 1
    return None


def _where(holds: Callable[[int], bool], first: int, last: int) -> tuple[int, int]:
    """From where to where something holds that changes at most once between two frames.

    Where it holds nowhere, the end lies before the beginning.
    """
    at_first, at_last = holds(first), holds(last)
    frames = range(first, last + 1)
    if at_first and at_last:
        return first, last
    if at_first:
        return first, first + bisect_left(frames, True, key=lambda f: not holds(f)) - 1
    if at_last:
        return first + bisect_left(frames, True, key=holds), last
    return last + 1, last
