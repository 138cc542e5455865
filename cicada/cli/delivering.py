"""``cicada deliver``."""

import argparse
import resource
from collections.abc import Iterator
from contextlib import closing, contextmanager
from pathlib import Path

import msgspec

from cicada.cli.output import Ended, give, say, warn
from cicada.cli.rendering import own_sources
from cicada.core.model import Project
from cicada.core.recipes import AnyRecipe
from cicada.deliver.delivery import Delivery, deliver
from cicada.deliver.earlier import Earlier
from cicada.deliver.ready import Prepared, prepared
from cicada.disk.paths import is_folder, real_file
from cicada.disk.why import size_text
from cicada.errors import BadProject, CannotWrite, CicadaError, plain
from cicada.jobs.files import keep_cache_to_its_limit
from cicada.jobs.picturing import Picturing
from cicada.media.cache import user_cache
from cicada.media.picture_process import PictureDecoder
from cicada.store.allowed import Allowed, permits
from cicada.store.projectfile import load

MISSED, CANCELLED = 1, 3


def deliver_recipes(options: argparse.Namespace) -> int:
    """Deliver recipes of a project below a folder: 0, 1 if a promise was missed, 3 cancelled."""
    file = real_file(options.file, BadProject)
    project = load(file)
    folder = Path(options.to)
    if not is_folder(folder):
        raise CannotWrite("is no folder", file=str(folder), remedy="make it, or name another")
    recipes = _chosen(project, options.recipe, options.file)
    try:
        # All are planned before anything is written.
        ready = [_ready(project, recipe, options.file) for recipe in recipes]
        done = _delivered(project, file, ready, folder, options)
    except Ended as ended:
        if ended.interrupted:
            warn("cancelled: what was under way was not written")
            return CANCELLED
        raise
    keep_cache_to_its_limit(user_cache(), project)
    if options.json:
        give(msgspec.json.format(msgspec.json.encode(done), indent=1).decode())
    else:
        for delivery in done:
            _tell(delivery, folder)
    missed = [said for delivery in done for said in delivery.missed]
    for said in missed:
        warn(f"missed: {said}")
    return MISSED if missed else 0


def _chosen(project: Project, names: list[str], file: Path) -> list[AnyRecipe]:
    known = {recipe.label: recipe for recipe in project.recipes}
    known |= {recipe.id: recipe for recipe in project.recipes if recipe.id not in known}
    labels = ", ".join(recipe.label for recipe in project.recipes)
    remedy = f"name one of {labels}" if labels else "add one in the window (File, Deliver)"
    for name in names:
        if name not in known:
            raise BadProject(f"there is no recipe {name!r}", file=str(file), remedy=remedy)
    return [known[name] for name in dict.fromkeys(names)]


def _ready(project: Project, recipe: AnyRecipe, file: Path) -> Prepared:
    with _said_of(recipe, file):
        return prepared(project, recipe)


@contextmanager
def _said_of(recipe: AnyRecipe, file: Path) -> Iterator[None]:
    """Say of what names no file itself whose recipe it is."""
    try:
        yield
    except CicadaError as error:
        if error.file:
            raise
        raise type(error)(
            error.problem, file=str(file), place=recipe.label, remedy=error.remedy
        ) from None


def _delivered(
    project: Project, file: Path, ready: list[Prepared], folder: Path, options: argparse.Namespace
) -> list[Delivery]:
    sources = own_sources(project, file, allow_outside=options.allow_outside)
    # A stem for each of a thousand sounds is a thousand open files.
    most = resource.getrlimit(resource.RLIMIT_NOFILE)[1]
    resource.setrlimit(resource.RLIMIT_NOFILE, (most, most))
    done, folders = list[Delivery](), Allowed().folders
    pictures = Picturing(
        project, file, lambda path: options.allow_outside or permits(folders, file, path),
        PictureDecoder(),
    )  # fmt: skip
    with closing(pictures):
        for each in ready:
            with _said_of(each.recipe, options.file):
                done.append(deliver(
                    project, file, each, folder, sources, earlier=Earlier(),
                    over=each.names if options.replace else (),
                    without_missing=options.missing == "silent", pictures=pictures,
                ))  # fmt: skip
    return done


def _tell(delivery: Delivery, folder: Path) -> None:
    for file in delivery.files:
        told = [plain(str(folder / file.name)), file.kind, size_text(file.size)]
        if file.frames is not None and file.rate:
            told.append(f"{file.frames / file.rate:.3f} s")
            told.append(
                "silent" if file.true_peak is None else f"true peak {file.true_peak:.1f} dB"
            )
            if file.loudness is not None:
                told.append(f"{file.loudness:.1f} LUFS")
            if file.gain:
                told.append(f"gain {file.gain:+.1f} dB")
        say(", ".join(told))
    for said in delivery.said:
        say(plain(said))
