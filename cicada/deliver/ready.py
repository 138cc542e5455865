"""Recipes made ready: planned, with the names of the files they make, and what is to be known."""

from collections.abc import Iterator
from typing import NamedTuple

from msgspec.structs import replace

from cicada.core.model import Project
from cicada.core.placements import heard_on
from cicada.core.recipe_rules import place_of
from cicada.core.recipes import (
    AnyRecipe,
    DataForm,
    DataRecipe,
    MixRecipe,
    SheetRecipe,
    StemsRecipe,
    VideoRecipe,
)
from cicada.core.scoped import Asked, asked, cut_at_seam, differing
from cicada.core.silent import muted
from cicada.deliver.encoding import suffix_of
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


class Prepared(NamedTuple):
    """A recipe, planned: what it asks for, which layers are muted, and the files it makes."""

    recipe: AnyRecipe
    found: Asked
    silent: frozenset[str]
    names: tuple[str, ...]
    stems: tuple[Stem, ...] = ()
    trimmed: tuple[Trimmed, ...] = ()


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
