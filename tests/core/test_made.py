"""Sounds made here: how long they are, when a pattern's notes are due, and what they follow."""

import pickle
from fractions import Fraction

import msgspec
import pytest
from hypothesis import given
from hypothesis import strategies as st
from msgspec.structs import replace

from cicada.core.all_edits import applied
from cicada.core.beats import beats
from cicada.core.frame_rate import KeepSeconds
from cicada.core.made import (
    BANDS,
    Countdown,
    Noise,
    RoomTone,
    Silence,
    SyncBeep,
    Tone,
    made_channels,
    made_frames,
    made_key,
)
from cicada.core.made_edits import ChangeMaking, made_sound, tempo_steps
from cicada.core.model import Sound, Take, empty_project, lowest_version
from cicada.core.patterns import (
    RINGS,
    TICKS,
    Note,
    Pattern,
    PatternPart,
    PlayedSound,
    TempoStep,
    Times,
    odd_parts,
    onsets,
    seconds_of,
)
from cicada.core.scene_edits import PutTempo, RemoveScene
from cicada.core.shelf_edits import AddSounds, AddTake, RemoveSounds, ReplaceSound
from cicada.core.timebase import parse_fps
from cicada.errors import BadEdit

RATE = 48000
BLANK = Sound(id="m1", name="Made", frames=1, rate=RATE, channels=1)


def part(*ticks, length=4 * TICKS, **more):
    return PatternPart(length=length, notes=tuple(Note(at, 240, 60.0) for at in ticks), **more)


@given(
    bpm=st.integers(30, 300),
    steps=st.lists(st.tuples(st.integers(1, 3839), st.integers(30, 300)), max_size=4),
    swing=st.sampled_from([0.5, 0.6, 2 / 3, 0.75]),
    at=st.integers(0, 3 * 4 * TICKS - 1),
)
def test_a_tick_is_due_when_the_tempos_before_it_add_up_to_it(bpm, steps, swing, at):
    steps = dict(sorted({0: bpm, **dict(steps)}.items()))
    pattern = Pattern(
        bpm=float(bpm), swing=swing, repeats=3, parts=(part(0),),
        steps=tuple(TempoStep(tick, float(b)) for tick, b in steps.items() if tick),
    )  # fmt: skip

    def within(tick):
        ends = [*list(steps)[1:], 4 * TICKS]
        total = Fraction(0)
        for (begin, tempo), end in zip(steps.items(), ends, strict=True):
            total += max(Fraction(0), min(tick, Fraction(end)) - begin) * Fraction(
                60, tempo * TICKS
            )
        return total

    rounds, tick = divmod(at, 4 * TICKS)
    pairs, inside = divmod(tick, TICKS)
    share, half = Fraction(swing), Fraction(TICKS, 2)
    if inside < half:
        inside = inside * 2 * share
    else:
        inside = TICKS * share + (inside - half) * 2 * (1 - share)
    wanted = rounds * within(Fraction(4 * TICKS)) + within(pairs * TICKS + inside)
    assert Times(pattern).at(at) == pytest.approx(float(wanted), abs=0.5 / 192_000)


def test_shorter_parts_go_round_until_the_longest_is_over_and_the_odd_one_is_known():
    pattern = Pattern(
        bpm=60.0, repeats=2,
        parts=(part(0), part(0, length=3 * TICKS), part(480, length=2 * TICKS), part(0, off=True)),
    )  # fmt: skip
    starts = {
        number: [round(x.start, 3) for x in onsets(pattern) if x.part == number]
        for number in range(4)
    }
    assert starts == {0: [0, 4], 1: [0, 3, 6], 2: [0.5, 2.5, 4.5, 6.5], 3: []}
    assert odd_parts(pattern) == {1: 4 / 3}
    assert seconds_of(pattern) == 8
    assert seconds_of(replace(pattern, ending="ring")) == 8 + RINGS
    assert seconds_of(Pattern(bpm=60.0)) == 4
    # What would sound past the end of all is cut there, and what stands past its round is silent.
    late = Pattern(
        bpm=60.0, parts=(PatternPart(notes=(Note(3000, 9000, 60.0), Note(9999, 1, 60.0))),)
    )
    assert [(x.start, x.end) for x in onsets(late)] == [(3.125, 4.0)]


