"""What is made here sounds as it says, the same each time, and each note where it is due."""

import numpy as np
import pytest
from msgspec.structs import replace

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
)
from cicada.core.patterns import TICKS, Note, Pattern, PatternPart, PlayedSound, onsets
from cicada.synth.instruments import DRUMS, INSTRUMENTS, hertz_of, note, playable
from cicada.synth.made import made_blocks
from cicada.synth.room import band_levels

RATE = 48000
MADE = [
    Silence(), Tone(shape="saw"), Tone(shape="square"), Tone(shape="triangle"), SyncBeep(),
    Noise(colour="brown"), Noise(colour="white", wide=True), Countdown(),
    RoomTone(seconds=2.0, bands=tuple(0.01 / (1 + n) for n in range(len(BANDS)))),
]  # fmt: skip


def nothing(_):
    return None


def heard(making, rate=RATE, played=nothing):
    return np.concatenate(list(made_blocks(making, rate, played)))


def beat(*pitches, voice="drums", length=4 * TICKS, **more):
    notes = tuple(Note(n * TICKS, 240, float(p)) for n, p in enumerate(pitches))
    return PatternPart(voice=voice, notes=notes, length=length, **more)


@pytest.mark.parametrize(
    "making", [*MADE, Pattern(parts=(beat(36, 38, 42, 46),))], ids=lambda m: repr(m)[:12]
)
@pytest.mark.parametrize("rate", [8000, 44100, 192_000])
def test_it_is_as_long_as_it_says_the_same_each_time_and_on_the_grid_of_24_bits(making, rate):
    samples = heard(making, rate)
    assert samples.shape == (made_frames(making, rate), made_channels(making))
    assert samples.dtype == np.float32
    np.testing.assert_array_equal(samples, heard(making, rate))
    whole = samples.astype(np.float64) * (1 << 23)
    np.testing.assert_array_equal(whole, np.rint(whole))
    assert np.abs(samples).max() <= 1


@pytest.mark.parametrize("hertz", [50.0, 440.0, 1234.5, 15_000.0])
def test_a_tone_is_at_its_frequency_and_level(hertz):
    samples = heard(Tone(seconds=2.0, hertz=hertz, level=0.25))[:, 0]
    spectrum = np.abs(np.fft.rfft(samples * np.hanning(len(samples))))
    assert np.argmax(spectrum) / 2 == pytest.approx(hertz, abs=0.5)
    assert np.abs(samples).max() == pytest.approx(0.25, rel=0.01)
    assert samples[0] == pytest.approx(0, abs=0.01)


@pytest.mark.parametrize(
    ("colour", "per_octave"), [("white", 0.0), ("pink", -3.0), ("brown", -6.0)]
)
def test_noise_falls_as_its_colour_says_and_has_its_level(colour, per_octave):
    samples = heard(Noise(seconds=30.0, colour=colour, level=0.05, seed=3))
    levels = 20 * np.log10(np.array(band_levels(samples.T, RATE))[6:24])
    # Thirds of an octave of white noise hold 1 dB more each.
    slope = np.polyfit(np.arange(len(levels)), levels, 1)[0] * 3 - 3
    assert slope == pytest.approx(per_octave, abs=0.4)
    assert np.sqrt((samples.astype(float) ** 2).mean()) == pytest.approx(0.05, rel=0.12)


def test_the_sides_of_what_is_wide_have_nothing_in_common():
    wide = heard(Noise(seconds=5.0, colour="white", wide=True))
    assert abs(np.corrcoef(wide.T)[0, 1]) < 0.01
    other = heard(Noise(seconds=5.0, colour="white", wide=True, seed=2))
    assert abs(np.corrcoef(wide[:, 0], other[:, 0])[0, 1]) < 0.01


def test_room_tone_has_the_levels_of_the_room_it_was_measured_in():
    room = heard(Noise(seconds=20.0, colour="brown", level=0.03, wide=True))
    bands = band_levels(room.T, RATE)
    again = band_levels(heard(RoomTone(seconds=20.0, bands=bands)).T, RATE)
    apart = 20 * np.log10(np.array(again[3:]) / np.array(bands[3:]))
    assert np.abs(apart).max() < 1.0
    assert band_levels(np.zeros((1, 10), np.float32), RATE) == (0.0,) * len(BANDS)
    assert band_levels(np.zeros((0, 10), np.float32), RATE) == (0.0,) * len(BANDS)


def test_a_countdown_beeps_each_time_and_then_is_silent_as_long():
    samples = heard(Countdown(beeps=3, every=0.5))[:, 0]
    for number in range(3):
        assert np.abs(samples[number * 24_000 :][:100]).max() > 0.05
        assert not samples[number * 24_000 + 5000 : (number + 1) * 24_000].any()
    assert len(samples) == 72_000


