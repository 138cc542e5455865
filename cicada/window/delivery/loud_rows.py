"""How loud a recipe is to be: the rows of its aim and its ceiling."""

from msgspec.structs import replace
from PySide6.QtCore import QObject, Signal
from PySide6.QtWidgets import QCheckBox

from cicada.core.recipes import AnyRecipe, Loud, MixRecipe, StemsRecipe, VideoRecipe
from cicada.window.widgets.choice import Choice
from cicada.window.widgets.fields import Kind, QuantityField
from cicada.window.widgets.rows import Page
from cicada.window.words.delivery import parse_decibels
from cicada.window.words.numbers import shown

# Where loudness is aimed at and nobody has said how much.
USUAL_LOUDNESS, USUAL_PEAK = -16.0, -1.0
WIDTH = 96


def _decibels(unit: str) -> Kind:
    def step(value: float, steps: int, /, *, fine: bool) -> float:
        return round(value + steps * (0.1 if fine else 0.5), 3)

    tip = f"In {unit}, as in -16 or -1.5"
    return Kind(parse_decibels, lambda value: f"{shown(value)} {unit}", tip, None, step)


class LoudRows(QObject):
    """``put`` comes with what is changed, in words, and the recipe as it is to be."""

    put = Signal(str, object)

    def __init__(self, page: Page) -> None:
        super().__init__(page)
        self._page = page
        self._recipe: AnyRecipe = MixRecipe(id="none")
        self.aim = Choice("how loud", [
            ("none", "as it is", "The mix by the project's level"),
            ("peak", "by its peak", "True peak, by gain alone"),
            ("loudness", "by its loudness", "BS.1770, by gain alone"),
        ])  # fmt: skip
        self.aim.chosen.connect(self._choose_aim)
        self.peak = QuantityField("peak aimed at", _decibels("dB"))
        self.loudness = QuantityField("loudness aimed at", _decibels("LUFS"))
        self.peak.chosen.connect(lambda value: self._loud("how loud", target=value))
        self.loudness.chosen.connect(lambda value: self._loud("how loud", target=value))
        self.has_ceiling = QCheckBox("never above")
        self.has_ceiling.setToolTip("The true peak of the decoded file; it wins over the aim")
        self.has_ceiling.clicked.connect(self._choose_ceiling)
        self.ceiling = QuantityField("ceiling", _decibels("dB"))
        self.ceiling.chosen.connect(lambda value: self._loud("the ceiling", ceiling=value))
        for field in (self.peak, self.loudness, self.ceiling):
            field.setFixedWidth(WIDTH)
        self.aim_row = page.row("how loud", self.aim, self.peak, self.loudness)
        self.ceiling_row = page.row("", self.has_ceiling, self.ceiling)

    def show_recipe(self, recipe: AnyRecipe) -> None:
        """Show how loud a recipe is to be."""
        self._recipe = recipe
        loud = self._of_it()
        for label in (self.aim_row, self.ceiling_row):
            self._page.form.setRowVisible(label, loud is not None)
        if loud is None:
            return
        self.aim.set_value(loud.aim)
        for field, aim in ((self.peak, "peak"), (self.loudness, "loudness")):
            field.setVisible(loud.aim == aim)
            field.set_value(loud.target)
        self.has_ceiling.setChecked(loud.ceiling is not None)
        self.ceiling.setVisible(loud.ceiling is not None)
        if loud.ceiling is not None:
            self.ceiling.set_value(loud.ceiling)

    def _of_it(self) -> Loud | None:
        recipe = self._recipe
        return recipe.loud if isinstance(recipe, MixRecipe | StemsRecipe | VideoRecipe) else None

    def _loud(self, what: str, **changes: object) -> None:
        loud = self._of_it()
        if loud is not None:
            self.put.emit(what, replace(self._recipe, loud=replace(loud, **changes)))

    def _choose_aim(self, aim: str) -> None:
        target = USUAL_LOUDNESS if aim == "loudness" else USUAL_PEAK
        self._loud("how loud", aim=aim, target=target)

    def _choose_ceiling(self, on: bool) -> None:  # noqa: FBT001 - a signal says so
        self._loud("the ceiling", ceiling=USUAL_PEAK if on else None)
