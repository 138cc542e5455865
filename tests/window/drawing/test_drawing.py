"""What is drawn and said is what is planned: geometry and words held against the plan itself."""

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from PySide6.QtGui import QImage, QPainter

from cicada.core.editing import Cell
from cicada.core.keyframe_edits import MoveKeyframes
from cicada.core.layer_edits import ChangeLayer
from cicada.core.model import Clip, Layer, Project, Run, Scene, Sound
from cicada.core.placed import live_keyframes
from cicada.core.planner import plan
from cicada.window.drawing import paint as sheet_paint
from cicada.window.drawing.layout import SheetLayout
from cicada.window.drawing.narrow import RowWaves
from cicada.window.drawing.paint import paint_sheet
from cicada.window.drawing.shapes import Shapes
from cicada.window.drawing.sound_pictures import SoundPictures
from cicada.window.drawing.traces import EVERYWHERE, SceneTraces
from cicada.window.drawing.view import SheetView
from cicada.window.words.sentence import plain, sentence
from tests.core.films import projects


def place_of(project, planned, visit, sample, *, opened=False):
    """Where a sample stands on the axis, from the list of shown pictures alone.

    With opened waits a place is the frame and all standstills up to it, each in its frame's time.
    """
    stay = planned.visits[visit]
    pictures = [p for p in planned.picture() if stay.start <= p.at < stay.end]
    if not pictures:
        return 0.0
    waited = 0.0
    ends = [p.at for p in pictures[1:]] + [stay.end]
    for (at, _, frame), following in zip(pictures, ends, strict=True):
        duration = planned.timebase.duration(frame)
        stood = max(0, following - at - duration)
        if sample <= at:
            return frame + waited
        if sample < following:
            into = sample - at
            wide = min(into, stood) / duration if opened else 0.0
            return frame + waited + wide + max(0, into - stood) / duration
        waited += stood / duration if opened else 0.0
    return stay.last + waited


runs = st.builds(Run, passes=st.integers(1, 3))


@settings(max_examples=50)
@given(projects(), runs, st.booleans(), st.floats(0.5, 3000), st.floats(0, 20))
def test_every_sounding_is_drawn_once_within_half_a_pixel_of_where_the_plan_has_it(
    project, run, opened, scale, left
):
    planned = plan(project, run)
    layout = SheetLayout(scale=scale, left=left)
    for visit, stay in enumerate(planned.visits):
        scene = project.scene(stay.scene)
        made = SceneTraces(project, planned, scene, stay.number, opened=opened)
        drawn = {id(trace.voice): trace for row in made.rows for trace in row.traces}
        wanted = [
            v for v in planned.voices
            if v.visit == visit or (v.visit < visit and v.start < stay.end and v.end > stay.start)
        ]  # fmt: skip
        assert sorted(drawn) == sorted(map(id, wanted))
        for voice in wanted:
            trace = drawn[id(voice)]
            for place, sample in ((trace.start, voice.start), (trace.end, voice.end)):
                there = place_of(project, planned, visit, sample, opened=opened)
                assert layout.x(place) == pytest.approx(layout.x(there), abs=0.5)
            assert trace.goes_on == (voice.end > stay.end)
            assert bool(trace.come_from) == (voice.visit != visit)


@settings(max_examples=30)
@given(projects(), st.booleans())
def test_waits_ties_and_hushes_are_drawn_where_they_happen(project, opened):
    planned = plan(project, Run())
    for visit, scene in enumerate(project.scenes):
        made = SceneTraces(project, planned, scene, opened=opened)
        for row in made.rows:
            for trace in row.traces:
                queued = [
                    e.at for e in planned.events
                    if e.kind == "queued" and e.visit == visit
                    and (e.layer, e.frame) == (trace.voice.layer, trace.voice.frame)
                ]  # fmt: skip
                if queued and not trace.come_from:
                    there = place_of(project, planned, visit, queued[0], opened=opened)
                    assert trace.waits_from == pytest.approx(there)
        held = {e.frame: e.until - e.at for e in planned.events
                if e.kind == "held" and e.visit == visit}  # fmt: skip
        if made.axis is not None:
            assert {w.frame: w.samples for w in made.axis.waits} == held
        stay = planned.visits[visit]
        ending = {
            v.ended_by for v in planned.voices
            if v.ended == "hush" and (v.visit == visit or v.start < stay.end)
            and v.ended_by.scene == scene.id
        }  # fmt: skip
        for row in made.rows:
            for bar in row.bars:
                if bar.hush and not bar.off:
                    place = (scene.id, row.layer.id, bar.frame)
                    assert bar.idle == (place not in ending)


