"""Lines changed point by point: where they were before, they are what they were."""

import numpy as np
import pytest
from hypothesis import assume, given
from hypothesis import strategies as st

from cicada.core import points
from cicada.core.lines import Curve

SHAPES = ("straight", "smooth", "step")
lines = st.lists(
    st.tuples(st.integers(0, 50), st.floats(0, 2), st.sampled_from(SHAPES)), min_size=1, max_size=6
).map(lambda ps: tuple(points.point(x / 10, y, s) for x, y, s in sorted(ps, key=lambda p: p[0])))


def places(line):
    return [point[0] for point in line]


@given(lines, st.integers(0, 60).map(lambda n: n / 10))
def test_a_line_from_a_place_on_is_what_it_was_there(line, place):
    after = points.from_place(line, place, 1.0)
    # Not at the points themselves, where a step may stand on either side by rounding.
    xs = np.arange(0, 7, 0.1) + 0.037
    smooth = any(len(point) > 2 and point[2] == "smooth" for point in line)
    wanted = Curve(line).values(xs + place)
    assert np.abs(Curve(after).values(xs) - wanted).max() < (0.05 if smooth else 1e-4)


@given(lines, st.sets(st.integers(0, 5)), st.floats(-9, 9), st.floats(-3, 3))
def test_points_moved_together_stay_in_order_and_in_bounds(line, chosen, by, up):
    chosen = {index for index in chosen if index < len(line)}
    after = points.moved_points(line, chosen, by, up, last=5.0, values=(0.0, 2.0))
    assert places(after) == sorted(places(after))
    assert all(0 <= x <= 5 for x in places(after))
    assert all(0 <= point[1] <= 2 for point in after)
    moved = [places(after)[i] - places(line)[i] for i in chosen] or [0.0]
    assert max(moved) - min(moved) < 1e-5


@given(lines, st.floats(0, 6))
def test_a_point_put_on_the_line_changes_nothing_of_a_straight_one(line, place):
    line = tuple(points.point(x, y) for x, y, *_ in line)
    assume(all(abs(x - place) > 1e-4 for x in places(line)) and len(set(places(line))) == len(line))
    after, index = points.with_point(line, place, Curve(line).at(place))
    assert after[index][0] == round(place, 6)
    xs = np.linspace(0, 7, 50)
    assert np.abs(Curve(after).values(xs) - Curve(line).values(xs)).max() < 1e-4
    assert points.without_points(after, {index}) == line


def test_a_dip_lowers_what_is_under_the_other_clip_and_nothing_else():
    line = points.dip(((0.0, 0.8),), [(2.0, 3.0)], 0.5, 0.25)
    assert [Curve(line).at(x) for x in (1.7, 2.0, 2.5, 3.0, 3.3)] == [0.8, 0.4, 0.4, 0.4, 0.8]


def test_a_gesture_replaces_the_points_it_goes_over():
    line = points.move(((0.0, 0.0), (1.0, 0.5), (4.0, 0.1)), 0.5, 2.0, -0.7, 0.7)
    assert line == ((0.0, 0.0), (0.5, -0.7, "smooth"), (2.0, 0.7), (4.0, 0.1))


def test_a_line_cut_where_it_jumps_goes_on_with_the_whole_jump():
    line = ((0.4, 0.2, "step"), (0.6, 1.5))
    after = Curve(points.from_place(line, 0.6, 1.0))
    assert [after.at(place) for place in (0.0, 0.001, 0.002)] == pytest.approx([0.2, 0.85, 1.5])


def test_a_line_is_what_it_was_right_behind_a_jump():
    line = ((0.0, 0.2, "step"), (0.5, 1.0), (0.501, 0.4))
    after = points.from_place(line, 0.5005, 1.0)
    assert [point[0] for point in after] == sorted(point[0] for point in after)
    assert Curve(after).at(0.2) == 0.4
    alone = points.from_place(((0.0, 0.2), (0.0, 0.7)), 3.0, 1.0)
    assert alone == ((0, 0.7),)
