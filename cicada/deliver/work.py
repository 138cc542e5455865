"""The slow jobs the window hands to a worker process. No Qt here, and nothing shared but files."""

import multiprocessing
import os
import threading
from multiprocessing.sharedctypes import Synchronized
from multiprocessing.synchronize import Event
from pathlib import Path

from msgspec import Struct

from cicada.core.model import Clip, Project
from cicada.core.plan import Plan
from cicada.deliver.mixdown import Mixdown, mixdown
from cicada.media.cache import SoundCache
from cicada.media.ingest import Ingested, OpenedSounds, ingest

_progress: "Synchronized[float] | None" = None
_cancel: "Event | None" = None


def begin_worker(progress: "Synchronized[float]", cancel: "Event") -> None:
    """Set up a fresh worker process."""
    global _progress, _cancel
    _progress, _cancel = progress, cancel
    threading.Thread(target=_end_with_window, daemon=True).start()


def _end_with_window() -> None:
    """A worker whose window has died, however it died, has nobody to work for."""
    window = multiprocessing.parent_process()
    if window is not None:
        window.join()
        os._exit(1)


def take_in(path: Path, rate: int, cache: Path) -> Ingested:
    """Decode a sound file into the cache; raises ``BadSound``."""
    return ingest(path, rate, SoundCache(cache))


class Ready(Struct, frozen=True):
    """Which sounds could not be made ready, and why."""

    refused: dict[str, str]


def make_ready(project: Project, files: dict[str, Path], cache: Path) -> Ready:
    """Have all that the project's clips need in the cache: sounds, peaks, changed speeds."""
    sources = OpenedSounds(project, files, SoundCache(cache))
    for sound in project.sounds:
        sources.whole(sound.id)
    for clip in retimed(project):
        timing = sources.timing(clip)
        sources.samples(clip.sound, timing.first, timing.last, clip.speed)
    return Ready({sound: str(error) for sound, error in sources.refused.items()})


def retimed(project: Project) -> list[Clip]:
    """The clips that play at another speed."""
    return [
        keyframe
        for _, layer in project.all_layers()
        for keyframe in layer.keyframes
        if isinstance(keyframe, Clip) and keyframe.speed != 1
    ]


def is_ready(project: Project, files: dict[str, Path], cache: SoundCache) -> bool:
    """Whether ``make_ready`` would find nothing to do."""
    sources = OpenedSounds(project, files, cache, only_cached=True)
    for sound in project.sounds:
        path = files.get(sound.id)
        if path is not None and path.exists() and sources.whole(sound.id) is None:
            return False
    return all(sources.has(clip) for clip in retimed(project))


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
    sources = OpenedSounds(project, files, SoundCache(cache))

    def heard(share: float) -> bool:
        if _progress is not None:
            _progress.value = share
        return _cancel is None or not _cancel.is_set()

    return mixdown(plan, project, sources, path, subtype=subtype, silent=silent, progress=heard)
