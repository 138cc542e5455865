"""Draw times by a line and with spikes."""

from hypothesis import given
from hypothesis import strategies as st

from cicada.core.draw_times import by_line, with_spikes


def test_a_line_is_straight_between_its_points_and_flat_outside():
    assert by_line(6, [(3, 0.4), (1, 0.2)]) == (0.2, 0.2, 0.3, 0.4, 0.4, 0.4)
    assert by_line(3, []) == (0.0, 0.0, 0.0)
    assert by_line(2, [(0, 0.1)]) == (0.1, 0.1)


@given(st.integers(0, 400), st.integers(0, 2**31), st.floats(1, 50))
def test_spikes_are_those_of_their_seed_and_a_longer_scene_begins_alike(length, seed, every):
    made = with_spikes(length, 0.03, 0.3, every, seed)
    assert made == with_spikes(length + 100, 0.03, 0.3, every, seed)[:length]
    assert set(made) <= {0.03, 0.3}


def test_spikes_come_as_often_as_is_said_and_another_seed_has_others():
    made = with_spikes(20_000, 0.03, 0.3, 10, 1)
    assert 0.09 < made.count(0.3) / 20_000 < 0.11
    assert made != with_spikes(20_000, 0.03, 0.3, 10, 2)
    assert set(with_spikes(50, 0.03, 0.3, 1, 1)) == {0.3}