@pytest.mark.parametrize(
    ("making", "seconds", "channels"),
    [
        (Silence(seconds=2.5), 2.5, 1), (Tone(), 1.0, 1), (Noise(wide=True), 2.0, 2),
        (RoomTone(wide=False), 10.0, 1), (SyncBeep(), 0.04, 1), (Pattern(bpm=120.0), 2.0, 2),
        (Countdown(beeps=4, every=0.5), 2.0, 1),
    ],
)  # fmt: skip
def test_how_long_it_is_and_how_many_channels_it_has_follow_from_how_it_is_made(
    making, seconds, channels
):
    sound = made_sound(BLANK, making, empty_project("Made", rate=44100))
    assert (sound.frames, sound.rate, sound.channels) == (round(seconds * 44100), 44100, channels)
    assert (made_frames(making, RATE), made_channels(making)) == (seconds * RATE, channels)
    assert (sound.file, sound.hash, sound.content) == ("", "", made_key(making))


def test_equal_makings_are_known_by_the_same_and_others_are_not():
    tones = [Tone(hertz=float(hertz)) for hertz in range(100, 800)]
    keys = [made_key(tone) for tone in tones]
    assert len(set(keys)) == len(tones)
    assert [made_key(Tone(hertz=tone.hertz)) for tone in tones] == keys
    assert made_key(tones[0]) == made_key(tones[0])
    # What has been in another process is the same, though its defaults are other objects.
    for making in (Tone(), following(), RoomTone()):
        assert made_key(pickle.loads(pickle.dumps(making))) == made_key(making)


def with_made(making, *sounds, project=None):
    project = project or empty_project("Made")
    made = made_sound(BLANK, making, project)
    return AddSounds(sounds=(*sounds, made)).apply(project)


def test_a_project_is_version_3_only_while_something_in_it_was_made_here():
    project = with_made(Silence())
    assert lowest_version(project) == 3
    assert lowest_version(RemoveSounds(sounds=("m1",)).apply(project)) == 1


def test_what_is_changed_is_made_anew_and_what_is_not_stays_as_it_was():
    project = with_made(Tone())
    saved = replace(project.sounds[0], file="a.wav", hash="blake2b:" + 40 * "0")
    project = replace(project, sounds=(saved,))
    assert ChangeMaking(sound="m1", making=Tone()).apply(project) == project
    after = ChangeMaking(sound="m1", making=Tone(seconds=3)).apply(project).sounds[0]
    assert (after.file, after.hash, after.frames) == ("", "", 3 * RATE)
    # Numbers are as a file would have them, so that it is known by the same.
    assert after.content == made_key(Tone(seconds=3.0))
    assert ChangeMaking(sound="m1", making=Tone()).title == "change how the sound is made"


@pytest.mark.parametrize(
    ("making", "said"),
    [
        (Tone(seconds=-1.0), "expected"), (Noise(level=99.0), "expected"),
        (Pattern(bpm=1.0, repeats=10_000), "hours long"), (RoomTone(bands=(0.1,)), "length"),
    ],
)  # fmt: skip
def test_what_could_not_be_in_a_file_is_refused(making, said):
    with pytest.raises(BadEdit, match=said):
        ChangeMaking(sound="m1", making=making).apply(with_made(Tone()))


def test_another_take_ends_the_making_and_what_it_was_stays_as_a_take_if_it_is_a_file():
    project = with_made(Tone())
    take = AddTake(
        sound="m1", take=Take(name="sung", file="b.wav", frames=9, rate=RATE, channels=1)
    )
    with pytest.raises(BadEdit, match="save the project first"):
        take.apply(project)
    saved = replace(project, sounds=(replace(project.sounds[0], file="a.wav"),))
    sound = take.apply(saved).sounds[0]
    assert (sound.making, sound.file, sound.takes[0].file) == (None, "b.wav", "a.wav")


def test_what_came_from_a_file_is_not_made_otherwise():
    imported = replace(BLANK, id="s9", name="Bell")
    project = AddSounds(sounds=(imported,)).apply(empty_project("x"))
    with pytest.raises(BadEdit, match="Bell was not made here"):
        ChangeMaking(sound="s9", making=Tone()).apply(project)


# -- what patterns follow -----------------------------------------------------------------------


def following(beats_long=4, **more):
    notes = part(*range(0, beats_long * TICKS, TICKS), length=beats_long * TICKS)
    return Pattern(follows="sc1", parts=(notes,), **more)


@pytest.mark.parametrize("fps", ["24", "30000/1001"])
def test_the_notes_of_a_pattern_fall_on_the_beats_of_its_scene_to_the_sample(fps):
    project = empty_project("Beats", fps=parse_fps(fps), length=480)
    project = with_made(following(16), project=project)
    for frame, bpm, offset in ((12, 100.0, 0.013), (100, 141.7, 0.0), (200, 77.0, 0.3)):
        edit = PutTempo(scene="sc1", frame=frame, bpm=bpm, offset=offset)
        project = applied(edit, project)
    wanted = [at for _, at in beats(project.scenes[0], project.timebase, 0, 10**9)][:16]
    making = project.sounds[0].making
    starts = [x.start * RATE for x in onsets(making)]
    assert starts == pytest.approx([at - wanted[0] for at in wanted], abs=0.01)
    assert project.sounds[0].frames == made_frames(making, RATE)
    assert project.sounds[0].content == made_key(making)


