"""Delivering a recipe: all its files, or none of them."""

import resource
from collections.abc import Collection, Iterable, Iterator
from contextlib import ExitStack, contextmanager, suppress
from pathlib import Path

import msgspec

from cicada.core.model import Project
from cicada.core.recipes import DataRecipe, SheetRecipe
from cicada.deliver.earlier import Earlier
from cicada.deliver.in_use import refuse_in_use
from cicada.deliver.products import Going, Products
from cicada.deliver.promises import File
from cicada.deliver.ready import Prepared, said_beforehand
from cicada.deliver.shown import Pictures
from cicada.deliver.unheard import unheard_sounds
from cicada.disk.paths import inside, is_there
from cicada.disk.why import why
from cicada.disk.writing import whole_file
from cicada.errors import BadSound, CannotWrite
from cicada.media.sources import SoundSources

# Files that are open besides those that are written.
OTHERS = 128


class Delivery(msgspec.Struct, frozen=True):
    """The files of a recipe, and sentences about them."""

    recipe: str
    files: tuple[File, ...]
    said: tuple[str, ...]

    @property
    def missed(self) -> list[str]:
        """The promises that were not kept, each with its file."""
        return [f"{file.name}: {missed.said}" for file in self.files for missed in file.missed]


def deliver(
    project: Project,
    project_file: Path,
    ready: Prepared,
    folder: Path,
    sources: SoundSources,
    *,
    earlier: Earlier,
    over: Collection[str] = (),
    without_missing: bool = False,
    pictures: Pictures | None = None,
    going: Going = lambda share: True,
) -> Delivery:
    """Deliver a recipe below ``folder``: all its files, or none of them.

    ``over`` are files that may be replaced although this recipe did not make them. Raises
    ``BadProject``, ``BadSound``, ``CannotWrite`` or ``Cancelled``.
    """
    recipe, found = ready.recipe, ready.found
    most = resource.getrlimit(resource.RLIMIT_NOFILE)[0] - OTHERS
    if len(ready.names) > most:
        raise CannotWrite(
            f"it makes {len(ready.names):,} files, and {most:,} can be written together here",
            remedy="leave the picture out, or deliver one scene",
        )
    paths = {name: folder / name for name in ready.names}
    _may_be_written(project, project_file, paths, folder)
    blocked = earlier.in_the_way(
        (path for name, path in paths.items() if name not in over), project_file, recipe.id
    )
    if blocked:
        raise CannotWrite(
            "is there already, and this recipe did not make it as it is",
            file=str(blocked[0]), remedy="choose another folder, or have it replaced (--replace)",
        )  # fmt: skip
    unheard = unheard_sounds(found.plan, project, sources, ready.silent, ready.fetched)
    if unheard and not without_missing and not isinstance(recipe, DataRecipe | SheetRecipe):
        raise BadSound(
            "; ".join(f"{project.sound(sound).label}: {why}" for sound, why in unheard.items()),
            remedy="put it right, or deliver without it (--missing silent)",
        )
    said = list(said_beforehand(project, ready))
    said += [f"Silent: {project.sound(sound).label}: {why}" for sound, why in unheard.items()]
    with _folders_for(paths.values()), ExitStack() as whole:
        files = {name: whole.enter_context(whole_file(path)) for name, path in paths.items()}
        made = tuple(Products(project, ready, sources, files, said, going, pictures).made())
    earlier.remember(paths.values(), project_file, recipe.id)
    return Delivery(recipe.label, made, tuple(said))


def _may_be_written(
    project: Project, project_file: Path, paths: dict[str, Path], folder: Path
) -> None:
    for name, path in paths.items():
        if not inside(folder, path):
            raise CannotWrite(
                "leads out of the folder by a link", file=name, remedy="choose another folder"
            )
        refuse_in_use(path, project, project_file)


@contextmanager
def _folders_for(paths: Iterable[Path]) -> Iterator[None]:
    """Have the folders of some files; those that were made here go if that comes to nothing."""
    made = list[Path]()
    try:
        for path in paths:
            missing = [each for each in path.parents if not is_there(each)]
            for folder in reversed(missing):
                folder.mkdir(exist_ok=True)
                made.append(folder)
        yield
    except BaseException as error:
        for folder in reversed(made):
            with suppress(OSError):
                folder.rmdir()
        if isinstance(error, OSError):
            raise CannotWrite(
                f"cannot be written ({why(error)})",
                file=error.filename or "", remedy="choose another folder",
            ) from None  # fmt: skip
        raise
