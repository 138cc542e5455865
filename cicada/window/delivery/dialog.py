"""The deliveries of a project: its recipes, what the chosen one comes to, and delivering them."""

from functools import partial
from pathlib import Path

from msgspec.structs import replace
from PySide6.QtCore import QRect, QSettings, QSize, Qt, QTimer
from PySide6.QtGui import QCloseEvent
from PySide6.QtWidgets import (
    QDialog,
    QHBoxLayout,
    QLabel,
    QListWidget,
    QListWidgetItem,
    QMenu,
    QProgressBar,
    QPushButton,
    QStackedWidget,
    QVBoxLayout,
    QWidget,
)
from typing_extensions import override

from cicada.core.naming import free_id, free_name
from cicada.core.recipe_edits import PutRecipe, RemoveRecipe
from cicada.core.recipes import (
    AnyRecipe,
    BundleRecipe,
    DataRecipe,
    MixRecipe,
    Scope,
    SheetRecipe,
    StemsRecipe,
    TrimmedRecipe,
    VideoRecipe,
)
from cicada.deliver.encoding import encoding_problem, nearest_rate
from cicada.deliver.foresight import Foreseen
from cicada.deliver.video import nearest_video_rate
from cicada.deliver.weight import ForPlayers
from cicada.disk.paths import is_folder
from cicada.jobs.delivering import foresee
from cicada.window.delivery.deliveries import Deliveries
from cicada.window.delivery.form import RecipeForm
from cicada.window.delivery.in_place import InPlace
from cicada.window.delivery.outcome import Outcome
from cicada.window.delivery.page_opening import PageOpening
from cicada.window.delivery.weight_dialog import WeightDialog
from cicada.window.playing.listening import Listening
from cicada.window.state.jobs import Job
from cicada.window.state.session import Session
from cicada.window.state.work import Work
from cicada.window.widgets.asking import Asking
from cicada.window.widgets.dialogs import show_beside
from cicada.window.widgets.rows import scrolled, soft
from cicada.window.words.delivery import (
    TITLES,
    WHAT,
    foreseen_text,
    left_text,
    recipe_text,
)

# Milliseconds after a change until what it comes to is worked out.
SOON = 250
# Pixels of a line in the list of recipes.
WIDE = 252
FOLDER = "delivery/folder"
KINDS: tuple[type[AnyRecipe], ...] = (
    MixRecipe, StemsRecipe, TrimmedRecipe, BundleRecipe, VideoRecipe, SheetRecipe, DataRecipe,
)  # fmt: skip


