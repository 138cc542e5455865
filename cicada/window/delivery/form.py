"""What a recipe says, to be changed: what of the film, how it is written, how loud it is to be."""

from collections.abc import Callable

from msgspec.structs import replace
from PySide6.QtCore import Signal
from PySide6.QtWidgets import QCheckBox, QComboBox, QHBoxLayout, QLineEdit, QVBoxLayout, QWidget

from cicada.core.model import Project
from cicada.core.recipe_rules import place_of
from cicada.core.recipes import (
    AnyRecipe,
    BundleRecipe,
    DataRecipe,
    MixRecipe,
    Scope,
    SheetRecipe,
)
from cicada.window.delivery.loud_rows import LoudRows
from cicada.window.delivery.written_rows import WrittenRows
from cicada.window.widgets.choice import Choice
from cicada.window.widgets.fields import Kind, QuantityField, whole
from cicada.window.widgets.rows import Page, soft
from cicada.window.words.delivery import TAILS, WHAT
from cicada.window.words.quantities import parse_whole

WHOLE_FILM, KEPT = "the whole film", "kept run: "


class RecipeForm(QWidget):
    """One recipe. ``changed`` comes with what it is to be, and what that step is called."""

    changed = Signal(object, str)
    mono_heard = Signal()

    def __init__(self, project: Callable[[], Project]) -> None:
        super().__init__()
        self._project = project
        self._recipe: AnyRecipe = MixRecipe(id="none")
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        self.what = soft("")
        column.addWidget(self.what)
        self.page = Page()
        column.addWidget(self.page)
        column.addStretch(1)
        self._named_rows()
        self._scope_rows()
        self.written, self.loud = WrittenRows(self.page, project), LoudRows(self.page)
        self.written.put.connect(self._changed)
        self.written.mono_heard.connect(self.mono_heard)
        self.loud.put.connect(self._changed)

    # -- building ------------------------------------------------------------------------------

    def _named_rows(self) -> None:
        self.name, self.place = QLineEdit(), QLineEdit()
        for field, words in ((self.name, "Name"), (self.place, "Place below the folder")):
            field.setAccessibleName(words)
            field.setFixedWidth(250)
        self.name.editingFinished.connect(self._rename)
        self.place.editingFinished.connect(self._move)
        self.place.setToolTip("Below the folder, as in mix/film; empty: by its name")
        self.goes_to = soft("")
        self.page.row("name", self.name)
        self.page.row("goes to", self.place, self.goes_to)

    def _scope_rows(self) -> None:
        self.part = QComboBox()
        self.part.setAccessibleName("What of the film")
        self.part.setMinimumWidth(170)
        self.part.activated.connect(self._choose_part)
        self.first, self.last = (
            QuantityField(words, self._frames(words)) for words in ("first frame", "last frame")
        )
        self.passes = QuantityField("how often", whole(parse_whole, lambda v: f"{v:.0f}", "", 1))
        for field in (self.first, self.last, self.passes):
            field.setFixedWidth(64)
        self.first.chosen.connect(self._frames_chosen)
        self.last.chosen.connect(self._frames_chosen)
        self.passes.chosen.connect(lambda n: self._scope("how often", passes=int(n)))
        self.frames = QWidget()
        row = QHBoxLayout(self.frames)
        row.setContentsMargins(0, 0, 0, 0)
        for widget in (soft("frames"), self.first, soft("to"), self.last):
            row.addWidget(widget)
        self.often = QWidget()
        row = QHBoxLayout(self.often)
        row.setContentsMargins(0, 0, 0, 0)
        row.addWidget(self.passes)
        row.addWidget(soft("times"))
        self.endless = QCheckBox("without end")
        self.endless.setToolTip("Pass after pass, until the page is closed")
        self.endless.clicked.connect(self._choose_endless)
        self.page.row("of the film", self.part, self.frames, self.often, self.endless)
        self.tail = Choice("what rings past its end", TAILS)
        self.tail.chosen.connect(lambda tail: self._scope("its end", tail=tail))
        self.tail_row = self.page.row("its end", self.tail)

    def _frames(self, words: str) -> Kind:
        return whole(parse_whole, lambda value: f"{value:.0f}", f"The {words}, counted as shown")

    # -- showing -------------------------------------------------------------------------------

    def show_recipe(self, recipe: AnyRecipe) -> None:
        """Show what a recipe says now."""
        self._recipe = recipe
        self.what.setText(WHAT[type(recipe)])
        for field, text in ((self.name, recipe.name), (self.place, recipe.place)):
            if not field.hasFocus() or not field.isModified():
                field.setText(text)
        self.place.setPlaceholderText(place_of(replace(recipe, place="")))
        self._show_scope(recipe.scope)
        self.goes_to.setText(self.written.show_recipe(recipe))
        self.loud.show_recipe(recipe)

    def _show_scope(self, scope: Scope) -> None:
        project = self._project()
        self.part.clear()
        self.part.addItem(WHOLE_FILM, None)
        for scene in project.scenes:
            self.part.addItem(scene.label, ("scene", scene.id))
        for run in project.runs:
            self.part.addItem(f"{KEPT}{run.name}", ("run", run.name))
        wanted = ("run", scope.run) if scope.run is not None else ("scene", scope.scene)
        there = [self.part.itemData(i) for i in range(self.part.count())]
        if scope.run is None and scope.scene is None:
            self.part.setCurrentIndex(0)
        elif wanted in there:
            self.part.setCurrentIndex(there.index(wanted))
        else:
            self.part.addItem(f"{wanted[1]} (gone)", wanted)
            self.part.setCurrentIndex(self.part.count() - 1)
        lengths = {scene.id: scene.length for scene in project.scenes}
        length = lengths.get(scope.scene or "", 1)
        last = length - 1 if scope.last is None else scope.last
        self.first.set_value(project.shown(scope.first))
        self.last.set_value(project.shown(last))
        self.passes.set_value(scope.passes)
        ranged, recipe = scope.first > 0 or scope.last is not None, self._recipe
        bundle = isinstance(recipe, BundleRecipe)
        self.frames.setVisible(scope.scene is not None and not bundle)
        often = scope.run is None and not ranged and scope.tail != "steady"
        endless = isinstance(recipe, BundleRecipe) and recipe.endless
        self.often.setVisible(often and not endless)
        self.endless.setVisible(often and bundle)
        self.endless.setChecked(endless)
        self.tail.set_value(scope.tail)
        self.page.form.setRowVisible(self.tail_row, not endless)
        self.tail.buttons["fold"].setVisible(not bundle)
        self.tail.buttons["steady"].setVisible(
            not ranged and scope.run is None and scope.passes == 1
            and not isinstance(recipe, DataRecipe | SheetRecipe | BundleRecipe)
        )  # fmt: skip

    # -- changing ------------------------------------------------------------------------------

    def _put(self, what: str, **changes: object) -> None:
        self._changed(what, replace(self._recipe, **changes))

    def _changed(self, what: str, recipe: AnyRecipe) -> None:
        if recipe != self._recipe:
            self.changed.emit(recipe, f"change {what} of {self._recipe.label}")

    def _scope(self, what: str, **changes: object) -> None:
        self._put(what, scope=replace(self._recipe.scope, **changes))

    def _rename(self) -> None:
        self.name.setModified(False)
        name = self.name.text().strip()
        if name and name != self._recipe.name:
            self.changed.emit(replace(self._recipe, name=name), f"rename {self._recipe.label}")

    def _move(self) -> None:
        self.place.setModified(False)
        self._put("the place", place=self.place.text().strip())

    def _choose_part(self, index: int) -> None:
        part = self.part.itemData(index)
        kind, name = part if part else ("", None)
        scope = Scope(tail=self._recipe.scope.tail, seed=self._recipe.scope.seed)
        if kind == "run" and scope.tail == "steady":
            scope = replace(scope, tail="ring")
        if kind:
            scope = replace(scope, **{kind: name})
        own = {"endless": False} if isinstance(self._recipe, BundleRecipe) else {}
        self._put("what is delivered", scope=scope, **own)

    def _choose_endless(self, on: bool) -> None:  # noqa: FBT001 - a signal says so
        scope = replace(self._recipe.scope, passes=1)
        self._put("how often", endless=on, scope=scope)

    def _frames_chosen(self, _: float) -> None:
        """Frames are counted as people read them; all of them are none."""
        project, scope = self._project(), self._recipe.scope
        lengths = {scene.id: scene.length for scene in project.scenes}
        length = lengths.get(scope.scene or "", 1)
        first = min(max(0, int(self.first.value) - project.first_frame), length - 1)
        last = min(max(0, int(self.last.value) - project.first_frame), length - 1)
        if last < first:
            first, last = last, first
        whole_scene = first == 0 and last == length - 1
        tail = "ring" if scope.tail == "steady" and not whole_scene else scope.tail
        ends = None if last == length - 1 else last
        self._scope("its frames", first=first, last=ends, tail=tail, passes=1)