@pytest.mark.parametrize("swing", [0.5, 0.62])
@pytest.mark.parametrize("ending", ["cut", "ring", "fold"])
def test_each_note_begins_within_a_sample_of_its_beat(swing, ending):
    eighths = tuple(Note(n * 480, 100, 80.0) for n in range(8))
    pattern = Pattern(
        bpm=113.0, swing=swing, ending=ending, repeats=3,
        parts=(PatternPart(voice="struck", notes=eighths),),
    )  # fmt: skip
    alone = note("struck", 80.0, 0.001, RATE)
    samples = heard(pattern)[:, 0]
    for onset in list(onsets(pattern))[::5]:
        due = round(onset.start * RATE)
        # Its first samples are those of the note, on top of what rings there already.
        bare = replace(pattern, parts=tuple(
            replace(part, notes=tuple(n for n in part.notes if n is not onset.note))
            for part in pattern.parts
        ))  # fmt: skip
        apart = samples - heard(bare)[:, 0]
        first = np.flatnonzero(np.abs(apart) > 2e-7)
        nearest = first[np.argmin(np.abs(first - due))]
        assert abs(nearest - due) <= 4
        piece = apart[due : due + 200]
        np.testing.assert_allclose(piece, 0.8 * alone[:200].astype(np.float32), atol=3e-6)


def test_folded_it_goes_round_without_a_seam():
    part = PatternPart(voice="plucked", length=2 * TICKS, notes=(Note(1800, 120, 50.0),))
    once = Pattern(bpm=120.0, ending="fold", parts=(part,))
    samples = heard(once)
    twice = heard(replace(once, ending="ring", repeats=3))
    np.testing.assert_allclose(samples, twice[len(samples) : 2 * len(samples)], atol=3e-7)


def test_cut_it_ends_in_silence_and_rung_out_it_goes_on():
    part = PatternPart(voice="struck", length=TICKS, notes=(Note(900, 60, 60.0),))
    cut = heard(Pattern(bpm=120.0, parts=(part,)))
    assert np.abs(cut[-1]).max() < 1e-3
    rung = heard(Pattern(bpm=120.0, ending="ring", parts=(part,)))
    assert np.abs(rung[len(cut) + 1000 : len(cut) + 5000]).max() > 0.05


def test_parts_have_levels_and_places_and_those_off_are_not_heard():
    whole = heard(Pattern(parts=(beat(36),)))
    half = heard(Pattern(parts=(beat(36, level=0.5),)))
    np.testing.assert_allclose(half, whole / 2, atol=3e-7)
    left = heard(Pattern(parts=(beat(36, pan=-1.0),)))
    assert not left[:, 1].any()
    assert left[:, 0].any()
    assert not heard(Pattern(parts=(beat(36, off=True),))).any()
    assert not heard(Pattern()).any()


def test_a_sound_of_the_shelf_is_played_at_its_pitch_and_let_go_with_its_note():
    sine = np.sin(2 * np.pi * 220.0 / RATE * np.arange(RATE * 2))[None].astype(np.float32) * 0.3

    def played(sound):
        return sine if sound == "s1" else None

    def of(pitch, sound="s1"):
        part = PatternPart(
            sound=PlayedSound(sound, root=57.0), notes=(Note(0, TICKS, float(pitch), 1.0),)
        )
        return heard(Pattern(bpm=60.0, parts=(part,)), played=played)

    np.testing.assert_allclose(of(57)[:RATE, 0], sine[0, :RATE], atol=3e-7)
    octave = of(69)[:RATE, 0]
    spectrum = np.abs(np.fft.rfft(octave * np.hanning(RATE)))
    assert np.argmax(spectrum) == 440
    assert not of(57)[RATE + 5000 :].any()
    assert not of(57, "s9").any()
    assert not of(57 + 30).any()


@pytest.mark.parametrize("voice", INSTRUMENTS)
def test_a_voice_plays_its_range_in_tune_and_nothing_outside_it(voice):
    instrument = INSTRUMENTS[voice]
    for pitch in (instrument.low, (instrument.low + instrument.high) // 2, instrument.high):
        samples = note(voice, pitch, 1.0, RATE)
        assert 0.02 < np.abs(samples).max() < 1.0
        assert abs(samples[0]) < 0.02
        assert abs(samples[-1]) < 0.02
        spectrum = np.abs(np.fft.rfft(samples * np.hanning(len(samples)), 1 << 18))
        per_bin = RATE / (1 << 18)
        low = round(hertz_of(pitch) * 0.94 / per_bin)
        power = spectrum[low : round(hertz_of(pitch) * 1.06 / per_bin)] ** 2
        # Its middle: what wavers is as much above as below.
        found = (low + (np.arange(len(power)) * power).sum() / power.sum()) * per_bin
        assert 1200 * abs(np.log2(found / hertz_of(pitch))) < 10
    assert not playable(voice, instrument.low - 1)
    assert not len(note(voice, instrument.high + 0.5, 1.0, RATE))


@pytest.mark.parametrize("pitch", DRUMS)
@pytest.mark.parametrize("rate", [8000, RATE])
def test_every_drum_sounds_and_begins_and_ends_softly(pitch, rate):
    samples = note("drums", float(pitch), 0.1, rate)
    assert 0.05 < np.abs(samples).max() < 1.5
    assert abs(samples[0]) < 0.1
    assert np.abs(samples[-20:]).max() < 0.05
    assert not len(note("drums", 1.0, 0.1, rate))
