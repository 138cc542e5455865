"""Jobs that get sounds ready for the mix, and mix."""

from pathlib import Path

from msgspec import Struct

from cicada.core.arrays import Samples
from cicada.core.mix import Mixer
from cicada.core.model import Project
from cicada.core.needs import needs, sounds_in
from cicada.core.plan import Plan
from cicada.core.silent import muted
from cicada.core.tone import right
from cicada.deliver.mix_peaks import block_peaks
from cicada.deliver.mixdown import Mixdown, mixdown
from cicada.disk.paths import is_file
from cicada.jobs.worker import progress
from cicada.media.cache import SoundCache
from cicada.media.sources import SoundSources


class Ready(Struct, frozen=True):
    """Which sounds could not be made ready, and why."""

    refused: dict[str, str]


def make_ready(project: Project, files: dict[str, Path], cache: Path) -> Ready:
    """Have all that the project's clips need in the cache: sounds, peaks, changed speeds."""
    sources = SoundSources(project, files, SoundCache(cache), progress=progress)
    for sound in project.sounds:
        if not sources.drawable(sound.id):
            sources.make_drawable(sound.id)
        progress(0.0)
    for playlist in project.playlists:
        sources.whole(playlist.id)
        progress(0.0)
    for need in needs(project):
        sources.source(*need)
        progress(0.0)
    return Ready({sound: str(error) for sound, error in sources.refused.items()})


def unready(project: Project, files: dict[str, Path], cache: SoundCache) -> set[str]:
    """The sounds that ``make_ready`` would have something to do for: their files are there."""
    sources = SoundSources(project, files, cache, only_cached=True)
    wanted = {sound.id for sound in project.sounds if not sources.drawable(sound.id)}
    missing = [need.sound for need in needs(project) if not sources.has(need)]
    missing += [each.id for each in project.playlists if not sources.drawable(each.id)]
    wanted = wanted.union(*(sounds_in(project, each) for each in missing))
    here = {sound.id for sound in project.sounds if sound.making is not None}
    return {s for s in wanted if s in here or (s in files and is_file(files[s]))}


def prove(project: Project, files: dict[str, Path], cache: Path) -> None:
    """See that what a project plays is in the cache as it was written; what is not goes."""
    sources = SoundSources(project, files, SoundCache(cache), only_cached=True)
    for sound in project.sounds:
        sources.peaks(sound.id)
        progress(0.0)
    for need in needs(project):
        source = sources.source(*need)
        if source is not None:
            right(source, 0, source.samples.shape[1])
        progress(0.0)


def mix_down(
    plan: Plan,
    project: Project,
    files: dict[str, Path],
    cache: Path,
    path: Path,
    subtype: str | None,
) -> Mixdown:
    """Render to ``path``, saying how far it is; raises ``CannotWrite`` or ``Cancelled``."""
    sources = SoundSources(project, files, SoundCache(cache))
    return mixdown(
        plan, project, sources, path, subtype=subtype, silent=muted(project), progress=progress
    )


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
        progress(number / len(blocks))
        found.append(block_peaks(mixer, block))
    return found
