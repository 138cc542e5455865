"""Jobs that deliver recipes, and say beforehand what that comes to."""

import resource
from contextlib import closing
from pathlib import Path

from msgspec import Struct

from cicada.core.model import Project
from cicada.core.passage import Passage
from cicada.core.recipes import AnyRecipe, DataRecipe, Encoding, Loud, SheetRecipe
from cicada.core.scoped import asked
from cicada.core.silent import muted
from cicada.deliver.delivery import Delivery, deliver
from cicada.deliver.earlier import Earlier
from cicada.deliver.foresight import Foreseen, foreseen
from cicada.deliver.ready import prepared
from cicada.deliver.signal import Signal
from cicada.deliver.sound_file import SoundFile, write_sound
from cicada.deliver.unheard import unheard_sounds
from cicada.disk.writing import whole_file
from cicada.errors import CicadaError
from cicada.jobs.picturing import Picturing
from cicada.jobs.worker import progress
from cicada.media.cache import SoundCache
from cicada.media.picture_process import DecoderHere
from cicada.media.sources import SoundSources
from cicada.store.allowed import Allowed, permits


class Ahead(Struct, frozen=True):
    """What stands in the way of a recipe: files it did not make, and sounds that are not there.

    ``refused`` says why it cannot be delivered at all; empty if it can.
    """

    in_the_way: tuple[str, ...] = ()
    missing: tuple[str, ...] = ()
    refused: str = ""


def foresee(project: Project, files: dict[str, Path], cache: Path, recipe: AnyRecipe) -> Foreseen:
    """What delivering a recipe comes to. Raises ``BadProject`` or ``CannotWrite``."""
    sources = SoundSources(project, files, SoundCache(cache), progress=progress)
    return foreseen(project, prepared(project, recipe), sources)


def in_mono(project: Project, files: dict[str, Path], cache: Path, recipe: AnyRecipe) -> Path:
    """Write what a recipe asks for in mono into a file that is there to be heard only."""
    sources = SoundSources(project, files, SoundCache(cache), progress=progress)
    found, path = asked(project, recipe.scope), cache / "in mono.wav"
    signal = Signal(Passage(found, sources, muted(project)), project.rate, mono=True)
    made = SoundFile(signal, Encoding(bits=32), project.seed)
    with whole_file(path) as file:
        write_sound(made, file.path, path.name, Loud(), progress)
    return path


def look_ahead(
    project: Project,
    files: dict[str, Path],
    cache: Path,
    file: Path,
    recipes: tuple[AnyRecipe, ...],
    folder: Path,
) -> list[Ahead]:
    """What stands in the way of some recipes, before anything is written."""
    sources = SoundSources(project, files, SoundCache(cache), progress=progress)
    found = list[Ahead]()
    for recipe in recipes:
        try:
            ready = prepared(project, recipe)
        except CicadaError as error:
            found.append(Ahead(refused=str(error)))
            continue
        names = {folder / name: name for name in ready.names}
        blocked = Earlier().in_the_way(names, file, recipe.id)
        unheard = () if isinstance(recipe, DataRecipe | SheetRecipe) else unheard_sounds(
            ready.found.plan, project, sources, ready.silent, ready.fetched
        )  # fmt: skip
        missing = tuple(project.sound(sound).label for sound in unheard)
        found.append(Ahead(tuple(names[path] for path in blocked), missing))
    return found


def deliver_recipe(
    project: Project,
    files: dict[str, Path],
    cache: Path,
    file: Path,
    recipe: AnyRecipe,
    folder: Path,
    over: tuple[str, ...],
) -> Delivery:
    """Deliver a recipe below a folder, without what is missing, over the files that may be."""
    most = resource.getrlimit(resource.RLIMIT_NOFILE)[1]
    resource.setrlimit(resource.RLIMIT_NOFILE, (most, most))
    sources = SoundSources(project, files, SoundCache(cache), progress=progress)
    folders = Allowed().folders
    pictures = Picturing(project, file, lambda path: permits(folders, file, path), DecoderHere())
    with closing(pictures):
        return deliver(
            project, file, prepared(project, recipe), folder, sources, earlier=Earlier(),
            over=over, without_missing=True, pictures=pictures, going=progress,
        )  # fmt: skip
