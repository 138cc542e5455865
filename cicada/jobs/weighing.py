"""The job that weighs what a player must fetch."""

import os
from collections.abc import Iterator
from contextlib import closing, suppress
from pathlib import Path

from cicada.core.model import Project
from cicada.core.picture_parts import Images, source_of
from cicada.core.recipes import BundleRecipe
from cicada.deliver.gallery import Gallery
from cicada.deliver.ready import prepared
from cicada.deliver.weight import ForPlayers, Weight, weigh
from cicada.jobs.picturing import Picturing
from cicada.jobs.worker import progress
from cicada.media.cache import SoundCache
from cicada.media.picture_names import SUFFIXES
from cicada.media.picture_process import DecoderHere
from cicada.media.sources import SoundSources
from cicada.store.allowed import Allowed, permits
from cicada.store.sounds_folder import standing

# Of many pictures so many are drawn, to know how large all will be.
TRIED = 24


def weigh_recipe(
    project: Project,
    files: dict[str, Path],
    cache: Path,
    file: Path,
    recipe: ForPlayers,
    line: int,
) -> Weight:
    """Weigh a recipe over a line of so many bits a second, beside the picture.

    That is a bundle's images, or the picture's own files.
    """
    sources = SoundSources(project, files, SoundCache(cache), progress=progress)
    if isinstance(recipe, BundleRecipe):
        picture = _images_size(project, file, recipe)
    else:
        picture = sum(_picture_sizes(project, file))
    return weigh(project, recipe, sources, line, picture)


def _images_size(project: Project, file: Path, recipe: BundleRecipe) -> int:
    """The bytes of a bundle's images, tried on some of them."""
    images = prepared(project, recipe).images
    if not images:
        return 0
    folders = Allowed().folders
    pictures = Picturing(project, file, lambda path: permits(folders, file, path), DecoderHere())
    with closing(pictures):
        gallery = Gallery(pictures, images, recipe.height)
        sizes = [len(data) for _, data in gallery.files(max(1, len(images) // TRIED))]
    return round(sum(sizes) / len(sizes) * len(images))


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
