"""The slow jobs the window hands to a worker process. No Qt here, and nothing shared but files."""

import os
import re
import shutil
from collections.abc import Callable
from contextlib import suppress
from multiprocessing.sharedctypes import SynchronizedArray
from pathlib import Path
from typing import TypeVar

import numpy as np
from msgspec import Struct
from msgspec.structs import replace

from cicada.core.arrays import Samples
from cicada.core.editing import Changes
from cicada.core.mix import Mixer
from cicada.core.model import Clip, Layer, Project, Scene, Sound
from cicada.core.plan import Plan
from cicada.core.planner import plan as plan_of
from cicada.core.timebase import resampled_length
from cicada.deliver.mix_peaks import block_peaks
from cicada.deliver.mixdown import Mixdown, mixdown
from cicada.errors import BadSound, CicadaError
from cicada.media.cache import SoundCache
from cicada.media.decode import describe
from cicada.media.ingest import Ingested, content_hash, ingest, seen_hash
from cicada.media.measures import Measures, known_measures, loudness, measured
from cicada.media.moments import Moments, moments_in, suggested_overlap
from cicada.media.parent import end_with_window
from cicada.media.sources import SoundSources
from cicada.store.importing import is_sound_name
from cicada.store.projectfile import dumps
from cicada.store.sounds_folder import keep, moved, relative

# Of each job under way: the share done, how often it has said so, and whether it is to stop.
FIELDS = 3
# How often a clip's loops are played to measure how loud it is.
LOOPS_HEARD = 3


class _Worker:
    """The worker this process is: the numbers it shares with the window, the job it is at."""

    shared: "SynchronizedArray[float] | None" = None
    slot = 0


def begin_worker(shared: "SynchronizedArray[float]") -> None:
    """Set up a fresh worker process, which gives way to the window and the player."""
    _Worker.shared = shared
    os.nice(10)
    end_with_window()


Result = TypeVar("Result")


def do(slot: int, work: Callable[..., Result], arguments: tuple[object, ...]) -> Result:
    """Do a piece of work as the job in ``slot``."""
    _Worker.slot = slot
    heard(0.0)
    return work(*arguments)


def heard(share: float) -> bool:
    """Say how far the job is; whether to go on."""
    shared, at = _Worker.shared, _Worker.slot * FIELDS
    if shared is None:
        return True
    shared[at] = share
    shared[at + 1] += 1
    return not shared[at + 2]


def decoded() -> None:
    """Say that decoding is over: what follows may take its time and counts as no hanging."""
    if _Worker.shared is not None:
        _Worker.shared[_Worker.slot * FIELDS + 1] = 0


# -- bringing in ------------------------------------------------------------------------------


class Found(Struct, frozen=True):
    """What there is to import among some files and folders; ``others`` counts what is no sound."""

    sounds: tuple[Path, ...]
    others: int


def find_sounds(paths: list[Path]) -> Found:
    """Files as they are named, and of folders all that look like sounds, in the order of names."""
    sounds: list[Path] = []
    others = 0
    for path in paths:
        if not path.is_dir():
            sounds.append(path)
            continue
        for folder, below, names in os.walk(path):
            below[:] = sorted(name for name in below if not name.startswith("."))
            for name in sorted(name for name in names if not name.startswith(".")):
                if is_sound_name(name):
                    sounds.append(Path(folder) / name)
                else:
                    others += 1
            if not heard(0.0):
                return Found((), 0)
    return Found(tuple(dict.fromkeys(sounds)), others)


def take_in(path: Path, rate: int, cache: Path) -> Ingested:
    """Decode a sound file into the cache; raises ``BadSound``."""
    return ingest(path, rate, SoundCache(cache), heard)


def keep_file(path: Path, content: str, project_file: Path) -> str:
    """Copy a sound file into the project's sounds folder; its path relative to the project."""
    return keep(path, content, project_file, heard)


