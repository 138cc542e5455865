"""What a plan says in files for other programs, read back by readers that are not ours."""

import csv
import io
import json
from itertools import pairwise

import jsonschema
import mido
import opentimelineio
import pytest
import webvtt
from hypothesis import given, settings
from hypothesis import strategies as st
from msgspec.structs import replace

from cicada.core.mix import Mixer
from cicada.core.model import Mark, Tempo
from cicada.core.passage import Passage
from cicada.core.plan import plan_to_builtins
from cicada.core.planner import plan
from cicada.core.recipes import Scope
from cicada.core.scoped import asked
from cicada.deliver.frame_levels import frame_levels, levels_csv, levels_json
from cicada.deliver.markers import as_midi
from cicada.deliver.player_data import PlayerData, as_json, exact
from cicada.deliver.schema import schema_text
from cicada.deliver.tables import COLUMNS, as_captions, as_csv
from cicada.deliver.timeline import as_timeline
from tests.core.films import projects
from tests.core.live_films import Films
from tests.core.test_mix import Noise

EVERY = settings(max_examples=12)
NAMES = ("One", 'Two, "quoted"', "<v Three> & more", "Four\nlines", "Fünf — 六")


def named(project):
    """The film with names that are hard to write, marks and tempos."""
    scenes = []
    for number, scene in enumerate(project.scenes):
        layers = tuple(
            replace(layer, name=NAMES[i % len(NAMES)]) for i, layer in enumerate(scene.layers)
        )
        scenes.append(replace(
            scene, name=NAMES[number % len(NAMES)], layers=layers,
            marks=(Mark(frame=0, text="a & b <c>"), Mark(frame=min(2, scene.length - 1), text="")),
            tempo=(Tempo(frame=0, bpm=97.3, offset=0.1), Tempo(frame=1, bpm=131.0)),
        ))  # fmt: skip
    return replace(project, name="Film: “one”", scenes=tuple(scenes))


answering = st.integers(0, 400).map(lambda seed: Films(seed).project())


@EVERY
@given(projects().map(named) | answering)
def test_player_data_are_as_their_schema_says_and_hold_the_plan(project):
    found = asked(project, Scope())
    told = json.loads(as_json(found))
    jsonschema.validate(told, json.loads(schema_text(PlayerData)))
    assert told["plan"] == json.loads(json.dumps(plan_to_builtins(found.plan)))
    for voice, planned in zip(told["voices"], found.plan.voices, strict=True):
        assert voice["begins"]["sample"] == planned.start
        assert round(float(voice["begins"]["seconds"]) * project.rate) == planned.start
        assert voice["ends"]["sample"] == planned.end


def numbers_in(part, name=""):
    if isinstance(part, dict):
        for key, each in part.items():
            yield from numbers_in(each, key)
    elif isinstance(part, list):
        for each in part:
            yield from numbers_in(each, name)
    elif isinstance(part, float):
        yield name


@pytest.mark.parametrize("seed", range(20))
def test_numbers_that_choose_when_or_which_are_texts(seed):
    loud = {"level", "pan", "level_line", "pan_line", "fade_in", "fade_out", "line", "master",
            "points", "at", "place", "to"}  # fmt: skip
    project, run = Films(seed, follows=True).film()
    assert set(numbers_in(exact(project))) <= loud - {"to"}
    assert set(numbers_in(exact(run))) <= {"draw_time"}


@EVERY
@given(projects().map(named), st.integers(1, 2))
def test_a_table_has_a_row_for_each_sounding(project, passes):
    found = asked(project, Scope(passes=passes))
    text = as_csv(found)
    rows = list(csv.DictReader(io.StringIO(text, newline="")))
    assert text.startswith(",".join(COLUMNS) + "\r\n")
    assert [int(row["start_sample"]) for row in rows] == [v.start for v in found.plan.voices]
    assert [int(row["end_sample"]) for row in rows] == [v.end for v in found.plan.voices]
    assert [row["layer"] for row in rows] == [
        project.layer(v.layer)[1].label for v in found.plan.voices
    ]


@EVERY
@given(projects().map(named))
def test_captions_are_read_with_their_times_and_texts(project):
    found = asked(project, Scope())
    read = list(webvtt.from_string(as_captions(found)))
    rate = found.plan.rate
    wanted = sorted(
        (milliseconds(v.start, rate), milliseconds(v.end, rate)) for v in found.plan.voices
    )
    times = [(_time(cue.start), _time(cue.end)) for cue in read if cue.voice]
    assert times == [time for time in wanted if time[0] != time[1]]
    marks = [cue.text for cue in read if not cue.voice]
    assert all("<c>" in text or "&" in text for text in marks)
    assert all(one.start <= two.start for one, two in pairwise(read))


