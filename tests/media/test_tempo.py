"""The tempo of generated patterns, and of what has none."""

import numpy as np
import pytest

from cicada.media.cache import user_cache
from cicada.media.tempo import find_tempos, tempos_in

RATE = 48000
# Swing, noise, rests, and notes a beat.
KINDS = {
    "plain": (0.0, 0.0, 0.0, 1),
    "eighths": (0.0, 0.0, 0.0, 2),
    "swung": (0.3, 0.0, 0.0, 2),
    "noisy": (0.0, 0.1, 0.0, 2),
    "with rests": (0.0, 0.03, 0.3, 2),
    "all of it": (0.3, 0.05, 0.3, 2),
}


def pattern(bpm, kind, seed=0, seconds=20):
    """An accented pattern in four, and the second of its first beat within a beat."""
    swing, noise, rests, notes = KINDS[kind]
    random = np.random.default_rng(seed)
    beat, sound = 60 / bpm, np.zeros(seconds * RATE)
    first = random.uniform(0, beat)

    def hit(at, level, pitch, decay):
        start = round(at * RATE)
        along = np.arange(max(0, min(len(sound) - start, RATE // 4))) / RATE
        rough = 0.3 * random.standard_normal(len(along)) * np.exp(-along / 0.01)
        wave = np.sin(2 * np.pi * pitch * along) + rough
        sound[start : start + len(along)] += level * np.exp(-along / decay) * wave

    for number in range(int((seconds - first) / beat) + 1):
        at = first + number * beat
        if number % 4 == 0 or random.random() >= rests:
            hit(at, 1.0 if number % 4 == 0 else 0.7, 80 if number % 2 == 0 else 200, 0.06)
        for note in range(1, notes):
            if random.random() >= rests:
                hit(at + beat * (note + swing) / notes, 0.3, 3000, 0.02)
    sound += noise * random.standard_normal(len(sound))
    return (sound[None] / np.abs(sound).max() * 0.8).astype(np.float32), first


def is_right(found, bpm, first):
    beat = 60 / bpm
    apart = (found.first - first) % beat
    return abs(found.bpm / bpm - 1) < 0.01 and min(apart, beat - apart) < 0.010


@pytest.mark.parametrize("kind", KINDS)
@pytest.mark.parametrize("bpm", [60, 72.5, 90, 104, 120, 133.3, 150, 180])
def test_the_tempo_and_first_beat_are_among_those_offered(bpm, kind):
    sound, first = pattern(bpm, kind, seed=round(bpm))
    found = find_tempos(sound, RATE).found
    assert any(is_right(each, bpm, first) for each in found)


@pytest.mark.parametrize("bpm", [100.0, 107.0, 118.5, 126.0])
def test_a_tempo_in_the_middle_is_the_first_answer_and_sure_to_its_last_beat(bpm):
    sound, first = pattern(bpm, "eighths")
    tempos = find_tempos(sound, RATE)
    best = tempos.found[0]
    assert is_right(best, bpm, first)
    assert tempos.sure
    # Half a frame at 24 a second, twenty seconds on.
    beats = int((20 - first) / (60 / bpm))
    assert abs(best.first + beats * 60 / best.bpm - (first + beats * 60 / bpm)) < 1 / 48


@pytest.mark.parametrize("factor", [0.5, 2.0, 1.5])
def test_halves_doubles_and_thirds_are_offered(factor):
    sound, _ = pattern(100.0, "eighths")
    found = [each.bpm for each in find_tempos(sound, RATE).found]
    assert any(abs(bpm / (found[0] * factor) - 1) < 0.01 for bpm in found)


def scattered():
    random, sound = np.random.default_rng(5), np.zeros((1, 20 * RATE))
    ring = np.exp(-np.arange(4800) / 2000) * np.sin(np.arange(4800) * 0.1)
    for at in random.uniform(0, 19.5, 40):
        sound[0, int(at * RATE) : int(at * RATE) + 4800] += ring
    return sound


@pytest.mark.parametrize(
    "sound",
    [
        np.random.default_rng(0).standard_normal((2, 20 * RATE)) * 0.2,
        np.sin(np.arange(20 * RATE) * 0.05)[None] * 0.3,
        np.zeros((1, 5 * RATE)),
        scattered(),
        pattern(120, "plain")[0][:, :RATE],
        np.zeros((1, 0)),
        np.ones((1, 5 * RATE)),
    ],
    ids=["noise", "tone", "silence", "scattered", "too short", "empty", "constant"],
)
def test_where_it_cannot_be_known_nothing_is_offered(sound):
    tempos = find_tempos(sound.astype(np.float32), RATE)
    assert tempos.found == ()
    assert not tempos.sure


def test_other_rates_are_heard_alike():
    sound, first = pattern(110, "eighths")
    found = find_tempos(sound[:, ::6], RATE // 6).found
    assert any(is_right(each, 110, first) for each in found)


def test_it_is_found_once_and_kept_beside_the_samples():
    cache = user_cache()
    key = cache.sound_key(f"blake2b:{77:040x}", RATE)
    assert tempos_in(cache, key, RATE) is None
    cache.put(key, pattern(96, "plain")[0])
    first = tempos_in(cache, key, RATE)
    assert abs(first.found[0].bpm - 96) < 1
    assert tempos_in(cache, key, RATE) == first
