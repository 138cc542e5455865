"""Bringing a sound file into a project: kept in its sounds folder, and described."""

from pathlib import Path

from cicada.core.model import Project, Sound
from cicada.core.naming import code_name, free_id, readable_name
from cicada.media.ingest import Ingested
from cicada.store.sounds_folder import keep


def new_sound(path: Path, taken: Ingested, project: Project, project_file: Path) -> Sound:
    """A sound for the shelf, made of a file that has been taken in; its bytes are kept inside.

    Raises ``CannotWrite``; the project itself is not changed.
    """
    name = readable_name(path.stem)
    return Sound(
        id=free_id("s", project),
        name=name,
        code_name=code_name(name, {sound.code_name for sound in project.sounds}),
        file=keep(path, taken.hash, project_file),
        hash=taken.hash,
        pcm_hash=taken.pcm_hash,
        frames=taken.info.frames,
        rate=taken.info.rate,
        channels=taken.info.channels,
        encoding=taken.info.encoding,
        origin=str(path.absolute()),
        note="; ".join(taken.info.notes),
    )
