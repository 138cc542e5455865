"""Exact time."""

from fractions import Fraction
from math import floor

import pytest
from hypothesis import given
from hypothesis import strategies as st

from cicada.core.timebase import Timebase, fps_text, parse_fps, round_half_up, seconds_to_samples

rates = st.sampled_from(((24, 1), (24000, 1001), (30000, 1001), (25, 1), (240, 1), (1, 7)))


@given(st.integers(-(10**9), 10**9), st.integers(1, 10**6))
def test_halves_go_up(numerator, denominator):
    assert round_half_up(numerator, denominator) == floor(
        Fraction(numerator, denominator) + Fraction(1, 2)
    )


def test_seconds_are_taken_from_their_decimal_text():
    assert seconds_to_samples(2.005, 1000) == 2005
    assert seconds_to_samples(1e-05, 100_000) == 1
    assert seconds_to_samples(0.0005, 1000) == 1


@given(rates, st.integers(8000, 192_000), st.integers(0, 2_000_000))
def test_a_frame_is_found_again_by_each_of_its_edges(fps, rate, frame):
    base = Timebase(*fps, rate)
    start, end = base.start(frame), base.start(frame + 1)
    assert base.frame_at(start) == base.frame_at(end - 1) == frame
    assert base.frame_from(start) == frame
    assert base.frame_from(start + 1) == frame + 1
    assert base.position(start) == frame


def test_timecode_counts_frames_within_the_second():
    assert Timebase(24, 1, 48000).timecode(24 * 3661 + 7) == "01:01:01:07"
    assert Timebase(30000, 1001, 48000).timecode(29) == "00:00:00:29"


def test_a_sample_at_a_frames_edge_belongs_to_the_frame_that_starts_there():
    base = Timebase(30000, 1001, 8000)
    for frame in range(200):
        assert base.frame_at(base.start(frame) - 1) == frame - 1


@pytest.mark.parametrize(
    ("text", "fps"),
    [
        ("24", (24, 1)), (" 30000 / 1001 ", (30000, 1001)), ("23.976", (24000, 1001)),
        ("29,97", (30000, 1001)), ("12.5", (12500, 1000)), ("240", (240, 1)),
    ],
)  # fmt: skip
def test_a_frame_rate_is_read_as_people_write_it(text, fps):
    assert parse_fps(text) == fps
    assert parse_fps(fps_text(fps)) == fps


@pytest.mark.parametrize(
    "text", ["", "fast", "24 fps", "0", "1/0", "0/5", "241", "240001/1000", "-24"]
)
def test_what_is_no_frame_rate_is_refused_in_words(text):
    with pytest.raises(ValueError, match="frame rate"):
        parse_fps(text)
