"""Bringing a sound file into a project: described for the shelf, or found to be there already."""

from collections.abc import Collection
from pathlib import Path
from typing import Any, NamedTuple

import soundfile

from cicada.core.model import Project, Sound, Take, all_takes
from cicada.core.naming import all_ids, code_name, free_name, next_id, readable_name
from cicada.disk.paths import is_text, text_of
from cicada.disk.why import why
from cicada.errors import BadSound
from cicada.media.ingest import Ingested
from cicada.store.sounds_folder import keep, relative

# Files up to this size are kept inside the project unless asked otherwise, larger ones linked.
INSIDE_UP_TO = 100_000_000
# By these a folder's sounds are known; a file named by itself is tried whatever its name is.
SUFFIXES = frozenset(
    {f".{name.lower()}" for name in soundfile.available_formats()} - {".raw"}
    | {".aif", ".aifc", ".aiff", ".oga", ".opus", ".wave", ".m4a", ".m4b", ".aac", ".mp4", ".m4v"}
    | {".mov", ".mkv", ".mka", ".webm", ".avi", ".ac3", ".wma", ".mp2"}
)


def is_sound_name(name: str) -> bool:
    """Whether a file of that name should hold sound that can be read here."""
    return Path(name).suffix.lower() in SUFFIXES


class Here(NamedTuple):
    """A sound of the project that a newcomer is the same as; ``bytes_too`` if to the last byte."""

    sound: Sound
    bytes_too: bool


def already_here(taken: Ingested, sounds: Collection[Sound]) -> Here | None:
    """The sound of the project with the same bytes, or else with the same samples."""
    same = None
    for sound in sounds:
        for part in all_takes(sound):
            if part.hash == taken.hash:
                return Here(sound, bytes_too=True)
            if part.pcm_hash == taken.pcm_hash and same is None:
                same = Here(sound, bytes_too=False)
    return same


def _facts(taken: Ingested) -> dict[str, Any]:
    """What a sound and a take both say of the file they are."""
    return {
        "hash": taken.hash,
        "pcm_hash": taken.pcm_hash,
        "frames": taken.info.frames,
        "rate": taken.info.rate,
        "channels": taken.info.channels,
        "encoding": taken.info.encoding,
    }


def new_sound(
    path: Path,
    taken: Ingested,
    project: Project,
    project_file: Path,
    *,
    file: str | None = None,
    linked: bool = False,
) -> Sound:
    """A sound for the shelf, made of a file that has been taken in.

    Its bytes are kept inside unless they already are in ``file`` or the sound is ``linked``.
    Raises ``CannotWrite``; the project itself is not changed.
    """
    taken_names = {sound.name for sound in project.sounds}
    name = free_name(readable_name(text_of(Path(path.stem))), taken_names)
    if linked:
        file = link_to(path, project_file)
    return Sound(
        id=next_id("s", all_ids(project)),
        name=name,
        code_name=code_name(name, {sound.code_name for sound in project.sounds}),
        file=keep(path, taken.hash, project_file) if file is None else file,
        kept="linked" if linked else "inside",
        **_facts(taken),
        origin=text_of(path.absolute()),
        note="; ".join(taken.info.notes),
    )


def link_to(path: Path, project_file: Path) -> str:
    """The way from a project to a file that stays where it is; raises ``BadSound``."""
    if not is_text(path.absolute()):
        raise BadSound(
            "its name or folder has letters that are no text, so it cannot be linked",
            file=str(path),
            remedy="rename it",
        )
    return relative(path, project_file.parent)


def kept_file(path: Path, taken: Ingested, project_file: Path) -> str | None:
    """Where the bytes of a newcomer are kept inside; None if it is so large that it is linked."""
    try:
        large = path.stat().st_size > INSIDE_UP_TO
    except OSError as error:
        raise BadSound(f"cannot be read ({why(error)})", file=str(path)) from None
    return None if large else keep(path, taken.hash, project_file)


def new_take(name: str, taken: Ingested, file: str, *, linked: bool = False) -> Take:
    """A take made of a file that has been taken in and stands at ``file``."""
    return Take(
        name=name,
        file=file,
        kept="linked" if linked else "inside",
        **_facts(taken),
    )


def conversions(taken: Ingested, rate: int) -> list[str]:
    """What is changed of a file for the project, each in a few words."""
    changes = []
    if taken.info.rate != rate:
        changes.append(f"{taken.info.rate / 1000:g} kHz")
    if " in " in taken.info.encoding:
        changes.append(taken.info.encoding)
    return changes + list(taken.info.notes)
