"""Jobs about sound files: found, taken in, kept, looked for, copied to be worked on."""

import os
import re
import shutil
from contextlib import suppress
from pathlib import Path

from msgspec import Struct

from cicada.core.editing import Changes
from cicada.core.model import Project, Sound
from cicada.disk.paths import is_folder, is_there
from cicada.disk.reading import open_file
from cicada.disk.why import why
from cicada.disk.writing import whole_file
from cicada.errors import BadSound, CicadaError
from cicada.jobs.worker import progress
from cicada.media.cache import SoundCache
from cicada.media.decode import describe
from cicada.media.ingest import Ingested, content_hash, ingest, seen_hash
from cicada.media.sources import SoundSources
from cicada.store.importing import is_sound_name
from cicada.store.projectfile import dumps
from cicada.store.sounds_folder import keep, moved, relative


class Found(Struct, frozen=True):
    """What there is to import among some files and folders; ``others`` counts what is no sound."""

    sounds: tuple[Path, ...]
    others: int


def find_sounds(paths: list[Path]) -> Found:
    """Files as they are named, and of folders all that look like sounds, in the order of names."""
    sounds: list[Path] = []
    others = 0
    for path in paths:
        if not is_folder(path):
            sounds.append(path)
            continue
        for folder, below, names in os.walk(path):
            below[:] = sorted(name for name in below if not name.startswith("."))
            for name in sorted(name for name in names if not name.startswith(".")):
                if is_sound_name(name):
                    sounds.append(Path(folder) / name)
                else:
                    others += 1
            if not progress(0.0):
                return Found((), 0)
    return Found(tuple(dict.fromkeys(sounds)), others)


def take_in(path: Path, rate: int, cache: Path) -> Ingested:
    """Decode a sound file into the cache; raises ``BadSound``."""
    return ingest(path, rate, SoundCache(cache), progress)


def keep_file(path: Path, content: str, project_file: Path) -> str:
    """Copy a sound file into the project's sounds folder; its path relative to the project."""
    return keep(path, content, project_file, progress)


def copied_beside(project: Project, file: Path, target: Path) -> bytes:
    """The project of ``file`` as it must be written at ``target``, where its sounds are copied.

    As a file's text: what travels between processes has texts of its own, which the writer would
    not know for the defaults they are.
    """
    return dumps(moved(project, file, target))


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
        if not progress(number / len(sources)):
            break
    return changed


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
            return {"file": keep(path, content, project_file, progress)}
        return {"file": relative(path, project_file.parent)}

    for number, path in enumerate(files):
        if not progress(number / len(files)) or not left:
            break
        with suppress(CicadaError):
            content = content_hash(path)
            for sound in [x for x in left.values() if x.hash == content]:
                found[sound.id] = take(sound, path, content)
    for path in files:
        if not progress(1.0) or not left:
            break
        with suppress(CicadaError):
            info = describe(path)
            alike = [x for x in left.values() if (x.frames, x.rate) == (info.frames, info.rate)]
            if alike:
                taken = ingest(path, rate, SoundCache(cache), progress)
                for sound in [x for x in alike if x.pcm_hash == taken.pcm_hash]:
                    changes = take(sound, path, taken.hash)
                    encoding = taken.info.encoding
                    found[sound.id] = {**changes, "hash": taken.hash, "encoding": encoding}
    return found


def copy_to_work_on(path: Path, folder: Path, name: str) -> Path:
    """A copy of a sound file in a folder of its own, for another program to work on."""
    plain = (
        re.sub(r"[/\x00-\x1f]+", "-", name).lstrip(".").encode()[:180].decode(errors="ignore")
        or "sound"
    )
    target = folder / f"{plain}{path.suffix.lower()}"
    number = 1
    while is_there(target):
        number += 1
        target = folder / f"{plain} {number}{path.suffix.lower()}"
    try:
        folder.mkdir(parents=True, exist_ok=True)
        with open_file(path, BadSound) as file, whole_file(target) as made:
            shutil.copyfileobj(file, made.file)
    except OSError as error:
        raise BadSound(
            f"cannot be copied ({why(error)})",
            file=str(path),
            remedy="see that it is there and that there is room for a copy",
        ) from None
    return target


def keep_cache_to_its_limit(cache: SoundCache, project: Project) -> None:
    """Bring the cache down to its limit; what a project uses stays."""
    sources = SoundSources(project, {}, cache, only_cached=True)
    stored = (*project.sounds, *project.playlists)
    cache.keep_to(cache.limit, [key for each in stored if (key := sources.key(each.id))])


def keep_cache(cache: Path, limit: int, in_use: list[str]) -> int:
    """Bring the cache down to its limit; the bytes removed."""
    return SoundCache(cache).keep_to(limit, in_use)