def milliseconds(sample, rate):
    return (2000 * sample + rate) // (2 * rate)


def _time(text):
    hours, minutes, seconds = text.split(":")
    return round(1000 * (60 * (60 * int(hours) + int(minutes)) + float(seconds)))


@EVERY
@given(projects().map(named))
def test_a_timeline_is_read_with_every_stretch_where_the_plan_has_it(project):
    found = asked(project, Scope())
    text = as_timeline(found).decode()
    timeline = opentimelineio.adapters.read_from_string(text, "otio_json")
    heard = {}
    for track in timeline.audio_tracks():
        for clip in track.find_clips():
            told = clip.metadata["cicada"]
            start = int(clip.range_in_parent().start_time.value)
            length = int(clip.source_range.duration.value)
            key = told["layer"], told["frame"]
            heard.setdefault(key, set()).update(range(start, start + length, 7))
    (pictures,) = timeline.video_tracks()
    assert pictures.duration().value == found.plan.end
    planned = {}
    for voice in found.plan.voices:
        clip = next(k for k in project.layer(voice.layer)[1].keyframes if k.frame == voice.frame)
        silence = round(clip.delay * project.rate) + 1
        for start, end, clip_start in voice.pieces:
            begins = start + max(0, silence - clip_start)
            planned.setdefault((voice.layer, voice.frame), []).append((begins, end))
    for key, pieces in planned.items():
        for start, end in pieces:
            for sample in (start + 8, (start + end) // 2, end - 8):
                if start + 8 <= sample <= end - 8:
                    assert any(sample - 7 <= near <= sample for near in heard[key])


@EVERY
@given(projects().map(named), st.integers(1, 3))
def test_markers_stand_within_the_error_that_is_said(project, passes):
    found = asked(project, Scope(passes=passes))
    made = as_midi(found)
    file = mido.MidiFile(file=io.BytesIO(made.data), charset="utf-8")
    tempos, tick, at, length = [], 0, 0.0, 500_000
    for message in file.tracks[0]:
        at += mido.tick2second(message.time, file.ticks_per_beat, length)
        tick += message.time
        if message.type == "set_tempo":
            length = message.tempo
            tempos.append((tick, at, length))

    def moment(tick):
        begun, at, length = [change for change in tempos if change[0] <= tick][-1]
        return at + mido.tick2second(tick - begun, file.ticks_per_beat, length)

    starts = []
    for track in file.tracks[1:]:
        tick = 0
        for message in track:
            tick += message.time
            if message.type == "marker":
                starts.append(moment(tick))
    wanted = sorted(voice.start / found.plan.rate for voice in found.plan.voices)
    assert len(starts) == len(wanted)
    assert all(abs(a - b) <= made.error + 1e-9 for a, b in zip(sorted(starts), wanted, strict=True))
    # Half a tick of the slowest tempo.
    assert made.error <= 0.5 * 60 / 97.3 / 960 + 1e-6


@EVERY
@given(projects().map(named))
def test_levels_of_a_frame_are_those_of_its_samples(project):
    found = asked(project, Scope())
    levels = frame_levels(found, Noise(), frozenset(), lambda share: True)
    mix = Mixer(found.plan, project, Noise()).mix(0, max(1, found.plan.length))
    frames = list(found.plan.picture())
    for number in range(0, len(frames), 5):
        end = frames[number + 1].at if number + 1 < len(frames) else found.plan.end
        stretch = mix[:, frames[number].at : end]
        said = levels.levels[number][-1].peak
        peak = 0 if said is None else 10 ** (said / 20)
        assert peak == pytest.approx(abs(stretch).max(initial=0), rel=1e-2, abs=1e-4)
    table = list(csv.reader(io.StringIO("".join(levels_csv(found, levels)), newline="")))
    assert len(table) == len(frames) + 1
    assert {len(row) for row in table} == {4 + 2 * len(levels.names)}
    told = levels_json(found, levels)
    assert [len(row) for row in told["rms"]] == [len(frames)] * len(levels.names)
    assert json.loads(json.dumps(told))


def test_levels_can_be_stopped():
    found = asked(Films(1).project(), Scope())
    assert frame_levels(found, Noise(), frozenset(), lambda share: False) is None
    assert Passage(found, Noise()).length == plan(found.project).length
