"""Patterns as MIDI files: written so that others read the same, read whatever they hold."""

import io
from random import Random

import mido
import pytest
from hypothesis import given
from hypothesis import strategies as st
from msgspec.structs import replace

from cicada.core.patterns import TICKS, Note, Pattern, PatternPart, PlayedSound, TempoStep, Times
from cicada.errors import BadSound
from cicada.store.midi_file import losses, read_midi, understood, written

VOICES = ("drums", "struck", "plucked", "blown", "bowed", "sung")
notes = st.builds(
    Note, st.integers(0, 3839), st.integers(1, 2000),
    st.integers(36, 84).map(float), st.integers(1, 127).map(lambda n: n / 127),
)  # fmt: skip
parts = st.builds(
    PatternPart, name=st.text(st.characters(codec="ascii", categories=["L"]), max_size=8),
    voice=st.sampled_from(VOICES), length=st.sampled_from([2 * TICKS, 3 * TICKS, 4 * TICKS]),
    notes=st.lists(notes, max_size=6, unique_by=lambda n: (n.at, n.pitch)).map(tuple),
)  # fmt: skip
patterns = st.builds(
    Pattern, bpm=st.integers(40, 240).map(float), repeats=st.integers(1, 3),
    swing=st.sampled_from([0.5, 0.58, 2 / 3]),
    steps=st.lists(
        st.builds(TempoStep, st.integers(1, 3000), st.integers(40, 240).map(float)), max_size=2,
        unique_by=lambda step: step.at,
    ).map(tuple),
    parts=st.lists(parts, min_size=1, max_size=3).map(tuple),
)  # fmt: skip


def begun(track):
    """The beginnings of notes in a track, by another library: tick, pitch, strength."""
    at, found = 0, []
    for message in track:
        at += message.time
        if message.type == "note_on" and message.velocity:
            found.append((at, message.note, message.velocity))
    return sorted(found)


def wanted(pattern, number):
    part, times, found = pattern.parts[number], Times(pattern), []
    for begin in range(0, pattern.ticks, part.length):
        for note in part.notes:
            if note.at < part.length and begin + note.at < pattern.ticks:
                rounds, within = divmod(begin + note.at, pattern.round_ticks)
                at = rounds * pattern.round_ticks + times.swung(within)
                found.append((at, round(note.pitch), round(note.strength * 127)))
    return sorted(found)


@given(patterns)
def test_another_library_reads_every_note_within_a_tick_and_every_tempo(pattern):
    file = mido.MidiFile(file=io.BytesIO(written(pattern)))
    assert (file.type, file.ticks_per_beat) == (1, TICKS)
    tempos, *tracks = file.tracks
    assert len(tracks) == len(pattern.parts)
    for number, track in enumerate(tracks):
        found, due = begun(track), wanted(pattern, number)
        assert [x[1:] for x in sorted(found)] == [x[1:] for x in due] or len(found) == len(due)
        assert all(abs(a[0] - b[0]) <= 1 for a, b in zip(sorted(found), due, strict=True))
    assert sum(message.time for message in tempos) == pattern.ticks
    first = next(message for message in tempos if message.type == "set_tempo")
    assert first.tempo == round(60_000_000 / pattern.bpm)


@given(patterns.filter(lambda p: any(part.notes for part in p.parts)))
def test_what_was_written_reads_back_with_its_notes_and_tempos(pattern):
    straight = replace(pattern, swing=0.5, repeats=1)
    if not any(wanted(straight, number) for number in range(len(straight.parts))):
        return
    read = understood(written(straight)).pattern
    assert read.bpm == pytest.approx(straight.bpm, rel=1e-5)
    due = sorted(x for number in range(len(straight.parts)) for x in wanted(straight, number))
    found = sorted(
        (note.at, round(note.pitch), round(note.strength * 127))
        for part in read.parts
        for note in part.notes
    )
    assert found == due


def test_what_such_a_file_cannot_hold_is_said_beforehand():
    plain = Pattern(bpm=120.0, parts=(PatternPart(notes=(Note(0, 240, 60.0),)),))
    assert losses(plain) == []
    (part,) = plain.parts
    for changed, word in (
        (replace(plain, bpm=97.0), "microseconds"),
        (replace(plain, swing=0.61, parts=(replace(part, notes=(Note(241, 9, 60.0),)),)), "Swing"),
        (replace(plain, parts=(replace(part, notes=(Note(0, 9, 60.5),)),)), "between two pitches"),
        (replace(plain, parts=(replace(part, sound=PlayedSound("s1")),)), "of the shelf"),
        (replace(plain, parts=(replace(part, pan=0.3),)), "places"),
        (replace(plain, parts=(part, replace(part, off=True))), "off"),
    ):
        (said,) = losses(changed)
        assert word in said


def chunk(kind, data):
    return kind + len(data).to_bytes(4) + data


def file_of(*tracks, division=480, kind=1):
    head = kind.to_bytes(2) + len(tracks).to_bytes(2) + division.to_bytes(2)
    return chunk(b"MThd", head) + b"".join(chunk(b"MTrk", track) for track in tracks)


def test_running_status_other_divisions_and_notes_that_never_end_are_understood():
    track = bytes.fromhex("00c009 00903c64 60 3c00 00 4064 8360 ff2f00")
    read = understood(file_of(track, division=0x1E0))
    (part,) = read.pattern.parts
    assert part.voice == "struck"
    assert [(n.at, n.length, n.pitch) for n in part.notes] == [(0, 192, 60.0), (192, 960, 64.0)]
    by_time = understood(file_of(bytes.fromhex("00993264 28893200"), division=0xE728))
    assert "time codes" in by_time.said[0]
    assert by_time.pattern.parts[0].voice == "drums"
    odd = understood(file_of(bytes.fromhex("01903c64 01803c00"), division=7))
    assert "nearest" in odd.said[0]


@pytest.mark.parametrize(
    ("data", "said"),
    [
        (b"", "no MIDI file"), (b"RIFF" + bytes(40), "no MIDI file"),
        (file_of(b"\x00\xff\x2f\x00"), "no notes"), (file_of(division=0), "no ticks"),
        (file_of(bytes.fromhex("00903c64 ffffff7f 803c00"), division=1), "beats long"),
    ],
)  # fmt: skip
def test_what_cannot_be_a_pattern_is_refused_with_a_sentence(tmp_path, data, said):
    path = tmp_path / "a.mid"
    path.write_bytes(data)
    with pytest.raises(BadSound, match=said) as refused:
        read_midi(path)
    assert "a.mid" in str(refused.value)


def mutated(seed):
    random = Random(seed)
    part = PatternPart(voice="plucked", notes=tuple(Note(n * 240, 200, 60.0 + n) for n in range(8)))
    data = bytearray(written(Pattern(bpm=97.0, repeats=2, parts=(part, part))))
    for _ in range(random.randint(1, 12)):
        data = data or bytearray(9)
        at = random.randrange(len(data))
        match random.randrange(4):
            case 0:
                data[at] = random.randrange(256)
            case 1:
                del data[at : at + random.randint(1, 9)]
            case 2:
                data[at:at] = random.randbytes(random.randint(1, 9))
            case _:
                data = data[:at] or data
    return bytes(data)


def test_a_damaged_file_is_read_or_refused_and_nothing_else():
    for seed in range(2000):
        try:
            read = understood(mutated(seed))
        except BadSound:
            continue
        assert read.pattern.parts
