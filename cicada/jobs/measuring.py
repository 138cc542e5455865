"""Jobs that measure sounds, and get one ready to be listened to."""

from pathlib import Path

import numpy as np
from msgspec import Struct
from msgspec.structs import replace

from cicada.core.clip import clip_timing
from cicada.core.lengths import length_of
from cicada.core.loudness import Loudness
from cicada.core.mix import Mixer
from cicada.core.model import Clip, Layer, Project, Scene
from cicada.core.planner import plan as plan_of
from cicada.core.silent import muted
from cicada.core.timebase import resampled_length
from cicada.core.tone import right
from cicada.core.true_peak import TruePeak
from cicada.deliver.levels import BLOCK
from cicada.errors import BadSound, Cancelled
from cicada.jobs.worker import decoded, progress
from cicada.media.cache import SoundCache
from cicada.media.ingest import ingest
from cicada.media.measures import Measures, heard_loudness, known_measures, measured
from cicada.media.moments import Moments, moments_in, suggested_overlap
from cicada.media.sources import SoundSources
from cicada.media.tempo import Tempos, tempos_in

# How often a clip's loops are played to measure how loud it is.
LOOPS_HEARD = 3


def take_measures(path: Path | None, content: str, rate: int, cache: Path) -> Measures | None:
    """Measure a sound, decoding it first if need be; None if it is nowhere to be had."""
    store = SoundCache(cache)
    key = store.sound_key(content, rate)
    known = known_measures(store, key)
    if known is not None:
        return known
    here = store.has(key) and store.has(store.peaks_key(key))
    if path is not None and not here and ingest(path, rate, store, progress).hash != content:
        return None
    decoded()
    return measured(store, key, rate)


class Listenable(Struct, frozen=True):
    """A sound ready to be listened to: its key in the cache, its length there, its measures."""

    key: str
    samples: int
    measures: Measures | None


def hear_file(path: Path, content: str, rate: int, cache: Path) -> Listenable:
    """Have a file decoded and measured; ``content`` is the hash it should have, if any."""
    store = SoundCache(cache)
    taken = ingest(path, rate, store, progress)
    if content and taken.hash != content:
        raise BadSound(
            "has changed since it was imported",
            file=str(path),
            remedy="take it in as a new take to hear it as it is now",
        )
    key = store.sound_key(taken.hash, rate)
    samples = resampled_length(taken.info.frames, taken.info.rate, rate)
    decoded()
    return Listenable(key, samples, measured(store, key, rate))


class Together(Struct, frozen=True):
    """What is heard of something made of sounds: keys of the cache, how long, how loud."""

    keys: tuple[str, ...]
    samples: int
    measures: Measures | None


def hear_together(
    project: Project, files: dict[str, Path], cache: Path, sounds: tuple[str, ...]
) -> Together:
    """Have sounds and playlists in the cache, to be heard at once; the first is measured."""
    store = SoundCache(cache)
    sources = SoundSources(project, files, store)
    keys = []
    for sound in sounds:
        key = sources.key(sound) if sources.whole(sound) is not None else None
        if key is None:
            raise BadSound(
                f"cannot be heard: {sources.why_silent(sound)}",
                file=project.placeable(sound).label,
                remedy="find its sounds first",
            )
        keys.append(key)
        progress(len(keys) / len(sounds))
    decoded()
    length = min(length_of(project, sound) for sound in sounds)
    return Together(tuple(keys), length, measured(store, keys[0], project.rate))


class FilmLevels(Struct, frozen=True):
    """The film as it is mixed down: ``loudness`` in LUFS (None: too quiet or short), linear peaks.

    ``loudest`` is the highest momentary loudness.
    """

    loudness: float | None
    loudest: float | None
    peak: float
    true_peak: float


def film_levels(project: Project, files: dict[str, Path], cache: Path) -> FilmLevels:
    """Measure one pass of the film; sounds that are not in the cache are silent."""
    sources = SoundSources(project, files, SoundCache(cache), only_cached=True)
    mixer = Mixer(plan_of(project), project, sources, muted(project))
    loud, true, peak = Loudness(project.rate), TruePeak(), 0.0
    for start in range(0, mixer.length, BLOCK):
        if not progress(start / mixer.length):
            raise Cancelled("measuring the film was stopped")
        block = mixer.mix(start, min(BLOCK, mixer.length - start))
        loud.add(block)
        true.add(block)
        peak = max(peak, float(np.abs(block).max(initial=0.0)))
    return FilmLevels(loud.integrated, loud.loudest, peak, float(true.held.max()))


def find_tempo(project: Project, files: dict[str, Path], cache: Path, sound: str) -> Tempos | None:
    """The tempos of a sound; None if it is not in the cache."""
    key = SoundCache(cache).sound_key(project.sound(sound).content, project.rate)
    return tempos_in(SoundCache(cache), key, project.rate)


def find_hits(key: str, rate: int, cache: Path) -> Moments | None:
    """The hits of the samples under ``key``; None if these are not in the cache."""
    return moments_in(SoundCache(cache), key, rate)


def fitting_overlap(
    project: Project, files: dict[str, Path], cache: Path, clip: Clip
) -> float | None:
    """Seconds by which a clip's loops might overlap, from how it dies away; None if unknown."""
    sources = SoundSources(project, files, SoundCache(cache), only_cached=True)
    timing = clip_timing(clip, length_of(project, clip.sound), project.rate)
    source = sources.source(clip.sound, timing.first, timing.last, clip.speed)
    if source is None or not right(source, 0, source.samples.shape[1]):
        return None
    return suggested_overlap(source.samples, project.rate)


def loudnesses(
    project: Project, files: dict[str, Path], cache: Path, clips: list[tuple[Clip, float]]
) -> list[float | None]:
    """How loud each clip is by itself, in LUFS, on a layer of that level; None: silent.

    It is mixed as it will be, with its lines and fades, the first minute of it, and its loops
    three times at most.
    """
    sources = SoundSources(project, files, SoundCache(cache))
    found = []
    for clip, level in clips:
        loops = min(clip.loops or LOOPS_HEARD, LOOPS_HEARD)
        alone = replace(
            clip, frame=0, off=False, sync="free", ends="ring", if_sounding="on_top", loops=loops
        )
        layer = Layer(id="alone", level=level, keyframes=(alone,))
        scene = Scene(id="alone", length=1, layers=(layer,))
        by_itself = replace(project, scenes=(scene,), level=1.0)
        made = plan_of(by_itself)
        samples = Mixer(made, by_itself, sources).mix(0, min(made.length, 60 * project.rate))
        found.append(heard_loudness(samples.astype(np.float32), project.rate))
        progress(len(found) / len(clips))
    return found