@settings(max_examples=25)
@given(projects(), st.booleans(), st.integers(0, 24))
def test_places_of_frames_and_frames_of_places_are_each_others_inverse(project, opened, frame):
    planned = plan(project, Run())
    made = SceneTraces(project, planned, project.scenes[0], opened=opened)
    if frame < project.scenes[0].length:
        assert made.frame_at(made.of_frame(frame)) == pytest.approx(frame)
        half = made.of_frame(frame + 1) - 0.5
        assert made.frame_at(half) == pytest.approx(frame + 0.5)


def test_a_row_that_differs_in_one_clip_is_painted_anew_about_that_one_only():
    scene = Scene(id="sc", length=200, layers=(Layer(id="l", keyframes=tuple(
        Clip(frame=frame, sound="s") for frame in range(0, 200, 20))),))  # fmt: skip
    sound = Sound(id="s", frames=4000, rate=8000, channels=1)
    before = Project(
        format="cicada-project", version=1, fps=(10, 1), rate=8000, sounds=(sound,), scenes=(scene,)
    )
    after = MoveKeyframes(moves=((Cell("l", 60), Cell("l", 63)),)).apply(before)
    old, new = (SceneTraces(p, plan(p), p.scenes[0]).rows[0] for p in (before, after))
    # From the clip whose span is longer now to the end of the one that was moved.
    assert new.changed_from(old) == (40.0, 68.0)
    same = SceneTraces(after, plan(after), after.scenes[0]).rows[0]
    assert same.changed_from(new) is None
    muted = ChangeLayer(layer="l", changes={"level": 0.5}).apply(after)
    loud = SceneTraces(muted, plan(muted), muted.scenes[0]).rows[0]
    assert loud.changed_from(new) == EVERYWHERE


@settings(max_examples=30)
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


@settings(max_examples=30)
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


class Undecoded:
    """No sound can be drawn yet; where they begin can be told all the same."""

    def peaks(self, sound):
        return None

    def read(self, sound):
        return None

    def overview(self, *_):
        return None


@settings(max_examples=30)
@given(projects(), runs, st.booleans(), st.floats(0.5, 400), st.floats(0, 20))
def test_no_words_cover_where_a_sound_begins(qapp, project, run, opened, scale, left):
    planned = plan(project, run)
    for stay in planned.visits[:4]:
        made = SceneTraces(project, planned, project.scene(stay.scene), stay.number, opened=opened)
        layout = SheetLayout(scale=scale, left=left, height=700)
        layout.rows = tuple(45 for _ in made.rows)
        layout.of_frame, layout.frame_of = made.of_frame, made.frame_at
        image = QImage(1200, 700, QImage.Format.Format_RGB32)
        view = SheetView(
            project=project, traces=made, layout=layout, sounds=Undecoded(),
            pictures=SoundPictures(lambda _: None), waves=lambda row: RowWaves(len(row.voices)),
            film=lambda frame, height: None, film_ratio=16 / 9, mix=None, width=1200, height=700,
        )  # fmt: skip
        covered = []

        class Watched(Shapes):
            def written(self, box, covered=covered):
                covered.append((self.row, box))

        painter = QPainter(image)
        with pytest.MonkeyPatch.context() as patch:
            patch.setattr(sheet_paint, "Shapes", Watched)
            paint_sheet(painter, view)
        painter.end()
        for row, box in covered:
            for start in row.starts.tolist():
                assert not box.left() <= layout.x(start) <= box.right()