def copied_beside(project: Project, file: Path, target: Path) -> bytes:
    """The project of ``file`` as it must be written at ``target``, where its sounds are copied.

    As a file's text: what travels between processes has texts of its own, which the writer would
    not know for the defaults they are.
    """
    return dumps(moved(project, file, target))


def take_measures(path: Path | None, content: str, rate: int, cache: Path) -> Measures | None:
    """Measure a sound, decoding it first if need be; None if it is nowhere to be had."""
    store = SoundCache(cache)
    key = store.sound_key(content, rate)
    known = known_measures(store, key)
    if known is not None:
        return known
    here = store.has(key) and store.has(store.peaks_key(key))
    if path is not None and not here and ingest(path, rate, store, heard).hash != content:
        return None
    decoded()
    return measured(store, key, rate)


def warm_up() -> None:
    """Import what measuring needs, a second's work, before anybody waits for it."""
    import scipy.signal  # noqa: F401 - see above


class Listenable(Struct, frozen=True):
    """A sound ready to be listened to: its key in the cache, its length there, its measures."""

    key: str
    samples: int
    measures: Measures | None


def hear_file(path: Path, content: str, rate: int, cache: Path) -> Listenable:
    """Have a file decoded and measured; ``content`` is the hash it should have, if any."""
    store = SoundCache(cache)
    taken = ingest(path, rate, store, heard)
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


def find_hits(key: str, rate: int, cache: Path) -> Moments | None:
    """The hits of the samples under ``key``; None if these are not in the cache."""
    return moments_in(SoundCache(cache), key, rate)


def fitting_overlap(
    project: Project, files: dict[str, Path], cache: Path, clip: Clip
) -> float | None:
    """Seconds by which a clip's loops might overlap, from how it dies away; None if unknown."""
    sources = SoundSources(project, files, SoundCache(cache), only_cached=True)
    timing = sources.timing(clip)
    samples = sources.samples(clip.sound, timing.first, timing.last, clip.speed)
    return None if samples is None else suggested_overlap(samples, project.rate)


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
        found.append(loudness(samples.astype(np.float32), project.rate))
        heard(len(found) / len(clips))
    return found


class Source(Struct, frozen=True):
    """Where a sound came from, and the hashes of all its takes the project knows."""

    sound: str
    path: Path
    known: tuple[str, ...]


def changed_sources(sources: list[Source], cache: Path) -> dict[str, Path]:
    """The sources that are not as they were taken in. Unchanged files are not read again."""
    store = SoundCache(cache)
    changed: dict[str, Path] = {}
    for number, source in enumerate(sources):
        try:
            content = seen_hash(source.path, store)
        except CicadaError:
            continue
        if content not in source.known:
            changed.setdefault(source.sound, source.path)
        if not heard(number / len(sources)):
            break
    return changed


# -- looking after the files -------------------------------------------------------------------


"""Fields of a sound and what they become."""


def find_missing(
    wanted: list[Sound], folder: Path, rate: int, cache: Path, project_file: Path
) -> dict[str, Changes]:
    """The sounds that are under ``folder``, by content: first by bytes, then by samples.

    What was kept inside is kept inside again, what was linked is linked where it was found.
    """
    files = find_sounds([folder]).sounds
    left = {sound.id: sound for sound in wanted}
    found: dict[str, Changes] = {}

    def take(sound: Sound, path: Path, content: str) -> Changes:
        del left[sound.id]
        if sound.kept == "inside":
            return {"file": keep(path, content, project_file, heard)}
        return {"file": relative(path, project_file.parent)}

    for number, path in enumerate(files):
        if not heard(number / len(files)) or not left:
            break
        with suppress(CicadaError):
            content = content_hash(path)
            for sound in [x for x in left.values() if x.hash == content]:
                found[sound.id] = take(sound, path, content)
    for path in files:
        if not heard(1.0) or not left:
            break
        with suppress(CicadaError):
            info = describe(path)
            alike = [x for x in left.values() if (x.frames, x.rate) == (info.frames, info.rate)]
            if alike:
                taken = ingest(path, rate, SoundCache(cache), heard)
                for sound in [x for x in alike if x.pcm_hash == taken.pcm_hash]:
                    changes = take(sound, path, taken.hash)
                    encoding = taken.info.encoding
                    found[sound.id] = {**changes, "hash": taken.hash, "encoding": encoding}
    return found


