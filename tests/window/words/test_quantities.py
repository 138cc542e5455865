"""What is typed for a quantity is what is shown for it, in every unit and by every habit."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from cicada.window.widgets.fields import LEVEL, PAN, SPEED, time
from cicada.window.words import numbers
from cicada.window.words.quantities import (
    TimeUnits,
    line_text,
    parse_level,
    parse_line,
    parse_pan,
    parse_seconds,
    parse_speed,
)

PACE = TimeUnits(24.0, 96.0)
TIME = time(lambda: PACE)
FIELDS = {
    "level": (LEVEL, st.floats(0.001, 16)),
    "pan": (PAN, st.floats(-1, 1)),
    "speed": (SPEED, st.floats(0.1, 10)),
    "time": (TIME, st.floats(0, 86_000)),
}
SIGNS = st.sampled_from((".", ","))


@pytest.fixture(autouse=True)
def points_again():
    yield
    numbers.use_decimal(".")


def typed(text, sign):
    return text.replace(".", sign)


@pytest.mark.parametrize("name", FIELDS)
@given(data=st.data(), sign=SIGNS)
def test_every_reading_a_field_shows_is_read_back(name, data, sign):
    kind, values = FIELDS[name]
    numbers.use_decimal(sign)
    value = data.draw(values)
    told = (kind.readings or kind.show)(value)
    for reading in told.split(" · "):
        # Four digits are shown at least, and a hundredth of a dB or of a semitone at worst.
        assert kind.parse(reading) == pytest.approx(value, rel=0.006, abs=0.0006)


@given(st.integers(0, 10**7).map(lambda n: n / 1000), SIGNS)
def test_a_number_is_read_as_it_is_written(value, sign):
    numbers.use_decimal(sign)
    assert numbers.read(numbers.shown(value, 12)) == value
    assert numbers.read(numbers.fixed(-value, 3)) == -value


@pytest.mark.parametrize(
    ("text", "sign", "value"),
    [
        ("1,5", ".", 1.5), ("1.5", ",", 1.5), ("1,500", ".", 1500), ("1.500", ",", 1500),
        ("1.500", ".", 1.5), ("1,500", ",", 1.5), ("1.234,5", ".", 1234.5),
        ("1,234.5", ",", 1234.5), ("0,500", ".", 0.5), ("1 000", ".", 1000), ("−3", ".", -3),
    ],
)  # fmt: skip
def test_signs_of_both_habits_are_understood(text, sign, value):
    numbers.use_decimal(sign)
    assert numbers.read(text) == value


@given(SIGNS, st.integers(0, 999), st.integers(0, 999), st.integers(0, 59), st.integers(0, 23))
def test_times_add_up(sign, ms, frames, seconds, more):
    numbers.use_decimal(sign)
    text = f"{seconds}{sign}5 s + {frames} f - 0 ms+{ms}ms + 2 beats"
    wanted = seconds + 0.5 + frames / 24 + ms / 1000 + 2 * 60 / 96
    assert parse_seconds(text, PACE) == pytest.approx(wanted, abs=1e-6)
    clock = f"1:02:{seconds:02}:{more:02}"
    assert parse_seconds(clock, PACE) == pytest.approx(3720 + seconds + more / 24, abs=1e-6)
    assert parse_seconds(f"2:{seconds:02}{sign}25", PACE) == 120 + seconds + 0.25


@given(st.integers(-24, 24))
def test_semitones_are_twelve_to_the_octave(semitones):
    assert parse_speed(f"{semitones} st") == pytest.approx(2 ** (semitones / 12), abs=1e-6)


@pytest.mark.parametrize(
    ("parse", "text", "words"),
    [
        (parse_level, "loud", "no level"), (parse_level, "-3", "from 0 %"),
        (parse_level, "40 dB", "from 0 %"), (parse_pan, "up", "no position"),
        (parse_pan, "120 left", "from 100 left"), (parse_speed, "fast", "no speed"),
        (parse_speed, "50", "from 0.1x"), (parse_speed, "1e9 st", "no speed"),
    ],
)  # fmt: skip
def test_what_is_no_such_quantity_is_said(parse, text, words):
    with pytest.raises(ValueError, match=words):
        parse(text)


@pytest.mark.parametrize(
    "text", ["soon", "2 s 5 f", "1 kg", "", "3 s - 5 s", "1:2:3:4:5", "9" * 12]
)
def test_what_is_no_time_is_said(text):
    with pytest.raises(ValueError, match=r"time"):
        parse_seconds(text, PACE)


def test_beats_need_a_tempo():
    with pytest.raises(ValueError, match="tempo"):
        parse_seconds("2 b", TimeUnits(24.0))


@given(st.text(max_size=12))
def test_no_text_upsets_a_field(text):
    for kind, _ in FIELDS.values():
        try:
            kind.parse(text)
        except ValueError as error:
            assert len(str(error)) > 20  # noqa: PT017 - either way


@st.composite
def lines(draw, low, high):
    times = sorted(draw(st.lists(st.integers(0, 99_999), max_size=6)))
    values = st.integers(low, high).map(lambda whole: whole / 100)
    shapes = st.sampled_from(((), ("smooth",), ("step",)))
    return tuple((time / 1000, draw(values), *draw(shapes)) for time in times)


@given(lines(0, 1600), SIGNS, st.booleans())
def test_a_level_line_reads_back_what_it_shows(line, sign, frames):
    numbers.use_decimal(sign)
    text = line_text("level", line, frames=frames)
    assert parse_line("level", text, PACE, frames=frames) == line


@given(lines(-100, 100), SIGNS)
def test_a_pan_line_reads_back_what_it_shows(line, sign):
    numbers.use_decimal(sign)
    assert parse_line("pan", line_text("pan", line), PACE) == line


@pytest.mark.parametrize("text", ["loud", "1 s", "2 s 10 %; 1 s 20 %", "1 s 9000 %", "1 s left %%"])
def test_a_line_that_cannot_be_read_is_said(text):
    with pytest.raises(ValueError, match=r":|goes from"):
        parse_line("level", text, PACE)
