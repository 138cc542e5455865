"""The parts of a blend, pool or playlist in rows: typed into, dragged about, added to by drops."""

from collections.abc import Sequence

from PySide6.QtCore import QModelIndex, QPersistentModelIndex, Qt, Signal
from PySide6.QtGui import QDragEnterEvent, QDragMoveEvent, QDropEvent, QKeyEvent
from PySide6.QtWidgets import (
    QAbstractItemView,
    QComboBox,
    QHeaderView,
    QStyledItemDelegate,
    QStyleOptionViewItem,
    QTableWidget,
    QTableWidgetItem,
    QWidget,
)
from typing_extensions import override

from cicada.window.widgets.drag import dragged_sound

ALWAYS = "always"
ROW_HEIGHT = 28
RIGHT = Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter


class _Choosing(QStyledItemDelegate):
    """Offers some texts for a cell instead of a field."""

    def __init__(self, parent: QWidget) -> None:
        super().__init__(parent)
        self.texts: list[str] = []

    @override
    def createEditor(
        self,
        parent: QWidget,
        option: QStyleOptionViewItem,
        index: QModelIndex | QPersistentModelIndex,
    ) -> QWidget:
        box = QComboBox(parent)
        box.addItems(self.texts)
        box.setCurrentText(str(index.data()))
        return box


class PartsTable(QTableWidget):
    """Rows of texts; what is typed comes as ``typed`` with row, column and text.

    ``moved`` comes with a row and where it goes, ``dropped`` with a sound and the row it goes
    before, ``taken_out`` with a row.
    """

    typed = Signal(int, int, str)
    moved = Signal(int, int)
    dropped = Signal(str, int)
    taken_out = Signal(int)

    def __init__(self) -> None:
        super().__init__()
        self._filling = False
        self.setAccessibleName("parts")
        self.verticalHeader().setDefaultSectionSize(ROW_HEIGHT)
        self.verticalHeader().hide()
        self.setSelectionBehavior(QAbstractItemView.SelectionBehavior.SelectRows)
        self.setSelectionMode(QAbstractItemView.SelectionMode.SingleSelection)
        self.setDragEnabled(True)
        self.setAcceptDrops(True)
        self.setDropIndicatorShown(True)
        self.setDragDropMode(QAbstractItemView.DragDropMode.DragDrop)
        self.setShowGrid(False)
        self._choosing, self._plain = _Choosing(self), QStyledItemDelegate(self)
        self.itemChanged.connect(self._changed)

    def show_parts(
        self, heads: Sequence[str], rows: Sequence[Sequence[str]], choices: dict[int, list[str]]
    ) -> None:
        """Show rows under their heads; the first column is not typed into.

        ``choices`` are the texts that are offered in a column.
        """
        self._filling = True
        row = self.currentRow()
        self.setColumnCount(len(heads))
        self.setHorizontalHeaderLabels(list(heads))
        self.setRowCount(len(rows))
        for number in range(len(heads)):
            delegate = self._choosing if number in choices else self._plain
            self.setItemDelegateForColumn(number, delegate)
        for offered in choices.values():
            self._choosing.texts = offered
        for number, texts in enumerate(rows):
            for column, text in enumerate(texts):
                item = QTableWidgetItem(text)
                if not column:
                    item.setFlags(item.flags() & ~Qt.ItemFlag.ItemIsEditable)
                else:
                    item.setTextAlignment(RIGHT)
                self.setItem(number, column, item)
        header = self.horizontalHeader()
        header.setDefaultAlignment(RIGHT)
        head = self.horizontalHeaderItem(0)
        if head is not None:
            head.setTextAlignment(Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter)
        header.setSectionResizeMode(QHeaderView.ResizeMode.Fixed)
        header.setSectionResizeMode(0, QHeaderView.ResizeMode.Stretch)
        for number in range(1, len(heads)):
            self.setColumnWidth(number, 140 if number in choices else 110)
        self.setFixedHeight(min(8, max(2, len(rows))) * ROW_HEIGHT + header.sizeHint().height() + 6)
        if 0 <= row < len(rows):
            self.setCurrentCell(row, 0)
        self._filling = False

    def _changed(self, item: QTableWidgetItem) -> None:
        if not self._filling:
            self.typed.emit(item.row(), item.column(), item.text())

    @override
    def keyPressEvent(self, event: QKeyEvent) -> None:
        row = self.currentRow()
        by = {Qt.Key.Key_Up: -1, Qt.Key.Key_Down: 1}.get(Qt.Key(event.key()))
        if row >= 0 and by and event.modifiers() & Qt.KeyboardModifier.AltModifier:
            self.moved.emit(row, row + by)
        elif row >= 0 and event.key() == Qt.Key.Key_Delete:
            self.taken_out.emit(row)
        else:
            super().keyPressEvent(event)

    # -- dragging ------------------------------------------------------------------------------

    @override
    def dragEnterEvent(self, event: QDragEnterEvent) -> None:
        self._let_in(event)

    @override
    def dragMoveEvent(self, event: QDragMoveEvent) -> None:
        super().dragMoveEvent(event)
        self._let_in(event)

    def _let_in(self, event: QDragMoveEvent) -> None:
        if event.source() is self or dragged_sound(event.mimeData()) is not None:
            event.acceptProposedAction()
        else:
            event.ignore()

    @override
    def dropEvent(self, event: QDropEvent) -> None:
        index = self.indexAt(event.position().toPoint())
        row = index.row() if index.isValid() else self.rowCount()
        if index.isValid() and event.position().y() > self.visualRect(index).center().y():
            row += 1
        sound = dragged_sound(event.mimeData())
        if event.source() is self:
            now = self.currentRow()
            # What is taken out from above moves the rows below it up.
            self.moved.emit(now, row - 1 if row > now else row)
        elif sound is not None:
            self.dropped.emit(sound, row)
        event.setDropAction(Qt.DropAction.CopyAction)
        event.accept()
