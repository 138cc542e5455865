"""What it costs to prove that the samples of the cache are what was written."""

import tempfile
from pathlib import Path

import numpy as np
from msgspec.structs import replace

from benchmarks.films import Noise, crowd
from benchmarks.runner import compare
from cicada.core.mix import Mixer
from cicada.core.planner import plan
from cicada.core.tone import InMemory
from cicada.deliver.levels import BLOCK
from cicada.media.cache import SoundCache
from cicada.media.peaks import PeakGatherer, Peaks
from cicada.media.sources import SoundSources

MANY = 300


def figures():
    made = crowd()
    hashes = {sound.id: f"blake2b:{number:040x}" for number, sound in enumerate(made.sounds)}
    made = replace(made, sounds=tuple(replace(s, hash=hashes[s.id]) for s in made.sounds))
    with tempfile.TemporaryDirectory() as folder:
        cache = SoundCache(Path(folder))
        noise = Noise(made).sounds
        for sound in made.sounds:
            key = cache.sound_key(sound.hash, made.rate)
            cache.put(key, noise[sound.id])
            gatherer = PeakGatherer()
            gatherer.append(np.ascontiguousarray(noise[sound.id].T))
            cache.put(cache.peaks_key(key), gatherer.peaks(sound.frames))
        yield mixing(made, cache)
        yield opening(made, cache)


def mixing(made, cache):
    planned = plan(made)

    class Bare:
        """The same samples, mapped and not proved."""

        def __init__(self):
            self.opened = {}

        def source(self, sound, first, last, speed):
            if sound not in self.opened:
                path = cache.path(cache.sound_key(made.sound(sound).hash, made.rate))
                self.opened[sound] = np.load(path, mmap_mode="r").view(np.ndarray)
            return InMemory(self.opened[sound][:, first:last])

    def mixed(sources):
        mixer = Mixer(planned, made, sources)
        for at in range(0, planned.length, BLOCK):
            mixer.mix(at, min(BLOCK, planned.length - at))

    return compare(
        "a first mix out of the cache, to one of samples not proved",
        lambda: mixed(SoundSources(made, {}, cache, only_cached=True)),
        lambda: mixed(Bare()),
        1.05,
    )


def opening(made, cache):
    """What a window reads of the cache when it opens a project of 300 sounds."""
    sounds = [made.sounds[number % len(made.sounds)] for number in range(MANY)]

    def proved():
        sources = SoundSources(made, {}, cache, only_cached=True)
        return [sources.peaks(sound.id) for sound in sounds]

    def bare():
        keys = [cache.peaks_key(cache.sound_key(s.hash, made.rate)) for s in sounds]
        return [
            Peaks(np.array(np.load(cache.path(key), mmap_mode="r")), sound.frames)
            for key, sound in zip(keys, sounds, strict=True)
        ]

    return compare("peaks of 300 sounds, to reading them unproved", proved, bare, 1.05)
