"""Putting recipes into the project, and taking them out."""

from msgspec.structs import replace
from typing_extensions import override

from cicada.core.editing import Edit, plainly, put
from cicada.core.model import Project
from cicada.core.recipe_rules import validate_recipes
from cicada.core.recipes import AnyRecipe
from cicada.errors import BadEdit, BadProject


class PutRecipe(Edit, frozen=True, kw_only=True, tag="put-recipe"):
    """Add a recipe, or change the one of its id."""

    recipe: AnyRecipe
    named: str = ""

    @property
    @override
    def title(self) -> str:
        return self.named or f"add the recipe {self.recipe.label}"

    @override
    def apply(self, project: Project) -> Project:
        changed = replace(project, recipes=put(project.recipes, _plainly(self.recipe), project))
        try:
            validate_recipes(changed)
        except BadProject as error:
            place = error.place.rpartition(".")[2]
            raise BadEdit(f"{place} {error.problem}", remedy=error.remedy) from None
        return changed


class RemoveRecipe(Edit, frozen=True, kw_only=True, tag="remove-recipe"):
    """Take a recipe out of the project; what was delivered by it stays."""

    recipe: str

    @property
    @override
    def title(self) -> str:
        return "remove the recipe"

    @override
    def apply(self, project: Project) -> Project:
        left = tuple(each for each in project.recipes if each.id != self.recipe)
        if len(left) == len(project.recipes):
            raise BadEdit("that recipe is no more there", remedy="choose another")
        return replace(project, recipes=left)


def _plainly(recipe: AnyRecipe) -> AnyRecipe:
    """A recipe whose parts that are as usual are left out of the file."""
    parts = {
        name: plainly(getattr(recipe, name))
        for name in ("scope", "encoding", "loud")
        if hasattr(recipe, name)
    }
    return plainly(replace(recipe, **parts))
