"""By how much sounds are ahead of the picture on a slow machine."""

import pytest
from hypothesis import given
from hypothesis import strategies as st
from msgspec.structs import replace

from cicada.core.drift import Lateness, drifts
from cicada.core.model import Clip, Run, Sound, empty_project
from cicada.core.planner import plan
from tests.core.films import films
from tests.core.slow_planner import slow_drift

SLOW = (0.05, 0.1, 0.25, (0.01, 0.2), (0.0, 0.0, 0.5), 0.043)


def reported(made):
    return [
        {
            "scene": d.voice.scene, "layer": d.voice.layer, "frame": d.voice.frame,
            "start": d.voice.start, "largest": d.largest, "last": d.last,
        }
        for d in drifts(made)
    ]  # fmt: skip


def key(each):
    return sorted(each.items())


@given(films(), st.sampled_from(SLOW))
def test_drift_is_what_the_rules_say_word_for_word(film, slow):
    project, run = film
    run = run if run.draw_time else replace(run, draw_time=slow)
    found = reported(plan(project, run))
    assert sorted(found, key=key) == sorted(slow_drift(project, run), key=key)


@given(films(), st.sampled_from(SLOW))
def test_drift_only_grows_and_its_steps_add_up_to_it(film, slow):
    project, run = film
    made = plan(project, replace(run, draw_time=slow))
    lateness = Lateness(made)
    for drift in drifts(made):
        assert (drift.ahead[1:] >= drift.ahead[:-1]).all()
        assert drift.ahead[0] >= 0
        steps = list(lateness.steps(drift.voice.start, int(drift.ats[-1])))
        assert sum(step.late for step in steps) == drift.last
        for step in steps:
            visit, frame, _ = made.frame_at(step.at)
            assert (visit.scene, frame) == (step.scene, step.frame)


@given(films())
def test_the_first_picture_beyond_a_tolerance_is_the_first(film):
    project, run = film
    for drift in drifts(plan(project, replace(run, draw_time=0.1))):
        beyond = drift.beyond(500)
        over = [at for at, ahead in zip(drift.ats, drift.ahead, strict=True) if ahead > 500]
        assert beyond == (over[0] if over else None)


@pytest.mark.parametrize("fps", [(24, 1), (25, 1), (30, 1), (12, 1), (24000, 1001), (30000, 1001),
                                 (50, 1), (60, 1), (60000, 1001), (120, 1)])  # fmt: skip
@pytest.mark.parametrize("rate", [8000, 44100, 48000, 96000])
def test_the_films_own_rate_as_draw_time_drops_and_drifts_nothing(fps, rate):
    project = empty_project("", fps, rate, length=500)
    clip = Clip(frame=3, sound="s", loops=0)
    layer = replace(project.scenes[0].layers[0], keyframes=(clip,))
    project = replace(
        project,
        sounds=(Sound(id="s", frames=rate, rate=rate, channels=1),),
        scenes=(replace(project.scenes[0], layers=(layer,)),),
    )
    own = rate * fps[1] // fps[0] / rate
    made = plan(project, Run(draw_time=own))
    assert len(list(made.picture())) == 500
    assert [drift.largest for drift in drifts(made)] == [0]
