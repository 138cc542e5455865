"""The list of the cabinet: what each row shows, and what it is dragged by."""

from collections.abc import Sequence
from typing import Any

import numpy as np
from PySide6.QtCore import (
    QAbstractListModel,
    QMimeData,
    QModelIndex,
    QPersistentModelIndex,
    QPointF,
    QRectF,
    QSize,
    Qt,
    QUrl,
    Signal,
)
from PySide6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPen, QPolygonF
from PySide6.QtWidgets import (
    QAbstractItemView,
    QListView,
    QStyle,
    QStyledItemDelegate,
    QStyleOptionViewItem,
)
from typing_extensions import override

from cicada.cabinet.catalogue import Row
from cicada.window.cabinet.cabinet import Cabinet
from cicada.window.drawing import theme
from cicada.window.playing.listening import Listening
from cicada.window.words.cabinet import detail_text, length_text

Index = QModelIndex | QPersistentModelIndex
ROW_ROLE = Qt.ItemDataRole.UserRole
HEIGHT, _MARK, _WAVE, _STAR = 40, 22, 64, 18
# Rows that the list is given at a time, as somebody scrolls.
PORTION = 300
_LEFT = Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter
_RIGHT = Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter


class CabinetModel(QAbstractListModel):
    """The rows that were found."""

    def __init__(self, cabinet: Cabinet) -> None:
        super().__init__()
        self._cabinet = cabinet
        self.rows: list[Row] = []
        # How many of them the list knows of: to lay out all takes longer than to find them.
        self._shown = 0

    def show_rows(self, rows: list[Row]) -> None:
        """Show these."""
        self.beginResetModel()
        self.rows, self._shown = rows, min(PORTION, len(rows))
        self.endResetModel()

    @override
    def rowCount(self, parent: Index | None = None) -> int:
        return self._shown

    @override
    def canFetchMore(self, parent: Index) -> bool:
        return self._shown < len(self.rows)

    @override
    def fetchMore(self, parent: Index) -> None:
        self.show_up_to(self._shown + PORTION)

    def show_up_to(self, count: int) -> None:
        """Let the list have so many of the rows, if there are as many."""
        count = min(count, len(self.rows))
        if count > self._shown:
            self.beginInsertRows(QModelIndex(), self._shown, count - 1)
            self._shown = count
            self.endInsertRows()

    @override
    def data(self, index: Index, role: int = Qt.ItemDataRole.DisplayRole) -> Any:
        if not index.isValid() or index.row() >= len(self.rows):
            return None
        row = self.rows[index.row()]
        if role == ROW_ROLE:
            return row
        if role in (Qt.ItemDataRole.DisplayRole, Qt.ItemDataRole.AccessibleTextRole):
            return row.name
        if role == Qt.ItemDataRole.ToolTipRole:
            note = f"\n{row.own.note}" if row.own is not None and row.own.note else ""
            return f"{self._cabinet.catalogue.path(row) or row.file.place}{note}"
        return None

    @override
    def flags(self, index: Index) -> Qt.ItemFlag:
        flags = super().flags(index)
        return flags | Qt.ItemFlag.ItemIsDragEnabled if index.isValid() else flags

    @override
    def mimeTypes(self) -> list[str]:
        return ["text/uri-list"]

    @override
    def mimeData(self, indexes: Sequence[QModelIndex]) -> QMimeData:
        data = QMimeData()
        paths = [self._cabinet.catalogue.path(self.rows[index.row()]) for index in indexes]
        data.setUrls([QUrl.fromLocalFile(str(path)) for path in paths if path is not None])
        return data


