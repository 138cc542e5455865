"""Sounds made here become files as a project is saved, for others to play."""

import hashlib
from pathlib import Path

import numpy as np
import soundfile
from msgspec.structs import replace

from cicada.core.arrays import Samples
from cicada.core.model import Project, Sound
from cicada.disk.paths import is_file
from cicada.disk.why import why
from cicada.disk.writing import new_file
from cicada.errors import CannotWrite
from cicada.media.cache import SoundCache
from cicada.media.ingest import content_hash
from cicada.media.made import Made
from cicada.media.sources import SoundSources
from cicada.store.sounds_folder import own_folder, sounds_folder

_MODE = 0o644


def with_made_files(project: Project, project_file: Path, cache: SoundCache) -> Project:
    """The project with what was made here beside it, each as a file; raises ``CannotWrite``.

    A file that is there already is left as it is.
    """
    if all(sound.making is None or sound.file for sound in project.sounds):
        return project
    sounds = tuple(
        _kept(sound, project, project_file, cache) if sound.making and not sound.file else sound
        for sound in project.sounds
    )
    return replace(project, sounds=sounds)


def _kept(sound: Sound, project: Project, project_file: Path, cache: SoundCache) -> Sound:
    folder = own_folder(sounds_folder(project_file))
    digest = hashlib.blake2b(np.int64(sound.rate).tobytes(), digest_size=20)
    sources = SoundSources(replace(project, rate=sound.rate), {}, cache)

    def played(played_id: str) -> Samples | None:
        whole = sources.whole(played_id)
        return None if whole is None else whole.samples

    try:
        folder.mkdir(parents=True, exist_ok=True)
        with new_file(folder) as made:
            with soundfile.SoundFile(
                made.path, "w", samplerate=sound.rate, channels=sound.channels,
                format="WAV", subtype="PCM_24",
            ) as file:  # fmt: skip
                for block in Made(sound, played).blocks():
                    digest.update(np.ascontiguousarray(block).data)
                    file.write(block)
            content = content_hash(made.path)
            target = folder / f"{content.removeprefix('blake2b:')}.wav"
            if not is_file(target):
                made.become(target, _MODE)
    except (OSError, RuntimeError) as error:
        reason = why(error) if isinstance(error, OSError) else str(error)
        raise CannotWrite(
            f"{sound.label} cannot be written ({reason})",
            file=str(folder),
            remedy="free some space or choose another folder",
        ) from None
    return replace(
        sound,
        file=f"{folder.name}/{target.name}",
        hash=content,
        pcm_hash=f"blake2b:{digest.hexdigest()}",
        encoding="WAV 24 bit",
    )
