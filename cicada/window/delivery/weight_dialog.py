"""What a player must fetch for a recipe, when each sound is there, and what would save."""

from functools import partial

from PySide6.QtCore import Qt
from PySide6.QtGui import QColor
from PySide6.QtWidgets import (
    QComboBox,
    QDialog,
    QHBoxLayout,
    QLabel,
    QPushButton,
    QTreeWidget,
    QTreeWidgetItem,
    QVBoxLayout,
    QWidget,
)

from cicada.core.recipe_edits import PutRecipe
from cicada.deliver.weight import LINES, ForPlayers, Saving, Weight
from cicada.disk.why import size_text
from cicada.jobs.weighing import weigh_recipe
from cicada.window.drawing import theme
from cicada.window.state.document import Document
from cicada.window.state.jobs import Job
from cicada.window.state.work import Work
from cicada.window.widgets.rows import soft
from cicada.window.words.delivery import line_text, needed_text, weight_text
from cicada.window.words.numbers import fixed

HEADS = ("Sound", "Size", "Needed first", "There after", "")


class WeightDialog(QDialog):
    """The weight of one recipe, kept up with it; each saving is one click in the recipe."""

    def __init__(self, parent: QWidget, document: Document, work: Work, recipe: str) -> None:
        super().__init__(parent)
        self._document, self._work, self._id = document, work, recipe
        self._job: Job | None = None
        self._closed = False
        self.weight: Weight | None = None
        self.setWindowTitle("What it weighs")
        self.resize(680, 520)
        column = QVBoxLayout(self)
        column.setContentsMargins(20, 16, 20, 16)
        column.setSpacing(10)
        row = QHBoxLayout()
        row.addWidget(soft("Fetched over"))
        self.line = QComboBox()
        self.line.setAccessibleName("Line")
        for line in LINES:
            self.line.addItem(line_text(line), line)
        self.line.setCurrentIndex(1)
        self.line.activated.connect(self.refresh)
        row.addWidget(self.line)
        row.addStretch(1)
        column.addLayout(row)
        self.says = QLabel("…")
        self.says.setWordWrap(True)
        column.addWidget(self.says)
        self.list = QTreeWidget()
        self.list.setAccessibleName("What is fetched, in order")
        self.list.setRootIsDecorated(False)
        self.list.setHeaderLabels(HEADS)
        self.list.setSelectionMode(QTreeWidget.SelectionMode.NoSelection)
        column.addWidget(self.list, 1)
        self.savings = QVBoxLayout()
        column.addWidget(soft("What would save (in this recipe only)"))
        column.addLayout(self.savings)
        self.buttons: list[QPushButton] = []
        document.changed.connect(self.refresh)
        document.became.connect(self.close)
        self.finished.connect(self._end)
        self.refresh()

    @property
    def recipe(self) -> ForPlayers | None:
        """The recipe as it is now; None if it is gone."""
        recipes = self._document.project.recipes
        found = next((each for each in recipes if each.id == self._id), None)
        return found if isinstance(found, ForPlayers) else None

    def refresh(self, *_: object) -> None:
        """Weigh it as it is now."""
        recipe = self.recipe
        if recipe is None:
            self.close()
            return
        if self._job is not None:
            self._job.cancel()
        asked = (self._document.project, self.line.currentData())

        def known(weight: Weight) -> None:
            self._job = None
            if not self._closed and asked == (self._document.project, self.line.currentData()):
                self._show(weight)

        def refused(why: str) -> None:
            self._job = None
            if not self._closed and asked == (self._document.project, self.line.currentData()):
                self.says.setText(why)

        self._job = self._work.with_sounds(
            weigh_recipe, self._document.file, recipe, self.line.currentData(),
            done=known, failed=refused,
        )  # fmt: skip

    def _show(self, weight: Weight) -> None:
        self.weight = weight
        self.says.setText("\n".join(weight_text(weight)))
        self.list.clear()
        for file in weight.files:
            late = f"{fixed(file.late, 1)} s late" if file.late else ""
            row = QTreeWidgetItem([
                file.name.rpartition("/")[2], size_text(file.size),
                needed_text(self._document.project, file), f"{fixed(file.there, 1)} s", late,
            ])  # fmt: skip
            row.setTextAlignment(1, Qt.AlignmentFlag.AlignRight)
            row.setTextAlignment(3, Qt.AlignmentFlag.AlignRight)
            row.setForeground(4, QColor(theme.BRICK))
            self.list.addTopLevelItem(row)
        for column in range(len(HEADS)):
            self.list.resizeColumnToContents(column)
        self._show_savings(weight)

    def _show_savings(self, weight: Weight) -> None:
        for button in self.buttons:
            self.savings.removeWidget(button)
            button.deleteLater()
        self.buttons = []
        for saving in weight.savings:
            button = QPushButton(f"{saving.what}: {size_text(saving.saves)} less")
            button.setAutoDefault(False)
            button.clicked.connect(partial(self._take, saving))
            self.savings.addWidget(button, alignment=Qt.AlignmentFlag.AlignLeft)
            self.buttons.append(button)

    def _take(self, saving: Saving, *_: object) -> None:
        recipe = self.recipe
        if recipe is not None:
            self._document.do(
                PutRecipe(recipe=saving.recipe, named=f"change {recipe.label}: {saving.what}")
            )

    def _end(self) -> None:
        self._closed = True
        if self._job is not None:
            self._job.cancel()
