"""The lower half: picture, clip card, and beside it the shelf or something in its place."""

from functools import partial

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QPushButton, QSplitter, QStackedWidget, QVBoxLayout, QWidget


class LowerHalf(QWidget):
    """Three parts under the rail; each can be given the whole of it."""

    def __init__(
        self,
        rail: QWidget,
        picture: QWidget,
        card: QWidget,
        shelf: QWidget,
        sounding: QWidget,
        meters: QWidget,
        pads: QWidget,
        record: QWidget,
        cabinet: QWidget,
    ) -> None:
        super().__init__()
        self.picture, self.card, self.shelf = picture, card, shelf
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        column.addWidget(rail)
        self.parts = QSplitter(Qt.Orientation.Horizontal)
        self.parts.setHandleWidth(10)
        self.parts.setContentsMargins(14, 4, 14, 0)
        self.side = QStackedWidget()
        self.side.addWidget(shelf)
        self.side.addWidget(sounding)
        self.side.addWidget(meters)
        self.side.addWidget(pads)
        self.side.addWidget(record)
        self.side.addWidget(cabinet)
        for part in (picture, card, self.side):
            self.parts.addWidget(part)
        self.parts.setSizes([404, 440, 390])
        # The margins of a splitter are not in what it asks for.
        self.parts.setMinimumHeight(card.minimumHeight() + 4)
        picture.setMinimumWidth(160)
        column.addWidget(self.parts, 1)
        self._beside = {
            "Shelf": shelf, "Cabinet": cabinet, "Sounding": sounding, "Meters": meters,
            "Pads": pads, "Record": record,
        }  # fmt: skip
        tips = (
            "The sounds of the project",
            "The sounds of this machine, in all projects (Shift+Q)",
            "What sounds at the playhead (Ctrl+4)",
            "Loudness and peaks of what is heard (Ctrl+9)",
            "What the audience presses, and the values that answer (Ctrl+0)",
            "A voice or a sound, recorded against the picture (Shift+I)",
        )
        self.buttons: list[QPushButton] = []
        for (words, part), tip in zip(self._beside.items(), tips, strict=True):
            button = QPushButton(words)
            button.setObjectName("pair")
            button.setCheckable(True)
            button.setToolTip(f"{tip}, beside the card")
            button.clicked.connect(partial(self._put_beside, part))
            self.buttons.append(button)
        self._put_beside(shelf)

    def show_beside(self, part: QWidget) -> None:
        """Show a part beside the card, or the shelf again if it is there already."""
        if self.side.indexOf(part) < 0:
            self.side.addWidget(part)
        self._put_beside(self.shelf if self.side.currentWidget() is part else part)

    def _put_beside(self, part: QWidget, *_: object) -> None:
        self.side.setCurrentWidget(part)
        for button, shown in zip(self.buttons, self._beside.values(), strict=True):
            button.setChecked(part is shown)

    @property
    def _three(self) -> tuple[QWidget, QWidget, QWidget]:
        return self.picture, self.card, self.side

    @property
    def widened(self) -> bool:
        """Whether one part has the room of others."""
        return any(part.isHidden() for part in self._three)

    def widen(self, part: QWidget | None) -> None:
        """Give one part the whole lower half, or all three their share again."""
        if part is self.shelf:
            self._put_beside(self.shelf)
            part = self.side
        alone = part is not None and all(x is part or x.isHidden() for x in self._three)
        for other in self._three:
            other.setVisible(part is None or alone or other is part)

    def show_side(self) -> None:
        """See that what is beside the card is in sight."""
        if self.side.isHidden():
            self.widen(None)

    def open_details(self) -> None:
        """Give the shelf the whole lower half, if it has not got it."""
        if not self.picture.isHidden() or not self.card.isHidden() or self.side.isHidden():
            self.widen(self.shelf)

    def show_details(self) -> None:
        """Give the shelf the whole lower half, where its details have room, or no more."""
        alone = self.picture.isHidden() and self.card.isHidden()
        self.widen(None if alone and not self.side.isHidden() else self.shelf)
