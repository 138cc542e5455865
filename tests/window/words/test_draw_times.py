"""Draw times, typed and said."""

import pytest

from cicada.core.model import Run, empty_project
from cicada.core.planner import plan
from cicada.window.words.draw_times import draw_time_of, draw_time_text, spikes_of


@pytest.mark.parametrize(
    ("text", "seconds"),
    [("120 ms", 0.12), ("0.12 s", 0.12), ("8/s", 0.125), ("8 fps", 0.125), ("0 ms", 0.0),
     ("12 pictures", 4000 / 48000), ("24 pictures a second", 2000 / 48000)],
)  # fmt: skip
def test_a_time_and_a_picture_rate_are_taken(text, seconds):
    assert draw_time_of(text, 48000) == pytest.approx(seconds, abs=1e-9)


@pytest.mark.parametrize(
    "text", ["", "fast", "12", "-3 ms", "0/s", "90 s", "1e400 s", "9" * 400 + " s"]
)
def test_what_is_none_is_refused(text):
    with pytest.raises(ValueError, match=r".+"):
        draw_time_of(text, 48000)


@pytest.mark.parametrize("text", ["8/s", "12/s", "24/s", "60/s", "120 ms", "45.5 ms"])
@pytest.mark.parametrize("rate", [44100, 48000])
def test_what_is_said_is_what_was_typed(text, rate):
    assert draw_time_text(draw_time_of(text, rate), rate) == text
    assert draw_time_text((0.1, 0.2), rate) == "unevenly"
    assert draw_time_text({"sc1": 0.1}, rate) == "unevenly"


def test_a_picture_rate_as_high_as_the_films_drops_nothing():
    project = empty_project("", (24, 1), 44100)
    made = plan(project, Run(draw_time=draw_time_of("24/s", 44100)))
    assert len(list(made.picture())) == 240


@pytest.mark.parametrize(
    ("text", "spikes"),
    [
        ("30 ms, 300 ms, one in 24, seed 7", (0.03, 0.3, 24.0, 7)),
        ("30 ms, 0.3 s, 24", (0.03, 0.3, 24.0, 1)),
        ("12,5 ms; 300 ms; 1/10; 3", (0.0125, 0.3, 10.0, 3)),
        ("8/s, 4/s, one in 2", (0.125, 0.25, 2.0, 1)),
    ],
)
def test_spikes_are_read(text, spikes):
    assert spikes_of(text, 48000) == spikes


@pytest.mark.parametrize(
    "text", ["", "30 ms", "30 ms, 300 ms", "30 ms, 300 ms, often", "a, b, 3", "1 ms, 2 ms, 0",
             "1 ms, 2 ms, 3, 4, 5", "1 ms, 2 ms, 3, seed x", "1 ms, 99 s, 3"],
)  # fmt: skip
def test_what_says_no_spikes_is_refused_with_a_sentence(text):
    with pytest.raises(ValueError, match=r"\w"):
        spikes_of(text, 48000)
