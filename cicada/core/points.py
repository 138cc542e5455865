"""Lines as people change them: points added, moved, taken away, and put by whole gestures.

Every function gives a new line whose points ascend. Places are seconds or frames, as the line has
them; values are amplitudes or positions.
"""

from collections.abc import Collection, Iterable
from typing import Literal

from cicada.core.lines import Curve
from cicada.core.values import Line, Point

Shape = Literal["straight", "smooth", "step"]
# Into how many straight stretches a smooth one is cut where it cannot go on as one.
PIECES = 8
# A line that is cut must go on as it was to a fraction of a sample.
FINE = 9


def point(place: float, value: float, shape: Shape = "straight", *, digits: int = 6) -> Point:
    """A point with the shape of the stretch after it."""
    at, height = round(place, digits), round(value, digits)
    if shape == "straight":
        return (at, height)
    return (at, height, shape)


def place_of(one: Point) -> float:
    """Where a point stands."""
    return float(one[0])


def value_of(one: Point) -> float:
    """The value at a point."""
    return float(one[1])


def shape_of(one: Point) -> Shape:
    """The shape of the stretch after a point."""
    if len(one) < 3:
        return "straight"
    return "smooth" if one[2] == "smooth" else "step"


def with_point(line: Line, place: float, value: float) -> tuple[Line, int]:
    """The line with a point more, in the shape of the stretch it stands in, and its index."""
    index = sum(place_of(one) <= place for one in line)
    shape = shape_of(line[index - 1]) if index else "straight"
    new = point(max(0.0, place), value, shape)
    return (*line[:index], new, *line[index:]), index


def without_points(line: Line, indices: Collection[int]) -> Line:
    """The line without some of its points."""
    return tuple(one for index, one in enumerate(line) if index not in indices)


def moved_points(
    line: Line,
    indices: Collection[int],
    by: float,
    up: float,
    *,
    last: float,
    values: tuple[float, float],
) -> Line:
    """The line with some points moved together, as far as their neighbours and the edges let them.

    ``last`` is the farthest place there is, ``values`` the lowest and the highest value.
    """
    if not indices:
        return line
    for index in indices:
        before = index - 1 if index - 1 not in indices else None
        after = index + 1 if index + 1 not in indices else None
        here = place_of(line[index])
        low = place_of(line[before]) if before is not None and before >= 0 else 0.0
        far = max(last, here)
        high = place_of(line[after]) if after is not None and after < len(line) else far
        if index - 1 < 0 or before is not None:
            by = max(by, low - here)
        if index + 1 >= len(line) or after is not None:
            by = min(by, high - here)
    lowest, highest = values
    return tuple(
        point(place_of(one) + by, min(highest, max(lowest, value_of(one) + up)), shape_of(one))
        if index in indices
        else one
        for index, one in enumerate(line)
    )


def shaped(line: Line, indices: Collection[int], shape: Shape) -> Line:
    """The line with another shape behind some of its points."""
    return tuple(
        point(place_of(one), value_of(one), shape) if index in indices else one
        for index, one in enumerate(line)
    )


def with_stretch(line: Line, stretch: Iterable[Point]) -> Line:
    """The line with all its points between the first and the last of a stretch replaced by it."""
    new = tuple(stretch)
    first, last = place_of(new[0]), place_of(new[-1])
    before = tuple(one for one in line if place_of(one) < first)
    return (*before, *new, *(one for one in line if place_of(one) > last))


def from_place(line: Line, place: float, empty: float, jump: float = 0.002) -> Line:
    """What a line is from a place on, with that place as its beginning.

    A place below 0 lets the line begin later. A smooth stretch that is cut goes on in straight
    pieces; ``empty`` is the value of a line without points, ``jump`` how many seconds a jump is
    spread over.
    """
    if not line or place == 0:
        return line
    later = tuple(
        point(place_of(one) - place, value_of(one), shape_of(one), digits=FINE)
        for one in line
        if place_of(one) > place
    )
    if place < 0 or len(later) == len(line):
        return later
    curve = Curve(line, empty)
    begins = _out_of_jump(curve, place, jump)
    if begins and later and place_of(later[0]) <= place_of(begins[-1]):
        begins = begins[:1]
    since = place_of(begins[-1]) if begins else 0.0
    cut = line[len(line) - len(later) - 1]
    here = curve.at(place + since)
    if not later:
        return (*begins[:-1], point(since, here, digits=FINE))
    if shape_of(cut) != "smooth":
        return (*begins[:-1], point(since, here, shape_of(cut), digits=FINE), *later)
    far = place_of(later[0]) - since
    pieces = tuple(
        point(since + far * number / PIECES, curve.at(place + since + far * number / PIECES))
        for number in range(PIECES)
    )
    return (*begins[:-1], *pieces, *later)


def _out_of_jump(curve: Curve, place: float, jump: float) -> Line:
    """The straight way that is left of a jump which is being spread at a place, if one is."""
    for at, height in curve.jumps:
        # By what has passed of it: what is left comes out a little too long at its very beginning.
        since = place - at
        if at > 0 and 0 <= since < jump:
            left = jump - since
            value = curve.at(place) - height * left / jump
            return (point(0, value, digits=FINE), point(left, curve.at(at + jump), digits=FINE))
    return ()


# -- gestures -------------------------------------------------------------------------------------


def move(line: Line, start: float, end: float, value: float, to: float) -> Line:
    """A *move* from side to side, or a *swell* from level to level, over a stretch of the line."""
    return with_stretch(line, (point(start, value, "smooth"), point(end, to)))


def dip(line: Line, stretches: Iterable[tuple[float, float]], by: float, over: float) -> Line:
    """A line that goes down to ``by`` of itself in some stretches, over ``over`` before and after.

    The line's own points inside a stretch are lowered with it, so that they go on to be heard.
    """
    curve = Curve(line)
    for start, end in stretches:
        down, up = max(0.0, start - over), end + over
        inside = tuple(
            point(place_of(one), value_of(one) * by, shape_of(one))
            for one in line
            if start < place_of(one) < end
        )
        line = with_stretch(
            line,
            (
                point(down, curve.at(down), "smooth"),
                point(start, curve.at(start) * by),
                *inside,
                point(end, curve.at(end) * by, "smooth"),
                point(up, curve.at(up)),
            ),
        )
    return line
