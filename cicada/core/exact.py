"""Values and lines in rational numbers: what chooses when or which is never rounded (live.md)."""

from bisect import bisect_right
from collections.abc import Iterator
from fractions import Fraction
from math import ceil

from cicada.core.timebase import decimal_ratio
from cicada.core.values import Line

# A glide that begins amid another one begins at a whole number of these.
GRAIN = 1 << 32


def exactly(number: float) -> Fraction:
    """The number that a float's decimal text says."""
    return Fraction(*decimal_ratio(float(number)))


def grained(number: Fraction) -> Fraction:
    """The nearest whole number of 2^-32; halves go up."""
    numerator, denominator = number.numerator, number.denominator
    return Fraction((2 * numerator * GRAIN + denominator) // (2 * denominator), GRAIN)


class ExactLine:
    """A line's points, to be read at any rational place."""

    def __init__(self, line: Line) -> None:
        self._places = [exactly(_number(point[0])) for point in line]
        self._values = [exactly(_number(point[1])) for point in line]
        self._shapes = [point[2] if len(point) > 2 else "" for point in line]

    def at(self, place: Fraction) -> Fraction:
        """The value there: straight between points unless shaped, flat outside."""
        places, values = self._places, self._values
        after = bisect_right(places, place)
        if after in (0, len(places)):
            return values[max(0, after - 1)]
        before = after - 1
        shape = self._shapes[before]
        if shape == "step":
            return values[before]
        x = (place - places[before]) / (places[after] - places[before])
        if shape == "smooth":
            x = x * x * (3 - 2 * x)
        return values[before] + x * (values[after] - values[before])

    def stretches(self, first: int, last: int) -> Iterator[tuple[int, int]]:
        """Whole places ``first..last`` cut so that it only rises or only falls in each stretch."""
        begin = first
        for place in self._places[bisect_right(self._places, first) :]:
            following = ceil(place)
            if following > last:
                break
            if following > begin:
                yield begin, following - 1
                begin = following
        if begin <= last:
            yield begin, last


def _number(given: float | str) -> float:
    assert not isinstance(given, str)
    return given


class ExactRange:
    """From a number up to another one, which belongs to it only if the value goes no higher."""

    def __init__(self, low: float, high: float, highest: float) -> None:
        self.low, self.high = exactly(low), exactly(high)
        self.closed = self.high == exactly(highest)

    def is_below(self, number: Fraction) -> bool:
        """Whether a number does not lie above it."""
        return number < self.high or (self.closed and number == self.high)

    def __contains__(self, number: Fraction) -> bool:
        return self.low <= number and self.is_below(number)
