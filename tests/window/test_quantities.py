"""What is typed for a line is what is shown for it."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from cicada.window.quantities import line_text, parse_line


@st.composite
def lines(draw, low, high):
    times = sorted(draw(st.lists(st.integers(0, 99_999), max_size=6)))
    values = st.integers(low, high).map(lambda whole: whole / 100)
    shapes = st.sampled_from(((), ("smooth",), ("step",)))
    return tuple((time / 1000, draw(values), *draw(shapes)) for time in times)


@given(lines(0, 1600))
def test_a_level_line_reads_back_what_it_shows(line):
    assert parse_line("level", line_text("level", line), 24.0) == line


@given(lines(-100, 100))
def test_a_pan_line_reads_back_what_it_shows(line):
    assert parse_line("pan", line_text("pan", line), 24.0) == line


@pytest.mark.parametrize("text", ["loud", "1 s", "2 s 10 %; 1 s 20 %", "1 s 9000 %", "1 s left %%"])
def test_a_line_that_cannot_be_read_is_said(text):
    with pytest.raises(ValueError, match=r":|goes from"):
        parse_line("level", text, 24.0)
