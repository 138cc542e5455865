"""The planner against the worked plans, against a second planner, and by its own rules."""

import json
from pathlib import Path

import msgspec
import pytest
from hypothesis import given
from msgspec.structs import replace

from cicada.core.model import Clip, Layer, PressPoint, Project, Run, Scene, Sound
from cicada.core.plan import Plan, plan_to_builtins
from cicada.core.planner import plan
from cicada.core.timebase import seconds_to_samples
from cicada.errors import BadProject
from tests.core.films import films, plain_films, projects, queues
from tests.core.slow_planner import slow_plan

WORKED = sorted((Path(__file__).parent / "worked_plans").glob("*.json"))
FIELDS = ("scene", "layer", "frame", "sound", "sync", "why", "ended", "pieces")


def comparable(shown: dict) -> dict:
    shown = json.loads(json.dumps(shown))
    voices = [{name: voice[name] for name in FIELDS} for voice in shown["voices"]]
    ordered = {
        "voices": sorted(voices, key=lambda v: json.dumps(v, sort_keys=True)),
        "events": sorted(shown["events"], key=lambda e: json.dumps(e, sort_keys=True)),
    }
    return {**shown, **ordered}


@pytest.mark.parametrize("path", WORKED, ids=lambda path: path.stem)
def test_worked_plan_is_reproduced(path):
    case = json.loads(path.read_text())
    project = msgspec.convert(case["project"], Project)
    made = plan(project, msgspec.convert(case["run"], Run))
    assert comparable(plan_to_builtins(made)) == comparable(case["plan"])


def test_the_worked_plans_are_all_here():
    assert len(WORKED) == 103


@given(films())
def test_both_planners_agree(film):
    project, run = film
    assert comparable(plan_to_builtins(plan(project, run))) == comparable(slow_plan(project, run))


@given(plain_films())
def test_both_planners_agree_on_films_of_plain_layers(film):
    project, run = film
    assert comparable(plan_to_builtins(plan(project, run))) == comparable(slow_plan(project, run))


@given(films())
def test_skip_never_overlaps_its_own_sound(film):
    project, run = film
    made = plan(project, replace(run, chase=True))
    for voice in made.voices:
        clip = clip_of(project, voice)
        if voice.sync == "locked" or clip.if_sounding != "skip" or voice.why != "fired":
            continue
        for other in made.voices:
            it = other.sound == voice.sound if clip.busy == "sound" else other.layer == voice.layer
            earlier = other.start < voice.start < other.end and other is not voice
            assert not (it and earlier and other.ended == "finished" and not other.fades) or (
                other.sync == "locked" and len(other.pieces) > 1
            )


@given(queues())
def test_a_queue_keeps_its_order_and_its_gaps(film):
    project, run = film
    made = plan(project, run)
    by_layer: dict[str, list] = {}
    for voice in made.voices:
        if voice.sync != "locked":
            by_layer.setdefault(voice.layer, []).append(voice)
    for voices in by_layer.values():
        for voice in voices:
            if voice.why == "queued":
                gap = seconds_to_samples(clip_of(project, voice).gap, made.rate)
                for other in voices:
                    if other.start < voice.start:
                        assert voice.start >= other.end + gap
    joined = [(e.layer, e.frame, e.visit) for e in made.events if e.kind == "queued"]
    started = [
        (v.layer, v.frame, v.visit)
        for v in made.voices
        if v.why == "queued" and (v.layer, v.frame, v.visit) in joined
    ]
    for layer in by_layer:
        order = [j for j in joined if j[0] == layer and j in started]
        assert [s for s in started if s[0] == layer] == order


@given(films())
def test_a_locked_voice_is_always_where_the_picture_is(film):
    project, run = film
    made = plan(project, run)
    base = made.timebase
    for voice in made.voices:
        if voice.sync != "locked":
            continue
        for piece in voice.pieces:
            for sample in (piece.start, piece.end - 1):
                visit, frame, _ = made.frame_at(sample)
                assert visit.scene == voice.scene
                stretch = made.stretch_at(sample)
                moved = max(0, sample - stretch.at - stretch.stands) + base.start(stretch.frame)
                clip_time = piece.clip_start + sample - piece.start
                assert clip_time == moved - base.start(voice.frame)
                assert frame >= voice.frame


@given(projects())
def test_chase_is_the_whole_run_with_its_origin_moved(project):
    whole = plan(project, Run())
    index = len(project.scenes) - 1
    scene = project.scenes[index]
    frame = scene.length // 2
    chased = plan(project, Run(scene=scene.id, frame=frame))
    origin = whole.entered(frame, index)
    assert origin is not None
    moved = [
        [
            [max(a, origin) - origin, b - origin, c + max(0, origin - a)]
            for a, b, c in v.pieces
            if b > origin
        ]
        for v in whole.voices
    ]
    pieces = sorted([p for p in moved if p])
    assert sorted([list(map(list, v.pieces)) for v in chased.voices]) == pieces
    assert chased.length == whole.length - origin
    shown = [(p.at - origin, p.scene, p.frame) for p in whole.picture() if p.at >= origin]
    assert [tuple(p) for p in chased.picture() if p.at > 0] == [s for s in shown if s[0] > 0]


@given(films())
def test_pictures_stand_where_the_plan_finds_them(film):
    made: Plan = plan(*film)
    for stretch in made.stretches:
        for at, frame in made.entries(stretch):
            assert made.entered(frame, stretch.visit) == at
            assert made.frame_at(at)[1] == frame


def clip_of(project, voice):
    _, layer = project.layer(voice.layer)
    return next(k for k in layer.keyframes if k.frame == voice.frame)


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
