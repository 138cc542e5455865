"""Bringing a sound file into a project: described for the shelf, or found to be there already."""

from pathlib import Path
from typing import Any, NamedTuple

import soundfile

from cicada.core.model import Project, Sound, Take, all_takes
from cicada.core.naming import all_ids, code_name, free_name, likeness, readable_name
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
    stem, dot, ending = name.rpartition(".")
    return bool(stem) and dot + ending.lower() in SUFFIXES


class Here(NamedTuple):
    """A sound of the project that a newcomer is the same as; ``bytes_too`` if to the last byte."""

    sound: Sound
    bytes_too: bool


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
    """A sound for the shelf, made of a file that has been taken in: see ``Shelf.new``."""
    return Shelf(project).new(path, taken, project_file, file=file, linked=linked)


class Shelf:
    """What a project has, while sounds come onto its shelf one after the other.

    Kept in tables, for to look through all sounds for each of some thousands takes longer than to
    decode them.
    """

    def __init__(self, project: Project) -> None:
        self._ids = all_ids(project)
        self._number = 1
        self._names = {sound.name for sound in project.sounds}
        self._code_names = {sound.code_name for sound in project.sounds}
        self._likenesses: dict[str, str] = {}
        self._by_bytes: dict[str, Sound] = {}
        self._by_samples: dict[str, Sound] = {}
        for sound in project.sounds:
            self._note(sound)

    def _note(self, sound: Sound) -> None:
        self._likenesses[likeness(sound.name)] = sound.name
        for part in all_takes(sound):
            self._by_bytes.setdefault(part.hash, sound)
            self._by_samples.setdefault(part.pcm_hash, sound)

    def here(self, taken: Ingested) -> Here | None:
        """The sound with the same bytes, or else with the same samples."""
        if taken.hash in self._by_bytes:
            return Here(self._by_bytes[taken.hash], bytes_too=True)
        same = self._by_samples.get(taken.pcm_hash)
        return None if same is None else Here(same, bytes_too=False)

    def alike(self, name: str) -> str:
        """The name of the newest sound whose name differs in numbering only; empty if none does."""
        return self._likenesses.get(likeness(name), "")

    def new(
        self,
        path: Path,
        taken: Ingested,
        project_file: Path,
        *,
        file: str | None = None,
        linked: bool = False,
        name: str = "",
    ) -> Sound:
        """A sound made of a file that has been taken in; the next ones know of it.

        Its bytes are kept inside unless they already are in ``file`` or the sound is ``linked``.
        It is called after its file unless a ``name`` is given. Raises ``CannotWrite``.
        """
        if linked:
            file = link_to(path, project_file)
        name = free_name(name or readable_name(text_of(Path(path.stem))), self._names)
        while f"s{self._number}" in self._ids:
            self._number += 1
        made = Sound(
            id=f"s{self._number}",
            name=name,
            code_name=code_name(name, self._code_names),
            file=keep(path, taken.hash, project_file) if file is None else file,
            kept="linked" if linked else "inside",
            **_facts(taken),
            origin=text_of(path.absolute()),
            note="; ".join(taken.info.notes),
        )
        self._ids.add(made.id)
        self._names.add(made.name)
        self._code_names.add(made.code_name)
        self._note(made)
        return made


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
