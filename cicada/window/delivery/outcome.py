"""What became of a delivery: each file as it was measured, and the promises it missed."""

from html import escape
from pathlib import Path

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import QGridLayout, QLabel, QPushButton, QSizePolicy, QVBoxLayout, QWidget

from cicada.deliver.bundle import PAGE_KIND
from cicada.deliver.delivery import Delivery
from cicada.window.widgets.rows import scrolled, soft
from cicada.window.words.delivery import file_text

# Files listed at most: of more it is said how many there are.
SHOWN = 200


class Outcome(QWidget):
    """``listen`` comes with a sound file that is to be heard, or is not to be any more."""

    listen = Signal(object)
    # A sound file is to be heard against the picture; by the recipe of that name.
    in_place = Signal(object, str)
    # A page is to be opened in the browser.
    opened = Signal(object)

    def __init__(self) -> None:
        super().__init__()
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        self.area = scrolled(QWidget())
        column.addWidget(self.area)
        self.buttons: dict[Path, QPushButton] = {}
        self.with_picture: dict[Path, QPushButton] = {}
        self.pages: dict[Path, QPushButton] = {}

    def show_done(self, done: list[Delivery], failed: list[tuple[str, str]], folder: Path) -> None:
        """Show what was delivered below a folder, and what was not."""
        inside = QWidget()
        grid = QGridLayout(inside)
        grid.setContentsMargins(0, 0, 8, 0)
        grid.setHorizontalSpacing(12)
        grid.setVerticalSpacing(3)
        grid.setColumnStretch(1, 1)
        self.buttons, self.with_picture, self.pages = {}, {}, {}
        for recipe, why in failed:
            self._row(grid, _words(f"{recipe}: {why}" if recipe else why, wrong=True))
        for delivery in done:
            title = QLabel(f"<b>{escape(delivery.recipe)}</b>")
            title.setTextFormat(Qt.TextFormat.RichText)
            title.setContentsMargins(0, 8, 0, 0)
            single = len(delivery.files) == 1 and bool(delivery.files[0].frames)
            if single:
                top = grid.rowCount()
                grid.addWidget(title, top, 0, 1, 2)
                shown = self._picture_button(folder / delivery.files[0].name, delivery.recipe)
                grid.addWidget(shown, top, 2, Qt.AlignmentFlag.AlignRight)
            elif delivery.files and delivery.files[0].kind == PAGE_KIND:
                top = grid.rowCount()
                grid.addWidget(title, top, 0, 1, 2)
                page = self._page_button(folder / delivery.files[0].name)
                grid.addWidget(page, top, 2, Qt.AlignmentFlag.AlignRight)
            else:
                self._row(grid, title)
            for file in delivery.files[:SHOWN]:
                row = grid.rowCount()
                if file.frames:
                    grid.addWidget(self._listen_button(folder / file.name), row, 0)
                name = QLabel(file.name if single else file.name.rpartition("/")[2])
                name.setTextFormat(Qt.TextFormat.PlainText)
                name.setTextInteractionFlags(Qt.TextInteractionFlag.TextSelectableByMouse)
                name.setToolTip(file.name)
                # However long it is, what was measured stays in sight.
                name.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Preferred)
                grid.addWidget(name, row, 1)
                grid.addWidget(soft(file_text(file)), row, 2)
                for missed in file.missed:
                    self._row(grid, _words(f"Missed: {missed.said}.", wrong=True))
            more = len(delivery.files) - SHOWN
            if more > 0:
                self._row(grid, soft(f"and {more:,} more"))
            for said in delivery.said:
                self._row(grid, _words(said, wrong=False))
        grid.setRowStretch(grid.rowCount(), 1)
        self.area.setWidget(inside)

    def _row(self, grid: QGridLayout, label: QLabel) -> None:
        grid.addWidget(label, grid.rowCount(), 0, 1, 3)

    def _listen_button(self, path: Path) -> QPushButton:
        button = QPushButton("Listen")
        button.setAccessibleName(f"Listen to {path.name}")
        button.setAutoDefault(False)
        button.clicked.connect(lambda: self.listen.emit(path))
        self.buttons[path] = button
        return button

    def _picture_button(self, path: Path, recipe: str) -> QPushButton:
        button = QPushButton("With the picture")
        button.setToolTip("Hear it where it begins, in place of the film's own sound")
        button.setAutoDefault(False)
        button.clicked.connect(lambda: self.in_place.emit(path, recipe))
        self.with_picture[path] = button
        return button

    def _page_button(self, path: Path) -> QPushButton:
        button = QPushButton("Open in the browser")
        button.setToolTip("Served to browsers on this machine while this window is open")
        button.setAutoDefault(False)
        button.clicked.connect(lambda: self.opened.emit(path.parent))
        self.pages[path.parent] = button
        return button

    def show_in_place(self, what: object) -> None:
        """Show which file is heard against the picture."""
        for path, button in self.with_picture.items():
            button.setText("Silence" if path == what else "With the picture")

    def show_listening(self, what: object) -> None:
        """Show which file is heard."""
        for path, button in self.buttons.items():
            button.setText("Silence" if path == what else "Listen")


def _words(text: str, *, wrong: bool) -> QLabel:
    label = QLabel(text)
    label.setTextFormat(Qt.TextFormat.PlainText)
    label.setObjectName("wrong" if wrong else "soft")
    label.setWordWrap(True)
    return label
