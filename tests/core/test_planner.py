"""The planner against the worked plans, against a second planner, and by its own rules."""

import json
from pathlib import Path

import msgspec
import pytest
from hypothesis import given

from cicada.core.model import Clip, Layer, PressPoint, Project, Run, Scene, Sound
from cicada.core.plan import plan_to_builtins
from cicada.core.planner import plan
from cicada.errors import BadProject
from tests.core.films import films, plain_films
from tests.core.live_films import live_film
from tests.core.slow_planner import slow_plan

PLANS = Path(__file__).parent / "worked_plans"
WORKED, LIVE = sorted(PLANS.glob("*.json")), sorted((PLANS / "live").glob("*.json"))
FIELDS = ("scene", "layer", "frame", "sound", "sync", "why", "ended", "pieces")
FURTHER = ("picked", "rise", "fades")


def in_any_order(items):
    return sorted(items, key=lambda item: json.dumps(item, sort_keys=True))


def comparable(shown: dict, fields=(*FIELDS, *FURTHER)) -> dict:
    """A plan in a form in which equal ones are equal; a field that is not there is none."""
    shown = json.loads(json.dumps(shown))
    voices = [
        {name: sorted(v[name]) if name == "fades" else v.get(name) for name in fields}
        for v in shown["voices"]
    ]
    return {
        **{name: shown[name] for name in ("rate", "fps", "end", "length", "picture")},
        "voices": in_any_order(voices),
        "events": in_any_order(shown["events"]),
        "glides": in_any_order(shown.get("glides", ())),
    }


def planned(path):
    """The plan that is made of a case, and the worked one."""
    case = json.loads(path.read_text())
    project = msgspec.convert(case["project"], Project)
    made = plan(project, msgspec.convert(case["run"], Run))
    return plan_to_builtins(made), case["plan"]


@pytest.mark.parametrize("path", WORKED, ids=lambda path: path.stem)
def test_worked_plan_is_reproduced(path):
    made, wanted = planned(path)
    assert comparable(made, FIELDS) == comparable(wanted, FIELDS)


@pytest.mark.parametrize("path", LIVE, ids=lambda path: path.stem)
def test_worked_plan_of_what_answers_is_reproduced(path):
    made, wanted = planned(path)
    assert comparable(made) == comparable(wanted)


def test_the_worked_plans_are_all_here():
    assert (len(WORKED), len(LIVE)) == (104, 164)


@given(films())
def test_both_planners_agree(film):
    project, run = film
    assert comparable(plan_to_builtins(plan(project, run))) == comparable(slow_plan(project, run))


@given(plain_films())
def test_both_planners_agree_on_films_of_plain_layers(film):
    project, run = film
    assert comparable(plan_to_builtins(plan(project, run))) == comparable(slow_plan(project, run))


@pytest.mark.parametrize("first", range(0, 500, 50))
def test_both_planners_agree_on_films_that_answer(first):
    for seed in range(first, first + 50):
        project, run = live_film(seed)
        made, wanted = plan_to_builtins(plan(project, run)), slow_plan(project, run)
        assert comparable(made) == comparable(wanted), f"seed {seed}"


def test_an_endless_run_ends_after_an_hour():
    project = msgspec.convert(json.loads(WORKED[0].read_text())["project"], Project)
    made = plan(project, Run(passes=0, press_points="pass"))
    assert made.end == 3600 * made.rate
    assert made.events[-1].kind == "limited"


def test_a_hold_held_past_the_limit_stops_the_run_there():
    project = msgspec.convert(json.loads(WORKED[0].read_text())["project"], Project)
    made = plan(project, Run(limit=0.001))
    assert made.end == made.length == made.rate // 1000


@pytest.mark.parametrize("run", [Run(scene="nowhere"), Run(frame=2_000_000)])
def test_a_run_that_starts_nowhere_is_refused_with_its_place(run):
    project = msgspec.convert(json.loads(WORKED[0].read_text())["project"], Project)
    with pytest.raises(BadProject) as caught:
        plan(project, run)
    assert caught.value.place.startswith("run.")


def test_a_frame_the_run_never_enters_has_no_moment():
    project = msgspec.convert(json.loads(WORKED[0].read_text())["project"], Project)
    made = plan(project, Run(limit=0.1))
    assert made.entered(10_000, 0) is None
    assert made.entered(0, -1) is None


def small(*keyframes, press_points=(), length=24):
    layer = Layer(id="l", keyframes=keyframes)
    sound = Sound(id="s", frames=8000, rate=8000, channels=1)
    scene = Scene(id="sc", length=length, press_points=press_points, layers=(layer,))
    return Project(
        format="cicada-project", version=1, fps=(24, 1), rate=8000, sounds=(sound,), scenes=(scene,)
    )


def kinds(made):
    return [event.kind for event in made.events]


def test_a_film_that_is_over_exactly_at_its_limit_is_not_limited():
    made = plan(small(Clip(frame=0, sound="s", sync="locked")), Run(limit=1.0))
    assert kinds(made) == []
    assert made.voices[0].ended == "finished"


def test_a_film_that_rings_on_at_its_limit_is_stopped_there():
    made = plan(small(Clip(frame=12, sound="s")), Run(limit=1.0))
    assert kinds(made) == ["limited"]
    assert (made.length, made.voices[0].ended) == (8000, "run")


def test_an_endless_hold_that_queues_says_so_and_does_not_hold():
    endless = Clip(frame=6, sound="s", sync="hold", loops=0, if_sounding="queue")
    made = plan(small(Clip(frame=0, sound="s"), endless), Run())
    assert kinds(made) == ["queued", "endless-hold"]
    assert made.end == 8000


def test_a_limit_reached_in_a_hold_before_a_press_point_ends_the_run_there():
    hold = Clip(frame=0, sound="s", sync="hold")
    project = small(hold, press_points=(PressPoint(frame=0),))
    made = plan(project, Run(limit=0.9, press_points="wait"))
    assert kinds(made) == ["held", "limited"]
    # At the very moment of its limit a run that stands for good is over by itself.
    made = plan(project, Run(limit=1.0, press_points="wait"))
    assert kinds(made) == ["held", "waiting"]
    assert made.events[0].until == made.end == 8000


def test_there_is_no_scene_of_an_unknown_id():
    with pytest.raises(KeyError):
        small().scene("nowhere")
