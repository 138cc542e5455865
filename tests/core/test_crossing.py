"""Where a line comes into a range or leaves it: as if each frame were read."""

from fractions import Fraction

from hypothesis import given
from hypothesis import strategies as st

from cicada.core.crossing import Bounds, next_crossing
from cicada.core.exact import ExactLine, ExactRange

numbers = st.sampled_from((-1.0, 0.0, 0.1, 0.25, 0.5, 0.75, 1.0, 2.0))
places = st.sampled_from([n / 4 for n in range(-4, 60)])
shapes = st.sampled_from(((), ("smooth",), ("step",)))
points = st.builds(lambda at, number, shape: (at, number, *shape), places, numbers, shapes)
lines = st.lists(points, min_size=1, max_size=6).map(
    lambda found: sorted(found, key=lambda p: p[0])
)
ranges = st.sampled_from(((0.0, 0.5), (0.25, 0.75), (0.5, 1.0), (0.0, 0.1)))


@given(lines, ranges, st.integers(0, 15), st.integers(0, 15), st.booleans())
def test_it_is_the_first_frame_at_which_reading_says_so(line, wanted, first, last, inside):
    exact, span = ExactLine(line), ExactRange(*wanted, 1.0)
    bounds = Bounds(Fraction(0), Fraction(1), Fraction(0))
    found = next_crossing(exact, bounds, span, first, last, inside=inside)
    read = [
        frame
        for frame in range(first, last + 1)
        if (bounds.within(exact.at(Fraction(frame))) in span) != inside
    ]
    assert found == next(iter(read), None)
