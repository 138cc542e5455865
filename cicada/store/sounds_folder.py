"""Where a project's sounds stand, and how they get into the folder beside the project file."""

import os
import shutil
from pathlib import Path

from msgspec.structs import replace

from cicada.core.model import Images, Project, Scene, Sound
from cicada.errors import CannotWrite
from cicada.media.whole import whole_file


def sounds_folder(project_file: Path) -> Path:
    """The folder beside a project file that holds the sounds kept with it."""
    return project_file.with_name(f"{project_file.stem}.sounds")


def sound_file(sound: Sound, project_file: Path) -> Path | None:
    """Where the sound's file should stand; None for a sound without one.

    A sound kept inside is looked for in the project's own sounds folder too, so that a project
    stays whole when it is renamed or saved under another name.
    """
    if not sound.file:
        return None
    named = project_file.parent / sound.file
    if sound.kept == "inside" and not named.exists():
        return sounds_folder(project_file) / Path(sound.file).name
    return named


def sound_files(project: Project, project_file: Path) -> dict[str, Path]:
    """Where every sound's file should stand, by sound id."""
    found = {sound.id: sound_file(sound, project_file) for sound in project.sounds}
    return {sound: path for sound, path in found.items() if path is not None}


def keep(source: Path, content: str, project_file: Path) -> str:
    """Copy ``source`` into the project's sounds folder under its content hash.

    Returns its path relative to the project file. A file already there is left as it is.
    Raises ``CannotWrite``.
    """
    folder = sounds_folder(project_file)
    name = content.removeprefix("blake2b:") + source.suffix.lower()
    target = folder / name
    if not target.exists():
        _copy(source, target)
    return f"{folder.name}/{name}"


def _copy(source: Path, target: Path) -> None:
    try:
        target.parent.mkdir(parents=True, exist_ok=True)
        with whole_file(target) as part:
            shutil.copyfile(source, part)
    except OSError as error:
        raise CannotWrite(
            f"cannot be written ({error.strerror})",
            file=str(target.parent),
            remedy="free some space or choose another folder",
        ) from None


def moved(project: Project, old_file: Path, new_file: Path) -> Project:
    """The project as it must be written at ``new_file``: its sounds copied, its paths adjusted.

    Sounds kept inside are copied into the new folder; those that are missing keep their names.
    Raises ``CannotWrite``; nothing that stood anywhere before is changed.
    """
    sounds = tuple(_moved_sound(sound, old_file, new_file) for sound in project.sounds)
    scenes = tuple(_moved_scene(scene, old_file, new_file) for scene in project.scenes)
    if sounds == project.sounds and scenes == project.scenes:
        return project
    return replace(project, sounds=sounds, scenes=scenes)


def _moved_sound(sound: Sound, old_file: Path, new_file: Path) -> Sound:
    path = sound_file(sound, old_file)
    if path is None:
        return sound
    if sound.kept == "linked":
        return replace(sound, file=_relative(path, new_file.parent))
    target = sounds_folder(new_file) / path.name
    if not target.exists() and path.exists():
        _copy(path, target)
    return replace(sound, file=f"{target.parent.name}/{target.name}")


def _moved_scene(scene: Scene, old_file: Path, new_file: Path) -> Scene:
    return replace(
        scene, picture=tuple(_moved_images(i, old_file, new_file) for i in scene.picture)
    )


def _moved_images(images: Images, old_file: Path, new_file: Path) -> Images:
    folder = old_file.parent / images.folder
    return replace(images, folder=_relative(folder, new_file.parent))


def _relative(path: Path, folder: Path) -> str:
    return os.path.relpath(path.absolute(), folder.absolute())