class RowPainter(QStyledItemDelegate):
    """Draws one sound: a mark to listen, its waveform, its name, what is known, its star."""

    def __init__(self, cabinet: Cabinet, listening: Listening) -> None:
        super().__init__()
        self._cabinet, self._listening = cabinet, listening

    @override
    def sizeHint(self, option: QStyleOptionViewItem, index: Index) -> QSize:
        return QSize(200, HEIGHT)

    @override
    def paint(self, painter: QPainter, option: QStyleOptionViewItem, index: Index) -> None:
        row: Row | None = index.data(ROW_ROLE)
        if row is None:
            return
        box = QRectF(option.rect)
        painter.save()
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        if option.state & QStyle.StateFlag.State_Selected:
            painter.setBrush(theme.wash(theme.MOSS, 40))
            painter.setPen(theme.NO_PEN)
            painter.drawRoundedRect(box.adjusted(1, 1, -1, -2), 5, 5)
        painter.setPen(QPen(theme.RULE, 1))
        painter.drawLine(box.bottomLeft(), box.bottomRight())
        path = self._cabinet.catalogue.path(row)
        self._mark(painter, box, listened=path is not None and self._listening.what == path)
        self._wave(painter, row, box)
        left = box.left() + _MARK + _WAVE + 10
        width = box.right() - left - _STAR - 6
        away = self._cabinet.catalogue.away(row)
        painter.setFont(theme.font(12))
        painter.setPen(theme.INK_SOFT if away else theme.INK)
        length = length_text(row)
        room = painter.fontMetrics().horizontalAdvance(length) + 8 if length else 0
        painter.drawText(QRectF(left, box.top() + 2, width, 19), _RIGHT, length)
        painter.setFont(theme.font(13, 500))
        self._words(painter, QRectF(left, box.top() + 2, width - room, 19), row.name)
        painter.setFont(theme.font(11))
        painter.setPen(theme.OCHRE if away else theme.INK_SOFT)
        self._words(painter, QRectF(left, box.top() + 20, width, 17), detail_text(row, away=away))
        self._star(painter, box, on=row.star)
        painter.restore()

    @staticmethod
    def _words(painter: QPainter, place: QRectF, text: str) -> None:
        shown = painter.fontMetrics().elidedText(
            text, Qt.TextElideMode.ElideRight, int(place.width())
        )
        painter.drawText(place, _LEFT, shown)

    @staticmethod
    def _mark(painter: QPainter, box: QRectF, *, listened: bool) -> None:
        x, y = box.left() + _MARK / 2 + 2, box.center().y()
        painter.setPen(QPen(theme.MOSS, 1.3))
        painter.setBrush(theme.MOSS if listened else Qt.BrushStyle.NoBrush)
        if listened:
            painter.drawRect(QRectF(x - 4.5, y - 4.5, 9, 9))
        else:
            painter.drawPolygon(
                QPolygonF([QPointF(x - 4, y - 5.5), QPointF(x + 5, y), QPointF(x - 4, y + 5.5)])
            )

    @staticmethod
    def _wave(painter: QPainter, row: Row, box: QRectF) -> None:
        place = QRectF(box.left() + _MARK + 4, box.top() + 6, _WAVE, HEIGHT - 13)
        picture = b"" if row.content is None else row.content.picture or b""
        if len(picture) < 2 or len(picture) % 2:
            painter.setPen(QPen(theme.RULE_STRONG, 1, Qt.PenStyle.DotLine))
            painter.drawLine(QPointF(place.left(), place.center().y()),
                             QPointF(place.right(), place.center().y()))  # fmt: skip
            return
        ends = np.frombuffer(picture, np.int8).reshape(-1, 2).astype(float) / 127
        step, middle = place.width() / len(ends), place.center().y()
        shape = np.sign(ends) * np.abs(ends) ** 0.6 * place.height() / 2
        painter.setPen(theme.NO_PEN)
        painter.setBrush(theme.MOSS)
        for at, (low, high) in enumerate(shape):
            painter.drawRect(QRectF(place.left() + at * step, middle - high, step,
                                    max(1.0, high - low)))  # fmt: skip

    @staticmethod
    def _star(painter: QPainter, box: QRectF, *, on: bool) -> None:
        middle = QPointF(box.right() - _STAR / 2 - 3, box.center().y())
        angles = np.arange(10) * np.pi / 5 - np.pi / 2
        radii = np.where(np.arange(10) % 2, 2.9, 6.6)
        painter.setPen(QPen(theme.OCHRE if on else theme.RULE_STRONG, 1))
        painter.setBrush(theme.OCHRE if on else Qt.BrushStyle.NoBrush)
        painter.drawPolygon(
            QPolygonF([
                QPointF(middle.x() + r * np.cos(a), middle.y() + r * np.sin(a))
                for a, r in zip(angles, radii, strict=True)
            ])
        )  # fmt: skip


class CabinetList(QListView):
    """The list; the marks in its rows choose nothing.

    ``listen_wanted`` and ``star_wanted`` come with the row whose mark was pressed, ``place_wanted``
    for the row that is chosen.
    """

    listen_wanted = Signal(object)
    star_wanted = Signal(object)
    place_wanted = Signal()
    chosen_changed = Signal()

    def __init__(self, model: CabinetModel, painter: RowPainter) -> None:
        super().__init__()
        self.setAccessibleName("Cabinet")
        self.setModel(model)
        self.setItemDelegate(painter)
        self.setUniformItemSizes(True)
        self.setSelectionMode(QAbstractItemView.SelectionMode.ExtendedSelection)
        self.setEditTriggers(QAbstractItemView.EditTrigger.NoEditTriggers)
        self.setDragEnabled(True)
        self.setDragDropMode(QAbstractItemView.DragDropMode.DragOnly)
        self.setVerticalScrollMode(QAbstractItemView.ScrollMode.ScrollPerPixel)
        self.selectionModel().selectionChanged.connect(lambda *_: self.chosen_changed.emit())
        model.modelReset.connect(self.chosen_changed)

    @override
    def selectAll(self) -> None:
        model = self.model()
        assert isinstance(model, CabinetModel)
        model.show_up_to(len(model.rows))
        super().selectAll()

    def chosen(self) -> list[Row]:
        """The rows that are chosen, in their order."""
        indexes = sorted(self.selectedIndexes(), key=lambda index: index.row())
        rows = [index.data(ROW_ROLE) for index in indexes]
        return [row for row in rows if row is not None]

    def choose(self, number: int) -> None:
        """Choose a row."""
        model = self.model()
        if 0 <= number < model.rowCount():
            self.setCurrentIndex(model.index(number, 0))

    def _at(self, event: QMouseEvent) -> tuple[Row | None, float, float]:
        index = self.indexAt(event.position().toPoint())
        row = index.data(ROW_ROLE) if index.isValid() else None
        box = self.visualRect(index)
        return row, event.position().x() - box.left(), box.right() - event.position().x()

    @override
    def mousePressEvent(self, event: QMouseEvent) -> None:
        row, left, right = self._at(event)
        if row is not None and event.button() == Qt.MouseButton.LeftButton and left < _MARK:
            self.listen_wanted.emit(row)
        elif row is not None and event.button() == Qt.MouseButton.LeftButton and right < _STAR:
            self.star_wanted.emit(row)
        else:
            super().mousePressEvent(event)

    @override
    def keyPressEvent(self, event: QKeyEvent) -> None:
        enter = event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter)
        rows = self.chosen()
        if enter and rows:
            if event.modifiers() & Qt.KeyboardModifier.ShiftModifier:
                self.place_wanted.emit()
            else:
                self.listen_wanted.emit(rows[0])
        else:
            super().keyPressEvent(event)
