"""The job that weighs what a player must fetch."""

import os
from collections.abc import Iterator
from contextlib import suppress
from pathlib import Path

from cicada.core.model import Project
from cicada.core.picture_parts import Images, source_of
from cicada.core.recipes import TrimmedRecipe
from cicada.deliver.weight import Weight, weigh
from cicada.jobs.worker import progress
from cicada.media.cache import SoundCache
from cicada.media.picture_names import SUFFIXES
from cicada.media.sources import SoundSources
from cicada.store.sounds_folder import standing


def weigh_recipe(
    project: Project,
    files: dict[str, Path],
    cache: Path,
    file: Path,
    recipe: TrimmedRecipe,
    line: int,
) -> Weight:
    """Weigh a recipe over a line of so many bits a second, beside the picture's own files."""
    sources = SoundSources(project, files, SoundCache(cache), progress=progress)
    return weigh(project, recipe, sources, line, sum(_picture_sizes(project, file)))


def _picture_sizes(project: Project, file: Path) -> Iterator[int]:
    """The bytes of each file of the picture, once however often it is used."""
    parts = {source_of(part): part for scene in project.scenes for part in scene.picture}
    for source, part in parts.items():
        path = standing(file, source)
        with suppress(OSError):
            if not isinstance(part, Images):
                yield path.stat().st_size
                continue
            with os.scandir(path) as entries:
                for entry in entries:
                    if Path(entry.name).suffix.lower() in SUFFIXES:
                        yield entry.stat().st_size
