"""What holds of the plan of any film."""

from hypothesis import given
from msgspec.structs import replace

from cicada.core.model import Hush, Run
from cicada.core.plan import Plan
from cicada.core.planner import plan
from cicada.core.timebase import seconds_to_samples
from tests.core.films import films, projects, queues


def clip_of(project, voice):
    _, layer = project.layer(voice.layer)
    return next(k for k in layer.keyframes if k.frame == voice.frame)


def longest_fade(project, voice, rate):
    """How long before its end a voice may have been let go without ending sooner, in samples."""
    clip = clip_of(project, voice)
    release = clip.release if clip.ends == "span" else 0.0
    keyframes = [key for scene in project.scenes for each in scene.layers for key in each.keyframes]
    hushes = [key.fade for key in keyframes if isinstance(key, Hush)]
    return seconds_to_samples(max([release, *hushes]), rate)


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
            may_be_let_go = voice.start > other.end - longest_fade(project, other, made.rate)
            assert not (it and earlier and other.ended == "finished" and not may_be_let_go) or (
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