class DeliveryDialog(QDialog):
    """Recipes on the left, the chosen one beside them, and below what becomes of them."""

    def __init__(
        self,
        parent: QWidget,
        session: Session,
        work: Work,
        listening: Listening,
        in_place: InPlace,
        pages: PageOpening,
        asking: Asking,
        settings: QSettings,
    ) -> None:
        super().__init__(parent)
        self._session, self._document = session, session.document
        self._work, self._listening, self._settings = work, listening, settings
        self._asking, self._in_place, self._pages = asking, in_place, pages
        self.deliveries = Deliveries(self._document, work, asking)
        self._foreseeing: Job | None = None
        self._foreseen_of: object = None
        self._shown, self._closed = "", False
        self.setWindowTitle("Deliver")
        self.resize(980, 640)
        across = QHBoxLayout()
        across.setSpacing(20)
        across.addLayout(self._left())
        across.addLayout(self._right(), 1)
        column = QVBoxLayout(self)
        column.setContentsMargins(20, 16, 20, 16)
        column.setSpacing(12)
        column.addLayout(across, 1)
        column.addLayout(self._foot())
        for button in self.findChildren(QPushButton):
            button.setAutoDefault(False)
        self._soon = QTimer(self)
        self._soon.setSingleShot(True)
        self._soon.setInterval(SOON)
        self._soon.timeout.connect(self._foresee)
        self._document.changed.connect(self.refresh)
        self._document.became.connect(self.close)
        self.deliveries.changed.connect(self._show_progress)
        self.deliveries.over.connect(self._delivered)
        listening.changed.connect(self._show_listening)
        in_place.changed.connect(self._show_in_place)
        self.refresh()

    # -- building ------------------------------------------------------------------------------

    def _left(self) -> QVBoxLayout:
        column = QVBoxLayout()
        column.setSpacing(6)
        column.addWidget(soft("Recipes; those that are ticked are delivered"))
        self.list = QListWidget()
        self.list.setAccessibleName("Recipes")
        self.list.setFixedWidth(300)
        self.list.setWordWrap(True)
        self.list.setSpacing(2)
        self.list.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.list.currentRowChanged.connect(self._choose)
        self.list.itemChanged.connect(lambda _: self._say_what_is_left())
        column.addWidget(self.list, 1)
        row = QHBoxLayout()
        self.add = QPushButton("Add")
        menu = QMenu(self.add)
        menu.setToolTipsVisible(True)
        for kind in KINDS:
            action = menu.addAction(TITLES[kind])
            action.setToolTip(WHAT[kind])
            action.triggered.connect(partial(self.add_recipe, kind))
        self.add.setMenu(menu)
        self.remove = QPushButton("Remove")
        self.remove.setToolTip("Take the recipe out; what was delivered by it stays")
        self.remove.clicked.connect(self._remove)
        row.addWidget(self.add)
        row.addWidget(self.remove)
        row.addStretch(1)
        column.addLayout(row)
        return column

    def _right(self) -> QVBoxLayout:
        column = QVBoxLayout()
        column.setSpacing(8)
        self.form = RecipeForm(lambda: self._document.project)
        self.form.changed.connect(self._change)
        self.form.mono_heard.connect(self._hear_in_mono)
        self.empty = QLabel(
            "A recipe says what leaves the project, and what is promised of it: a mix by its\n"
            "loudness, stems, the pieces and the data your player code needs. Add one."
        )
        self.empty.setObjectName("soft")
        self.empty.setAlignment(Qt.AlignmentFlag.AlignCenter)
        self.outcome = Outcome()
        self.outcome.listen.connect(self._listening.toggle)
        self.outcome.in_place.connect(self._hear_in_place)
        self.outcome.opened.connect(self._open_page)
        self.stack = QStackedWidget()
        self.stack.addWidget(self.empty)
        self.stack.addWidget(scrolled(self.form))
        self.stack.addWidget(self.outcome)
        column.addWidget(self.stack, 1)
        row = QHBoxLayout()
        self.says = QLabel()
        self.says.setWordWrap(True)
        self.says.setTextFormat(Qt.TextFormat.PlainText)
        self.instead = QPushButton()
        self.instead.clicked.connect(self._take_nearest)
        self.weigh = QPushButton("What it weighs…")
        self.weigh.clicked.connect(self._weigh)
        row.addWidget(self.says, 1)
        row.addWidget(self.instead)
        row.addWidget(self.weigh)
        column.addLayout(row)
        return column

    def _foot(self) -> QHBoxLayout:
        row = QHBoxLayout()
        row.setSpacing(10)
        self.where = QPushButton("Folder…")
        self.where.clicked.connect(self._choose_folder)
        self.folder_label = soft("")
        self.folder_label.setTextFormat(Qt.TextFormat.PlainText)
        self.bar = QProgressBar()
        self.bar.setRange(0, 1000)
        self.bar.setTextVisible(False)
        self.bar.setFixedWidth(150)
        self.left = soft("")
        self.stop = QPushButton("Stop")
        self.stop.clicked.connect(self.deliveries.cancel)
        self.back = QPushButton("Back to the recipe")
        self.back.clicked.connect(lambda: self._choose(self.list.currentRow()))
        self.deliver = QPushButton("Deliver")
        self.deliver.setObjectName("main")
        self.deliver.clicked.connect(self._deliver)
        row.addWidget(self.where)
        row.addWidget(self.folder_label, 1)
        for widget in (self.left, self.bar, self.stop, self.back, self.deliver):
            row.addWidget(widget)
        return row

    # -- the recipes ---------------------------------------------------------------------------

    @property
    def _recipes(self) -> tuple[AnyRecipe, ...]:
        return self._document.project.recipes

    @property
    def recipe(self) -> AnyRecipe | None:
        """The one that is chosen."""
        row = self.list.currentRow()
        chosen = self.list.item(row).data(Qt.ItemDataRole.UserRole) if row >= 0 else None
        return next((each for each in self._recipes if each.id == chosen), None)

    def refresh(self) -> None:
        """Show the recipes as they are now."""
        chosen = self.recipe.id if self.recipe is not None else self._shown
        unticked = {
            item.data(Qt.ItemDataRole.UserRole)
            for item in self._items()
            if item.checkState() != Qt.CheckState.Checked
        }
        self.list.blockSignals(True)
        self.list.clear()
        for recipe in self._recipes:
            item = QListWidgetItem(f"{recipe.label}\n{recipe_text(self._document.project, recipe)}")
            item.setData(Qt.ItemDataRole.UserRole, recipe.id)
            item.setSizeHint(QSize(0, self._height_of(item.text())))
            item.setFlags(item.flags() | Qt.ItemFlag.ItemIsUserCheckable)
            ticked = recipe.id not in unticked
            item.setCheckState(Qt.CheckState.Checked if ticked else Qt.CheckState.Unchecked)
            self.list.addItem(item)
            if recipe.id == chosen:
                self.list.setCurrentItem(item)
        if self.list.currentRow() < 0 and self.list.count():
            self.list.setCurrentRow(0)
        self.list.blockSignals(False)
        if self.stack.currentWidget() is not self.outcome:
            self._choose(self.list.currentRow())
        self._say_what_is_left()

    def _height_of(self, text: str) -> int:
        """How high a recipe's lines are: the list's own reckoning leaves its margins out."""
        within, wrap = QRect(0, 0, WIDE, 1000), Qt.TextFlag.TextWordWrap
        return self.list.fontMetrics().boundingRect(within, wrap, text).height() + 8

    def _items(self) -> list[QListWidgetItem]:
        return [self.list.item(row) for row in range(self.list.count())]

    def _ticked(self) -> list[AnyRecipe]:
        ticked = {
            item.data(Qt.ItemDataRole.UserRole)
            for item in self._items()
            if item.checkState() == Qt.CheckState.Checked
        }
        return [recipe for recipe in self._recipes if recipe.id in ticked]

    def _choose(self, _: int) -> None:
        recipe = self.recipe
        self.remove.setEnabled(recipe is not None)
        if recipe is None:
            self.stack.setCurrentWidget(self.empty)
            self._say("")
            return
        self._shown = recipe.id
        self.form.show_recipe(recipe)
        self.stack.setCurrentIndex(1)
        self._look(recipe)
        self._say_what_is_left()

    def add_recipe(self, kind: type[AnyRecipe], *_: object) -> None:
        """Add a recipe of a kind, and show it."""
        project = self._document.project
        name = free_name(TITLES[kind], {recipe.label for recipe in project.recipes})
        recipe = kind(id=free_id("r", project), name=name, scope=Scope())
        self._shown = recipe.id
        self.list.setCurrentRow(-1)
        self._document.do(PutRecipe(recipe=recipe))
        self._choose(self.list.currentRow())

    def _remove(self) -> None:
        if self.recipe is not None:
            self._document.do(RemoveRecipe(recipe=self.recipe.id))

    def _change(self, recipe: AnyRecipe, named: str) -> None:
        if not self._document.do(PutRecipe(recipe=recipe, named=named)):
            # What was typed does not go: what there is comes back.
            self._choose(self.list.currentRow())

    # -- beforehand ----------------------------------------------------------------------------

    def _look(self, recipe: AnyRecipe) -> None:
        """Say what is wrong with it, or work out what it comes to."""
        self.instead.hide()
        rate, nearest, problem = _held_rate(recipe, self._document.project.rate)
        if problem:
            self._say(problem, wrong=True)
            self.instead.setText(f"{nearest:,} instead")
            self.instead.setVisible(nearest != rate)
            return
        wanted = (self._document.project, recipe)
        if self._foreseen_of != wanted:
            self._say("…")
            self._soon.start()

    def _weigh(self) -> None:
        if self.recipe is not None:
            show_beside(WeightDialog(self, self._document, self._work, self.recipe.id))

    def _take_nearest(self) -> None:
        recipe = self.recipe
        if recipe is None or isinstance(recipe, DataRecipe | SheetRecipe):
            return
        _, nearest, _ = _held_rate(recipe, self._document.project.rate)
        if isinstance(recipe, VideoRecipe):
            changed: AnyRecipe = replace(recipe, rate=nearest)
        else:
            changed = replace(recipe, encoding=replace(recipe.encoding, rate=nearest))
        self._change(changed, f"change the rate of {recipe.label}")

    def _foresee(self) -> None:
        recipe = self.recipe
        if recipe is None or self.deliveries.busy:
            return
        if self._foreseeing is not None:
            self._foreseeing.cancel()
        asked = (self._document.project, recipe)

        def known(found: Foreseen) -> None:
            self._foreseeing = None
            if not self._closed and asked == (self._document.project, self.recipe):
                self._foreseen_of = asked
                self._say("\n".join(foreseen_text(self._document.project, found)))

        def refused(why: str) -> None:
            self._foreseeing = None
            if not self._closed and asked == (self._document.project, self.recipe):
                self._say(why, wrong=True)

        self._foreseeing = self._work.with_sounds(foresee, recipe, done=known, failed=refused)

    def _say(self, text: str, *, wrong: bool = False) -> None:
        self.says.setText(text)
        self.says.setObjectName("wrong" if wrong else "soft")
        self.says.style().unpolish(self.says)
        self.says.style().polish(self.says)

    # -- delivering ----------------------------------------------------------------------------

    @property
    def folder(self) -> Path:
        """Where it is delivered to: as last time, or the project's folder."""
        known = Path(str(self._settings.value(FOLDER, "")))
        return known if known.is_absolute() and is_folder(known) else self._document.folder

    def _choose_folder(self) -> None:
        folder = self._asking.folder_to_open("Deliver to this folder")
        if folder is not None:
            self._settings.setValue(FOLDER, str(folder))
        self._say_what_is_left()

    def _deliver(self) -> None:
        self.deliveries.deliver(self._ticked(), self.folder)
        self._say_what_is_left()

    def _show_progress(self) -> None:
        self.bar.setValue(round(1000 * self.deliveries.share))
        left = self.deliveries.left
        told = self.deliveries.under_way
        self.left.setText(told if left is None else f"{told}, {left_text(left)}")
        self._say_what_is_left()

    def _delivered(self) -> None:
        done, failed = self.deliveries.done, self.deliveries.failed
        if done or failed:
            self.outcome.show_done(done, failed, self.folder)
            self.stack.setCurrentWidget(self.outcome)
            missed = sum(len(delivery.missed) for delivery in done)
            kept = "All promises are kept." if done and not missed else ""
            self._say(kept if not failed else "")
            self.instead.hide()
        self._say_what_is_left()

    def _show_listening(self) -> None:
        self.outcome.show_listening(self._listening.what)

    def _show_in_place(self) -> None:
        self.outcome.show_in_place(self._in_place.what)

    def _open_page(self, folder: Path) -> None:
        self._say(self._pages.open(folder))

    def _hear_in_mono(self) -> None:
        if self.recipe is not None:
            self._listening.stop()
            self._in_place.hear_in_mono(self.recipe)

    def _hear_in_place(self, path: Path, name: str) -> None:
        recipe = next((each for each in self._recipes if each.label == name), None)
        if recipe is not None and recipe.scope.run is None:
            self._listening.stop()
            self._in_place.toggle(path, recipe)

    def _say_what_is_left(self) -> None:
        """Show what can be done now."""
        busy, ticked = self.deliveries.busy, self._ticked()
        shows_outcome = self.stack.currentWidget() is self.outcome
        self.folder_label.setText(str(self.folder))
        self.folder_label.setToolTip(str(self.folder))
        for widget in (self.bar, self.left, self.stop):
            widget.setVisible(busy)
        self.back.setVisible(shows_outcome and not busy)
        self.deliver.setVisible(not busy)
        fetched = isinstance(self.recipe, ForPlayers)
        self.weigh.setVisible(fetched and not shows_outcome and not busy)
        self.deliver.setEnabled(bool(ticked))
        self.deliver.setText(f"Deliver {len(ticked)}" if len(ticked) > 1 else "Deliver")
        for widget in (self.where, self.add, self.remove):
            widget.setEnabled(not busy and (widget is not self.remove or self.recipe is not None))

    @override
    def closeEvent(self, event: QCloseEvent) -> None:
        if self.deliveries.busy:
            self._say("Still delivering: stop it first.", wrong=True)
            event.ignore()
            return
        self._in_place.stop()
        # What was asked for may be known only when nobody is there any more.
        self._closed = True
        if self._foreseeing is not None:
            self._foreseeing.cancel()
        super().closeEvent(event)


def _held_rate(recipe: AnyRecipe, own: int) -> tuple[int, int, str]:
    """The rate a recipe asks for, the nearest that it can have, and what is wrong with it."""
    if isinstance(recipe, DataRecipe | SheetRecipe):
        return own, own, ""
    if isinstance(recipe, VideoRecipe):
        rate = recipe.rate or own
        nearest = nearest_video_rate(recipe.kind, rate)
        return rate, nearest, "" if nearest == rate else (
            f"{recipe.kind.upper()} holds no {rate:,} samples a second; choose {nearest:,}."
        )  # fmt: skip
    rate = recipe.encoding.rate or own
    problem, remedy = encoding_problem(recipe.encoding, rate)
    nearest = nearest_rate(recipe.encoding.kind, rate)
    return rate, nearest, f"{problem}; {remedy}." if problem else ""
