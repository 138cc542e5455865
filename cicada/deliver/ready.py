"""Recipes made ready: planned, with the names of the files they make, and what is to be known."""

from collections.abc import Iterator
from typing import NamedTuple

from msgspec.structs import replace

from cicada.core.model import Project
from cicada.core.placements import heard_on
from cicada.core.recipe_rules import place_of
from cicada.core.recipes import (
    AnyRecipe,
    BundleRecipe,
    DataForm,
    DataRecipe,
    MixRecipe,
    SheetRecipe,
    StemsRecipe,
    VideoRecipe,
)
from cicada.core.scoped import Asked, asked, cut_at_seam, differing
from cicada.core.silent import muted
from cicada.deliver.bundle import (
    FILM,
    PAGE,
    SCRIPT,
    Image,
    Piece,
    images_fetched,
    pieces_fetched,
)
from cicada.deliver.encoding import name_of, suffix_of
from cicada.deliver.pieces import Stem, Trimmed, stems, trimmed_sounds
from cicada.deliver.sound_file import problem_of
from cicada.deliver.video import nearest_video_rate
from cicada.errors import CannotWrite

SUFFIXES: dict[DataForm, tuple[str, ...]] = {
    "json": (".json",),
    "csv": (".csv",),
    "captions": (".vtt",),
    "timeline": (".otio",),
    "midi": (".mid",),
    "levels": ("-levels.csv", "-levels.json"),
}
# What says in a folder of trimmed sounds where each is used.
USES = "sounds.json"
# What browsers read, and up to how many samples a scene's frames can be told apart there.
BROWSERS, LONGEST = ("wav", "flac", "vorbis", "opus", "mp3"), 1 << 52


class Prepared(NamedTuple):
    """A recipe, planned: what it asks for, which layers are muted, and the files it makes."""

    recipe: AnyRecipe
    found: Asked
    silent: frozenset[str]
    names: tuple[str, ...]
    stems: tuple[Stem, ...] = ()
    trimmed: tuple[Trimmed, ...] = ()
    pieces: tuple[Piece, ...] = ()
    images: tuple[Image, ...] = ()

    @property
    def fetched(self) -> set[str]:
        """What a player fetches though it may not sound in this run, as what a pad fires."""
        return {piece.need.sound for piece in self.pieces}


def prepared(project: Project, recipe: AnyRecipe) -> Prepared:
    """Plan a recipe. Raises ``BadProject`` or ``CannotWrite`` if it cannot be delivered."""
    found, silent, place = asked(project, recipe.scope), muted(project), place_of(recipe)
    if isinstance(recipe, DataRecipe):
        names = tuple(place + suffix for form in recipe.forms for suffix in SUFFIXES[form])
        return Prepared(recipe, found, silent, names)
    if isinstance(recipe, SheetRecipe):
        return Prepared(recipe, found, silent, (f"{place}.pdf",))
    if isinstance(recipe, VideoRecipe):
        rate = recipe.rate or project.rate
        nearest = nearest_video_rate(recipe.kind, rate)
        if nearest != rate:
            raise CannotWrite(
                f"{recipe.kind.upper()} holds no {rate:,} samples a second",
                remedy=f"choose {nearest:,} in the recipe",
            )
        return Prepared(recipe, found, silent, (f"{place}.{recipe.kind}",))
    problem_of(recipe.encoding, recipe.encoding.rate or project.rate)
    suffix = suffix_of(recipe.encoding)
    if isinstance(recipe, BundleRecipe):
        return _prepared_bundle(recipe, found, silent, place)
    if isinstance(recipe, MixRecipe):
        return Prepared(recipe, found, silent, (place + suffix,))
    if isinstance(recipe, StemsRecipe):
        parts = tuple(stems(found, recipe.by, silent))
        names = tuple(f"{place}/{part.name}{suffix}" for part in parts)
        return Prepared(recipe, found, silent, names, stems=parts)
    heard = tuple(voice for voice in found.plan.voices if voice.layer not in silent)
    audible = found._replace(plan=replace(found.plan, voices=heard))
    pieces = tuple(trimmed_sounds(audible, share=recipe.share))
    names = (*(f"{place}/{piece.name}{suffix}" for piece in pieces), f"{place}/{USES}")
    return Prepared(recipe, found, silent, names, trimmed=pieces)


def _prepared_bundle(
    recipe: BundleRecipe, found: Asked, silent: frozenset[str], place: str
) -> Prepared:
    if recipe.encoding.kind not in BROWSERS:
        raise CannotWrite(
            f"browsers do not read {name_of(recipe.encoding)}",
            remedy="choose FLAC, WAV, Ogg Vorbis, Opus or MP3 in the recipe",
        )
    base = found.project.timebase
    if any(base.start(scene.length) > LONGEST for scene in found.project.scenes):
        raise CannotWrite("a scene is too long for a player", remedy="make its frames shorter")
    run = found.run
    if recipe.scope.run is None:
        run = replace(run, press_points="wait", passes=0 if recipe.endless else run.passes)
    found = found._replace(run=run)
    pieces = tuple(pieces_fetched(found, silent, suffix_of(recipe.encoding)))
    images = tuple(images_fetched(found)) if recipe.picture else ()
    own = (*(piece.name for piece in pieces), *(image.name for image in images))
    names = (*(f"{place}/{name}" for name in (PAGE, SCRIPT, *own)), f"{place}/{FILM}")
    return Prepared(recipe, found, silent, names, pieces=pieces, images=images)


def said_beforehand(project: Project, ready: Prepared) -> Iterator[str]:
    """What should be known before a recipe is delivered, each as a sentence."""
    labels = {layer.id: layer.label for layer in heard_on(project).values()}
    quiet = [labels[each] for each in labels if each in ready.silent]
    if quiet:
        yield "Muted and left out: " + ", ".join(quiet) + "."
    cut = list(dict.fromkeys(labels[voice.layer] for voice in cut_at_seam(ready.found)))
    if cut:
        yield f"Has no end and is cut where the loop begins again: {', '.join(cut)}."
    differs = differing(ready.found)
    if differs:
        first = ", ".join(
            f"{labels[each.layer]} on frame {project.shown(each.frame)}" for each in differs[:5]
        )
        more = f" and {len(differs) - 5} more" if len(differs) > 5 else ""
        yield (
            f"The film would go otherwise when it comes round again ({first}{more}); "
            "the steady pass has that in it."
        )
