"""Which sample of an input was made as one handed over was heard."""

import pytest

from cicada.playback.lining_up import LiningUp
from cicada.playback.messages import FILM, Status
from cicada.playback.recorder_process import NOWHERE

OUT, IN = 48000, 44100


def lined(seconds=10.0, out_zero=100.0, in_zero=99.0, late=0.0, out_rate=OUT, in_rate=IN):
    """Looks at an output that began at one moment and an input that began at another."""
    made = LiningUp(late)
    for step in range(int(seconds * 80)):
        now = out_zero + step / 80
        status = Status(FILM, 0, now, True, OUT, 1, 1.0, 0, (now - out_zero) * out_rate)
        standing = NOWHERE._replace(at=0, zero=in_zero, rate=IN)
        made.look(status, standing)
    return made


def test_by_the_clocks_alone_it_is_where_both_say_the_same_moment():
    made = lined()
    assert not made.exact
    assert made.input_sample(0) == IN
    assert made.input_sample(OUT) == 2 * IN
    assert made.output_sample(2 * IN) == OUT
    assert made.way() == pytest.approx(0.0, abs=1e-9)


def test_what_is_remembered_of_a_loop_test_counts_where_none_was_made():
    assert lined(late=0.01).input_sample(0) == IN + IN // 100
    assert lined(late=0.01).way() == pytest.approx(0.01)


def test_a_loop_test_counts_to_the_sample_until_a_stream_is_another():
    made = lined()
    late = made.came_back(4800, 2 * IN)
    assert made.exact
    assert made.input_sample(4800) == 2 * IN
    assert made.input_sample(4800 + OUT) == 3 * IN
    assert late == pytest.approx(1 - 0.1)
    made.forget()
    assert not made.exact
    assert made.way() is None
    assert made.correction == late


def test_looked_at_anew_what_was_before_a_hole_counts_no_more():
    made = lined()
    made.look_anew()
    late = Status(FILM, 0, 111.0, True, OUT, 1, 1.0, 0, 10.0 * OUT)
    made.look(late, NOWHERE._replace(zero=99.0, rate=IN))
    assert made.input_sample(0) == 2 * IN


def test_what_two_clocks_drift_apart_is_known_if_both_were_watched():
    made = lined(out_rate=OUT * 1.0001)
    assert made.drift(60.0, IN * 1.0003) == pytest.approx(60 * 0.0002, rel=1e-3)
    assert made.drift(60.0, 0.0) is None
    assert LiningUp().drift(60.0, IN) is None


def test_another_rate_is_another_stream():
    made = lined()
    made.came_back(0, 0)
    made.look(Status(FILM, 0, 1.0, True, 96000, 1, 1.0, 0, 0.0), NOWHERE._replace(rate=IN))
    assert not made.exact
