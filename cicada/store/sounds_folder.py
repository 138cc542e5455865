"""Where a project's sounds stand, and how they get into the folder beside the project file."""

import hashlib
import os
import re
from collections.abc import Callable, Collection, Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import NamedTuple

from msgspec.structs import replace

from cicada.core.model import Project, Scene, Sound, Take, all_takes
from cicada.core.picture_parts import PicturePart, source_of, with_source
from cicada.disk.paths import inside, is_file, is_folder, is_link, is_there
from cicada.disk.reading import open_file
from cicada.disk.why import why
from cicada.disk.writing import whole_file, write_all
from cicada.errors import BadSound, Cancelled, CannotWrite
from cicada.media.ingest import content_hash

Progress = Callable[[float], bool]
COPY = 1 << 20
# The names that files kept inside have; anything else in the folder is not ours.
_SUFFIX = re.compile(r"\.[a-z0-9]{1,8}")
_KEPT = re.compile(r"[0-9a-f]{40}(\.[^.]*)?$")


def _go_on(_: float) -> bool:
    return True


def sounds_folder(project_file: Path) -> Path:
    """The folder beside a project file that holds the sounds kept with it."""
    return project_file.with_name(f"{project_file.stem}.sounds")


def sound_file(sound: Sound | Take, project_file: Path) -> Path | None:
    """Where the file of a sound or a take should stand; None if it has none.

    One kept inside is looked for in the project's own sounds folder too, so that a project stays
    whole when it is renamed or saved under another name.
    """
    if not sound.file:
        return None
    named = standing(project_file, sound.file)
    if sound.kept == "inside" and not is_there(named):
        return sounds_folder(project_file) / Path(sound.file).name
    return named


def standing(project_file: Path, source: str) -> Path:
    """Where a source stands, by its letters: an unsaved project's own folder is not there yet."""
    return Path(os.path.normpath(project_file.parent / source))


def sound_files(project: Project, project_file: Path) -> dict[str, Path]:
    """Where every sound's file should stand, by sound id."""
    found = {sound.id: sound_file(sound, project_file) for sound in project.sounds}
    return {sound: path for sound, path in found.items() if path is not None}


def keep(source: Path, content: str, project_file: Path, progress: Progress = _go_on) -> str:
    """Copy ``source`` into the project's sounds folder under its content hash.

    Returns its path relative to the project file. A file already there is left as it is.
    ``progress`` is told the share done and answers whether to go on. Raises ``CannotWrite``,
    ``BadSound`` if the file is not the one of that hash any more, or ``Cancelled``.
    """
    folder = own_folder(sounds_folder(project_file))
    suffix = source.suffix.lower()
    name = content.removeprefix("blake2b:") + (suffix if _SUFFIX.fullmatch(suffix) else "")
    target = folder / name
    # Most often nothing is there yet.
    if os.path.lexists(target):
        if _holds(target, content):
            return f"{folder.name}/{name}"
        _make_room(target)
    _copy(source, target, content, progress)
    return f"{folder.name}/{name}"


def own_folder(folder: Path) -> Path:
    """The sounds folder itself, which must not lead elsewhere: what is there is not ours."""
    if is_link(folder):
        raise CannotWrite(
            "is a link to another folder",
            file=str(folder),
            remedy="put the folder itself there, or save the project elsewhere",
        )
    return folder


def _holds(target: Path, content: str) -> bool:
    """Whether a file is there and is what its name says."""
    if not is_file(target) or is_link(target):
        return False
    try:
        return content_hash(target) == content
    except BadSound:
        return False


def _make_room(target: Path) -> None:
    """Move aside what stands where a sound's file belongs and is no file."""
    if is_folder(target) and not is_link(target):
        number = 1
        while is_there(aside := target.with_name(f"{target.name} {number}")):
            number += 1
        with _said(target.parent):
            target.rename(aside)
    elif is_link(target):
        with _said(target.parent):
            target.unlink()


