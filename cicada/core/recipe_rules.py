"""What recipes must hold: where they go, and what of the film they name."""

from collections.abc import Iterator

from cicada.core.answer_rules import refuse
from cicada.core.model import Project
from cicada.core.naming import file_name
from cicada.core.recipes import AnyRecipe, BundleRecipe, DataRecipe, Scope, SheetRecipe

# Bytes of one step of a place: file names with a suffix and a number still fit.
LONGEST_STEP = 180


def place_of(recipe: AnyRecipe) -> str:
    """Where a recipe goes, below the folder it is delivered to and without a suffix."""
    return recipe.place or file_name(recipe.label)


def place_problem(place: str) -> str:
    """What is wrong with a place below a folder; empty if nothing is, or it is empty."""
    if not place:
        return ""
    for step in place.split("/"):
        if not step:
            return "has an empty step"
        if step.startswith("."):
            return f"has the step {step!r}, which begins with a dot"
        if not step.isprintable() or step != step.strip():
            return "has a step that cannot be typed"
        if "\\" in step or ":" in step:
            return f"has the step {step!r}, which not every disk takes"
        if len(step.encode()) > LONGEST_STEP:
            return f"has a step of more than {LONGEST_STEP} bytes"
    return ""


def validate_recipes(project: Project) -> None:
    """Raise ``BadProject``, naming the place, if a recipe breaks a rule.

    A scene or kept run that is no more there is none: that is said when it is delivered.
    """
    names: dict[str, str] = {}
    for number, recipe in enumerate(project.recipes):
        here = f"recipes[{number}]"
        problem = place_problem(recipe.place)
        if problem:
            refuse(f"{here}.place", problem, "name a place below the folder, such as mix/film")
        if isinstance(recipe, DataRecipe | SheetRecipe) and recipe.scope.tail == "steady":
            refuse(f"{here}.scope.tail", "is steady", "it tells of a run from its beginning")
        problems = [*_scope_problems(recipe.scope)]
        if isinstance(recipe, BundleRecipe):
            problems += _bundle_problems(recipe)
        for where, what, remedy in problems:
            refuse(f"{here}.scope.{where}", what, remedy)
        if recipe.label in names:
            refuse(here, f"is called {recipe.label!r}, as {names[recipe.label]} is", "rename one")
        names[recipe.label] = here


def _scope_problems(scope: Scope) -> Iterator[tuple[str, str, str]]:
    ranged = scope.first > 0 or scope.last is not None
    if scope.run is not None and (scope.scene is not None or ranged):
        yield "run", "is given beside a scene or frames", "a kept run says itself where it begins"
    if ranged and scope.scene is None:
        yield "first", "is given without a scene", "say whose frames they are"
    if scope.last is not None and scope.last < scope.first:
        yield "last", "is before the first frame", "swap them"
    if ranged and scope.passes > 1:
        yield "passes", "is given beside frames", "frames are played once; fold them for a loop"
    if scope.tail == "steady" and (ranged or scope.run is not None or scope.passes > 1):
        yield "tail", "is steady", "only a scene or the whole film, once, has a steady pass"


def _bundle_problems(recipe: BundleRecipe) -> Iterator[tuple[str, str, str]]:
    scope = recipe.scope
    if scope.tail in ("fold", "steady"):
        yield "tail", f"is {scope.tail}", "a player goes on by itself: let it ring, or cut it"
    if scope.first > 0 or scope.last is not None:
        yield "first", "is given", "a player plays scenes whole"
    if recipe.endless and (scope.passes > 1 or scope.run is not None):
        yield "passes", "is given beside endless", "an endless film has no number of passes"