def copy_to_work_on(path: Path, folder: Path, name: str) -> Path:
    """A copy of a sound file in a folder of its own, for another program to work on."""
    plain = re.sub(r"[/\x00-\x1f]+", "-", name).lstrip(".")[:80] or "sound"
    target = folder / f"{plain}{path.suffix.lower()}"
    number = 1
    while target.exists():
        number += 1
        target = folder / f"{plain} {number}{path.suffix.lower()}"
    try:
        folder.mkdir(parents=True, exist_ok=True)
        shutil.copyfile(path, target)
    except OSError as error:
        raise BadSound(
            f"cannot be copied ({error.strerror})",
            file=str(path),
            remedy="see that it is there and that there is room for a copy",
        ) from None
    return target


def keep_cache(cache: Path, limit: int, in_use: list[str]) -> int:
    """Bring the cache down to its limit; the bytes removed."""
    return SoundCache(cache).keep_to(limit, in_use)


# -- getting ready, mixing ---------------------------------------------------------------------


class Ready(Struct, frozen=True):
    """Which sounds could not be made ready, and why."""

    refused: dict[str, str]


def make_ready(project: Project, files: dict[str, Path], cache: Path) -> Ready:
    """Have all that the project's clips need in the cache: sounds, peaks, changed speeds."""
    sources = SoundSources(project, files, SoundCache(cache))
    for sound in project.sounds:
        if not sources.drawable(sound.id):
            sources.make_drawable(sound.id)
        heard(0.0)
    for clip in clips_of(project):
        timing = sources.timing(clip)
        sources.samples(clip.sound, timing.first, timing.last, clip.speed)
        heard(0.0)
    return Ready({sound: str(error) for sound, error in sources.refused.items()})


def clips_of(project: Project) -> list[Clip]:
    """All clips, one for each sound, trim and speed."""
    clips = {
        (keyframe.sound, keyframe.trim, keyframe.speed): keyframe
        for _, layer in project.all_layers()
        for keyframe in layer.keyframes
        if isinstance(keyframe, Clip)
    }
    return list(clips.values())


def unready(project: Project, files: dict[str, Path], cache: SoundCache) -> set[str]:
    """The sounds that ``make_ready`` would have something to do for: their files are there."""
    sources = SoundSources(project, files, cache, only_cached=True)
    wanted = {sound.id for sound in project.sounds if not sources.drawable(sound.id)}
    wanted |= {clip.sound for clip in clips_of(project) if not sources.has(clip)}
    return {sound for sound in wanted if sound in files and files[sound].exists()}


def mix_down(
    plan: Plan,
    project: Project,
    files: dict[str, Path],
    cache: Path,
    path: Path,
    subtype: str | None,
) -> Mixdown:
    """Render to ``path``, saying how far it is; raises ``CannotWrite`` or ``Cancelled``."""
    silent = {layer.id for _, layer in project.all_layers() if layer.mute}
    sources = SoundSources(project, files, SoundCache(cache))
    return mixdown(plan, project, sources, path, subtype=subtype, silent=silent, progress=heard)


def mixed_peaks(
    plan: Plan,
    project: Project,
    files: dict[str, Path],
    cache: Path,
    silent: frozenset[str],
    blocks: list[int],
) -> list[Samples]:
    """The peaks of some blocks of the mix; sounds that are not in the cache are silent."""
    sources = SoundSources(project, files, SoundCache(cache), only_cached=True)
    mixer = Mixer(plan, project, sources, silent)
    found = []
    for number, block in enumerate(blocks):
        heard(number / len(blocks))
        found.append(block_peaks(mixer, block))
    return found
