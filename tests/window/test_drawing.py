"""What is drawn and said is what is planned: geometry and words held against the plan itself."""

from bisect import bisect_right

import pytest
from hypothesis import given, settings

from cicada.core.model import Clip, Run
from cicada.core.placed import live_keyframes
from cicada.core.planner import plan
from cicada.window.sentence import plain, sentence
from cicada.window.traces import SceneTraces
from tests.core.films import projects


def place_of(project, planned, visit, sample):
    """Where a sample stands on the axis, from the list of shown pictures alone."""
    stay = planned.visits[visit]
    if sample <= stay.start:
        return 0.0
    if sample >= stay.end:
        return stay.last
    shown = [p for p in planned.picture() if stay.start <= p.at < stay.end]
    index = bisect_right([p.at for p in shown], sample) - 1
    at, _, frame = shown[index]
    following = shown[index + 1].at if index + 1 < len(shown) else stay.end
    duration = planned.timebase.duration(frame)
    stood = following - at - duration
    return frame + max(0, sample - at - stood) / duration


@settings(max_examples=60)
@given(projects())
def test_every_sounding_is_drawn_once_where_the_plan_has_it(project):
    planned = plan(project, Run())
    for visit, scene in enumerate(project.scenes):
        stay = planned.visits[visit]
        drawn = {
            id(trace.voice): trace
            for row in SceneTraces(project, planned, scene).rows
            for trace in row.traces
        }
        wanted = [
            v for v in planned.voices
            if v.visit == visit or (v.visit < visit and v.start < stay.end and v.end > stay.start)
        ]  # fmt: skip
        assert sorted(drawn) == sorted(map(id, wanted))
        for voice in wanted:
            trace = drawn[id(voice)]
            assert trace.start == pytest.approx(place_of(project, planned, visit, voice.start))
            assert trace.end == pytest.approx(place_of(project, planned, visit, voice.end))
            assert trace.goes_on == (voice.end > stay.end)


@settings(max_examples=60)
@given(projects())
def test_every_clip_left_out_is_struck_through(project):
    planned = plan(project, Run())
    for visit, scene in enumerate(project.scenes):
        strikes = [
            s.frame for row in SceneTraces(project, planned, scene).rows for s in row.strikes
        ]
        events = [
            e.frame for e in planned.events
            if e.visit == visit and e.kind in ("skipped", "unqueued")
        ]  # fmt: skip
        assert sorted(strikes) == sorted(events)


@settings(max_examples=60)
@given(projects())
def test_the_sentence_names_the_frame_the_end_and_the_reason(project):
    planned = plan(project, Run())
    reasons = {
        "hush": "hushed", "restarted": "starts over", "scene": "ends with its scene",
        "run": "until the film is over",
    }  # fmt: skip
    for visit, scene in enumerate(project.scenes):
        for layer in scene.layers:
            for keyframe in live_keyframes(scene, layer):
                words = plain(sentence(project, planned, scene, layer, keyframe))
                assert words.endswith(".")
                assert f"frame {keyframe.frame + 1}" in words
                if not isinstance(keyframe, Clip):
                    continue
                mine = [
                    v for v in planned.voices
                    if v.visit == visit and (v.layer, v.frame) == (layer.id, keyframe.frame)
                ]  # fmt: skip
                if not mine:
                    assert any(w in words for w in ("never", "left out", "does not sound"))
                elif keyframe.sync == "free" and mine[0].ended in reasons:
                    assert reasons[mine[0].ended] in words