def test_a_change_of_tempo_changes_the_pattern_in_the_same_step_and_undo_takes_both_back():
    project = with_made(following())
    at_60 = applied(PutTempo(scene="sc1", frame=0, bpm=60.0), project)
    assert at_60.sounds[0].frames == 4 * RATE
    at_240 = applied(PutTempo(scene="sc1", frame=0, bpm=240.0), at_60)
    assert at_240.sounds[0].frames == RATE
    # Without a tempo to follow it stays at the last; so it does where the scene goes.
    none = applied(PutTempo(scene="sc1", frame=0, bpm=None), at_240)
    assert none.sounds[0].frames == RATE
    other = replace(at_240, scenes=(*at_240.scenes, replace(at_240.scenes[0], id="sc2", layers=())))
    gone = applied(RemoveScene(scene="sc1"), other)
    assert gone.sounds[0].making.follows is None
    assert gone.sounds[0].frames == RATE


def test_another_frame_rate_that_keeps_frames_moves_beats_and_the_pattern_with_them():
    project = applied(PutTempo(scene="sc1", frame=0, bpm=60.0), with_made(following()))
    project = applied(PutTempo(scene="sc1", frame=36, bpm=120.0), project)
    before = project.sounds[0].making
    after = applied(KeepSeconds(fps=(48, 1)), project).sounds[0].making
    assert [x.start for x in onsets(after)] == pytest.approx([x.start for x in onsets(before)])


def test_after_the_scenes_end_the_last_tempo_goes_on():
    project = empty_project("Short", length=24)
    project = PutTempo(scene="sc1", frame=0, bpm=120.0).apply(project)
    assert tempo_steps(project.scenes[0], project, 32 * TICKS) == [(0, 120.0)]
    assert tempo_steps(empty_project("None").scenes[0], project, TICKS) == []


def test_a_pattern_plays_a_sound_as_it_is_now_and_none_that_is_gone_or_a_pattern():
    bell = replace(BLANK, id="s1", name="Bell", hash="blake2b:" + 40 * "1")
    other = replace(BLANK, id="s2", name="Other", hash="blake2b:" + 40 * "2")
    played = Pattern(parts=(PatternPart(sound=PlayedSound("s1"), notes=(Note(0, 240, 60.0),)),))
    project = with_made(played, bell, other)
    project = applied(PutTempo(scene="sc1", frame=0, bpm=99.0), project)
    assert project.sounds[2].making.parts[0].sound.content == bell.hash
    exchanged = applied(ReplaceSound(sound="s1", by="s2"), project)
    now = exchanged.sounds[2]
    assert now.making.parts[0].sound == PlayedSound("s2", other.hash)
    assert now.content == made_key(now.making)
    assert applied(RemoveSounds(sounds=("s1",)), project).sounds[1].making.parts[0].sound is None
    itself = ChangeMaking(sound="m1", making=Pattern(parts=(PatternPart(sound=PlayedSound("m1")),)))
    assert applied(itself, project).sounds[2].making.parts[0].sound is None
    assert applied(ReplaceSound(sound="s2", by="s1"), project).sounds == project.sounds
    unmoved = applied(ReplaceSound(sound="s1", by="m1"), project)
    assert unmoved.sounds[2].making.parts[0].sound.sound == "s1"


def test_a_tempo_so_slow_that_the_pattern_would_last_for_days_is_not_followed():
    project = with_made(following(4, repeats=10_000))
    after = applied(PutTempo(scene="sc1", frame=0, bpm=1.0), project)
    assert after.sounds == project.sounds


def test_what_is_not_followed_is_the_same_object_as_before():
    project = with_made(Tone())
    after = applied(PutTempo(scene="sc1", frame=0, bpm=60.0), project)
    assert after.sounds is project.sounds
    nothing = empty_project("Nothing made")
    assert applied(PutTempo(scene="sc1", frame=0, bpm=60.0), nothing).sounds == ()


@pytest.mark.parametrize(
    "making", [Silence(), Tone(), RoomTone(bands=(0.1,) * len(BANDS)), following()]
)
def test_what_is_made_reads_back_from_json_as_it_was(making):
    sound = made_sound(BLANK, making, empty_project("x"))
    assert msgspec.json.decode(msgspec.json.encode(sound), type=Sound) == sound