def _copy(source: Path, target: Path, content: str = "", progress: Progress = _go_on) -> None:
    """Copy a file whole or not at all, and see that it has the ``content`` if one is given."""
    digest = hashlib.blake2b(digest_size=20)
    with _said(target.parent):
        if not is_folder(target.parent):
            target.parent.mkdir(parents=True, exist_ok=True)
        with open_file(source, BadSound) as file, whole_file(target) as made:
            size, done = os.fstat(file.fileno()).st_size, 0
            # To clear a whole buffer takes longer than to copy a small file.
            at_once = min(COPY, size + 1)
            while piece := file.read(at_once):
                digest.update(piece)
                write_all(made.file, piece)
                done += len(piece)
                if not progress(min(1.0, done / max(1, size))):
                    raise Cancelled("stopped", file=str(source))
            if content and content != f"blake2b:{digest.hexdigest()}":
                raise BadSound(
                    "has changed while it was being imported",
                    file=str(source),
                    remedy="import it again",
                )


@contextmanager
def _said(folder: Path) -> Iterator[None]:
    """Say in a sentence what goes wrong in a folder."""
    try:
        yield
    except OSError as error:
        raise CannotWrite(
            f"cannot be written ({why(error)})",
            file=str(folder),
            remedy="free some space or choose another folder",
        ) from None


def moved(project: Project, old_file: Path, new_file: Path) -> Project:
    """The project as it must be written at ``new_file``: its sounds copied, its paths adjusted.

    Sounds kept inside are copied into the new folder; those that are missing keep their names.
    Raises ``CannotWrite``; nothing that stood anywhere before is changed.
    """
    sounds = tuple(moved_sound(sound, old_file, new_file) for sound in project.sounds)
    scenes = tuple(_moved_scene(scene, old_file, new_file) for scene in project.scenes)
    if sounds == project.sounds and scenes == project.scenes:
        return project
    return replace(project, sounds=sounds, scenes=scenes)


def moved_sound(sound: Sound, old_file: Path, new_file: Path) -> Sound:
    """The sound as it must be written at ``new_file``; see ``moved``."""
    if old_file == new_file:
        return sound
    takes = tuple(replace(take, file=_moved_file(take, old_file, new_file)) for take in sound.takes)
    return replace(sound, file=_moved_file(sound, old_file, new_file), takes=takes)


def _moved_file(kept: Sound | Take, old_file: Path, new_file: Path) -> str:
    path = sound_file(kept, old_file)
    if path is None:
        return ""
    if kept.kept == "linked":
        return relative(path, new_file.parent)
    target = own_folder(sounds_folder(new_file)) / path.name
    # What is kept inside is in the project's own folder, whatever its file says.
    if not is_there(target) and is_file(path) and inside(old_file.parent, path):
        _copy(path, target)
    return f"{target.parent.name}/{target.name}"


def _moved_scene(scene: Scene, old_file: Path, new_file: Path) -> Scene:
    return replace(
        scene, picture=tuple(_moved_part(part, old_file, new_file) for part in scene.picture)
    )


def _moved_part(part: PicturePart, old_file: Path, new_file: Path) -> PicturePart:
    return with_source(part, relative(old_file.parent / source_of(part), new_file.parent))


def relative(path: Path, folder: Path) -> str:
    """The way from ``folder`` to ``path``, as it is written in a project."""
    return os.path.relpath(path.absolute(), folder.absolute())


class Unused(NamedTuple):
    """A file in the sounds folder that nothing needs, and its bytes."""

    path: Path
    size: int


def unused(project_file: Path, needed: Collection[Project]) -> list[Unused]:
    """The files kept inside that none of these projects, nor a take in them, needs.

    Files that were not put there by an import are none of our business.
    """
    named = {
        Path(part.file).name
        for project in needed
        for sound in project.sounds
        for part in all_takes(sound)
    }
    folder = sounds_folder(project_file)
    paths = sorted(folder.iterdir()) if is_folder(folder) else []
    return [
        Unused(path, path.stat().st_size)
        for path in paths
        if _KEPT.match(path.name) and path.name not in named and is_file(path)
    ]


def remove_unused(files: Collection[Unused]) -> int:
    """Remove them; the bytes this has freed. Raises ``CannotWrite`` at the first that stays."""
    freed = 0
    for file in files:
        try:
            file.path.unlink()
        except OSError as error:
            raise CannotWrite(
                f"cannot be removed ({why(error)})",
                file=str(file.path),
                remedy="check its permissions",
            ) from None
        freed += file.size
    return freed
