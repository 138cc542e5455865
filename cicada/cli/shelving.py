"""``cicada info``, ``new`` and ``import``: sounds and projects without the window."""

import argparse
from collections.abc import Collection
from pathlib import Path

from cicada.cli.output import give, say, warn
from cicada.core.model import Project, Sound
from cicada.disk.paths import real_file, text_of
from cicada.errors import BadProject, BadSound, CicadaError, plain
from cicada.media.ingest import Ingested

# What is done of what was asked for: all, some, none.
ALL, SOME, NONE = 0, 1, 2


def _done(done: int, refused: int) -> int:
    return ALL if not refused else SOME if done else NONE


def print_info(options: argparse.Namespace) -> int:
    """Print what sound files are."""
    from cicada.media.decode import describe

    done = refused = 0
    for path in options.sounds:
        try:
            info = describe(path)
        except CicadaError as error:
            refused += 1
            warn(str(error))
            continue
        done += 1
        notes = "".join(f"; {note}" for note in info.notes)
        seconds = info.frames / info.rate
        give(
            f"{plain(str(path))}: {plain(info.encoding)}, {info.rate} Hz, "
            f"{channels_text(info.channels)}, {seconds:.3f} s{notes}"
        )
    return _done(done, refused)


def channels_text(channels: int) -> str:
    """How many channels, in words."""
    return {1: "mono", 2: "stereo"}.get(channels, f"{channels} channels")


def make_project(options: argparse.Namespace) -> int:
    """Make an empty project."""
    from cicada.core.model import empty_project
    from cicada.core.timebase import parse_fps
    from cicada.store.changing import make
    from cicada.store.projectfile import dumps, loads

    file: Path = options.file
    try:
        fps = parse_fps(options.fps)
    except ValueError as error:
        raise BadProject(str(error), place="--fps") from None
    project = empty_project(text_of(Path(file.stem)), fps, options.rate, options.length)
    make(loads(dumps(project)), file)
    say(plain(str(file)))
    return 0


def import_sounds(options: argparse.Namespace) -> int:
    """Put sounds, and folders of them, on the shelf of a project; what cannot be had is named."""
    from cicada.jobs.files import find_sounds, keep_cache_to_its_limit
    from cicada.media.cache import user_cache
    from cicada.media.ingest import ingest
    from cicada.store.changing import change
    from cicada.store.importing import kept_file
    from cicada.store.projectfile import load

    file = real_file(options.file, BadProject)
    rate, cache = load(file).rate, user_cache()
    found = find_sounds(options.sounds)
    taken: list[tuple[Path, Ingested, str | None]] = []
    refused = 0
    for path in found.sounds:
        try:
            ingested = ingest(path, rate, cache)
            taken.append((path, ingested, kept_file(path, ingested, file)))
        except CicadaError as error:
            refused += 1
            warn(str(error))
    if not found.sounds:
        raise BadSound("there is no sound among what was named", remedy="name sound files")
    if taken:
        done: list[str] = []
        change(file, lambda project: _with(project, taken, file, done))
        for line in done:
            say(line)
        keep_cache_to_its_limit(cache, load(file))
    return _done(len(taken), refused)


def _with(
    project: Project,
    taken: Collection[tuple[Path, Ingested, str | None]],
    file: Path,
    done: list[str],
) -> Project:
    """The project with sounds on its shelf; ``done`` is told about each."""
    from cicada.core.shelf_edits import AddSounds
    from cicada.store.importing import Shelf

    done.clear()
    shelf, made = Shelf(project), list[Sound]()
    for path, ingested, kept in taken:
        here = shelf.here(ingested)
        if here is not None:
            done.append(f"already here: {path.name} is {here.sound.id}, {here.sound.label}")
            continue
        sound = shelf.new(path, ingested, file, file=kept, linked=kept is None)
        made.append(sound)
        done.append(_line(sound))
    return AddSounds(sounds=tuple(made)).apply(project) if made else project


def _line(sound: Sound) -> str:
    note = f"; {sound.note}" if sound.note else ""
    return f"{sound.id}: {sound.label}, {sound.encoding}, {sound.frames / sound.rate:.3f} s{note}"
