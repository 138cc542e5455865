"""The list of sounds on the shelf: what each row shows, is dragged by, and is renamed in."""

from collections.abc import Sequence
from operator import is_not
from typing import Any

from PySide6.QtCore import (
    QAbstractListModel,
    QItemSelection,
    QItemSelectionModel,
    QMimeData,
    QModelIndex,
    QPersistentModelIndex,
    QPoint,
    QPointF,
    QRectF,
    QSize,
    Qt,
    Signal,
)
from PySide6.QtGui import (
    QDrag,
    QDragEnterEvent,
    QDragMoveEvent,
    QDropEvent,
    QMouseEvent,
    QPainter,
    QPen,
    QPolygonF,
    QResizeEvent,
)
from PySide6.QtWidgets import (
    QAbstractItemView,
    QLabel,
    QLineEdit,
    QListView,
    QStyle,
    QStyledItemDelegate,
    QStyleOptionViewItem,
    QWidget,
)
from typing_extensions import override

from cicada.core.answers import Blend, Pool
from cicada.core.lengths import Lengths
from cicada.core.model import Placeable, Project, Sound
from cicada.core.naming import likeness
from cicada.core.needs import parts_of
from cicada.core.shelf_edits import ChangeSounds
from cicada.window.drawing import theme
from cicada.window.drawing.sound_pictures import SoundPictures
from cicada.window.playing.listening import Listening
from cicada.window.shelf.shelf_search import Known, ShelfSearch, Wish
from cicada.window.state.session import Session
from cicada.window.widgets.drag import SOUND, let_files_in, sound_mime, take_files
from cicada.window.words.answers import made_text
from cicada.window.words.quantities import count

Index = QModelIndex | QPersistentModelIndex
SOUND_ROLE = Qt.ItemDataRole.UserRole
LEFT = Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter
RIGHT = Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter
ROW_HEIGHT = 44
LISTEN_WIDTH = 24
WAVE = QRectF(LISTEN_WIDTH + 2, 7, 76, 30)
TEXT_LEFT = LISTEN_WIDTH + 88
# So many parts of a pool or blend are drawn.
MOST_PARTS = 6


def facts(sound: Placeable, project: Project) -> str:
    """Encoding, rate and channels; of what is made of sounds, what it is."""
    if not isinstance(sound, Sound):
        return made_text(sound, project)
    channels = {1: "mono", 2: "stereo"}.get(sound.channels, f"{sound.channels} channels")
    return f"{sound.encoding or 'unknown'}, {sound.rate / 1000:g} kHz, {channels}"


class ShelfModel(QAbstractListModel):
    """The sounds that are asked for, in the order asked for."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self._search = ShelfSearch()
        self.wish = Wish()
        self.known = Known()
        self.sounds: list[Placeable] = []
        self._all: tuple[tuple[object, ...], tuple[Placeable, ...]] = ((), ())
        self.refresh()

    @property
    def project(self) -> Project:
        """The project whose shelf it is."""
        return self._session.document.project

    def all(self) -> tuple[Placeable, ...]:
        """All that stands on the shelf; the same object as long as that is the same."""
        project = self.project
        groups = project.sounds, project.blends, project.pools, project.playlists
        if len(self._all[0]) != len(groups) or any(map(is_not, self._all[0], groups)):
            self._all = groups, tuple(project.all_placeables())
            self.lengths = Lengths(project)
        return self._all[1]

    def refresh(self) -> bool:
        """Find the sounds anew; whether the rows have changed."""
        found = self._search.find(self.all(), self.wish, self.known)
        if len(found) == len(self.sounds) and all(
            new is old for new, old in zip(found, self.sounds, strict=True)
        ):
            return False
        self.beginResetModel()
        self.sounds = found
        self.endResetModel()
        return True

    @override
    def rowCount(self, parent: Index | None = None) -> int:
        return len(self.sounds)

    @override
    def data(self, index: Index, role: int = Qt.ItemDataRole.DisplayRole) -> Any:
        if not index.isValid():
            return None
        sound = self.sounds[index.row()]
        if role == SOUND_ROLE:
            return sound
        if role in (
            Qt.ItemDataRole.DisplayRole,
            Qt.ItemDataRole.EditRole,
            Qt.ItemDataRole.AccessibleTextRole,
        ):
            return sound.label
        if role == Qt.ItemDataRole.ToolTipRole:
            note = f"\n{sound.note}" if sound.note else ""
            return f"{sound.label}: {facts(sound, self.project)}{note}"
        return None

    @override
    def setData(self, index: Index, value: Any, role: int = Qt.ItemDataRole.EditRole) -> bool:
        name, sound = str(value).strip(), self.sounds[index.row()]
        if not name or name == sound.name:
            return False
        return self._session.document.do(ChangeSounds(sounds=(sound.id,), changes={"name": name}))

    @override
    def flags(self, index: Index) -> Qt.ItemFlag:
        flags = super().flags(index)
        if index.isValid():
            flags |= Qt.ItemFlag.ItemIsDragEnabled | Qt.ItemFlag.ItemIsEditable
        return flags

    @override
    def mimeTypes(self) -> list[str]:
        return [SOUND]

    @override
    def mimeData(self, indexes: Sequence[QModelIndex]) -> QMimeData:
        return sound_mime(self.sounds[indexes[0].row()].id)


class RowPainter(QStyledItemDelegate):
    """Draws one sound: a mark to listen, its waveform, name and length."""

    def __init__(
        self, session: Session, pictures: SoundPictures, model: ShelfModel, listening: Listening
    ) -> None:
        super().__init__()
        self._session, self._pictures, self._model = session, pictures, model
        self._listening = listening

    @override
    def sizeHint(self, option: QStyleOptionViewItem, index: Index) -> QSize:
        return QSize(200, ROW_HEIGHT)

    @override
    def updateEditorGeometry(
        self, editor: QWidget, option: QStyleOptionViewItem, index: Index
    ) -> None:
        box = option.rect
        editor.setGeometry(box.left() + TEXT_LEFT - 6, box.top() + 2, box.width() - 190, 26)

    @override
    def createEditor(self, parent: QWidget, option: QStyleOptionViewItem, index: Index) -> QWidget:
        return QLineEdit(parent)

    @override
    def paint(self, painter: QPainter, option: QStyleOptionViewItem, index: Index) -> None:
        sound: Placeable = index.data(SOUND_ROLE)
        box = QRectF(option.rect)
        painter.save()
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        if option.state & QStyle.StateFlag.State_Selected:
            painter.setBrush(theme.wash(theme.MOSS, 40))
            painter.setPen(theme.NO_PEN)
            painter.drawRoundedRect(box.adjusted(1, 1, -1, -2), 5, 5)
        if option.state & QStyle.StateFlag.State_HasFocus:
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.setPen(QPen(theme.MOSS, 1.5))
            painter.drawRoundedRect(box.adjusted(1, 1, -1, -2), 5, 5)
        painter.setPen(QPen(theme.RULE, 1))
        painter.drawLine(box.bottomLeft(), box.bottomRight())
        self._mark(painter, sound, box)
        self._wave(painter, sound, box)
        left, width = box.left() + TEXT_LEFT, box.width() - TEXT_LEFT - 6
        length = self._length(sound)
        painter.setFont(theme.font(12))
        room = painter.fontMetrics().horizontalAdvance(length) + 10
        painter.setPen(theme.INK)
        painter.drawText(QRectF(left, box.top() + 3, width, 20), RIGHT, length)
        painter.setFont(theme.font(13, 500))
        painter.setPen(theme.BRICK if sound.id in self._model.known.missing else theme.INK)
        name = painter.fontMetrics().elidedText(
            sound.label, Qt.TextElideMode.ElideRight, int(width - room)
        )
        painter.drawText(QRectF(left, box.top() + 3, width - room, 20), LEFT, name)
        painter.setPen(theme.INK_SOFT)
        painter.setFont(theme.font(11))
        uses = count(self._model.known.uses.get(sound.id, 0), "use")
        painter.drawText(QRectF(left, box.top() + 22, width, 18), RIGHT, uses)
        colour, detail = self._detail(sound)
        painter.setPen(colour)
        detail = painter.fontMetrics().elidedText(
            detail, Qt.TextElideMode.ElideRight, int(width - 48)
        )
        painter.drawText(QRectF(left, box.top() + 22, width - 48, 18), LEFT, detail)
        painter.restore()

    def _length(self, sound: Placeable) -> str:
        length, project = self._model.lengths[sound.id], self._session.document.project
        frames, seconds = project.timebase.frame_from(length), length / project.rate
        shown = f"{seconds:.2f} s" if seconds < 100 else f"{seconds / 60:.1f} min"
        return f"{shown} · {frames} f"

    def _detail(self, sound: Placeable) -> tuple[Any, str]:
        known, wish = self._model.known, self._model.wish
        if sound.id in known.missing:
            return theme.BRICK, "missing: its file is not there"
        if sound.id in known.changed:
            return theme.OCHRE, "its source has changed on disk"
        if wish.only == "alike":
            like = likeness(sound.name)
            return theme.INK_SOFT, f"like {like}; {facts(sound, self._model.project)}"
        parts = [sound.folder] if wish.order == "folder" and sound.folder else []
        parts += ["linked"] if isinstance(sound, Sound) and sound.kept == "linked" else []
        return theme.INK_SOFT, ", ".join([*parts, facts(sound, self._model.project)])

    def _mark(self, painter: QPainter, sound: Placeable, box: QRectF) -> None:
        """A triangle to listen, a square to stop."""
        middle = QPointF(box.left() + LISTEN_WIDTH / 2 + 2, box.top() + 22)
        listened = self._listening.what == sound.id
        painter.setPen(QPen(theme.MOSS, 1.3))
        painter.setBrush(theme.MOSS if listened else Qt.BrushStyle.NoBrush)
        if listened:
            painter.drawRect(QRectF(middle.x() - 4.5, middle.y() - 4.5, 9, 9))
        else:
            x, y = middle.x(), middle.y()
            painter.drawPolygon(
                QPolygonF([QPointF(x - 4, y - 5.5), QPointF(x + 5, y), QPointF(x - 4, y + 5.5)])
            )

    def _wave(self, painter: QPainter, sound: Placeable, box: QRectF) -> None:
        place = WAVE.translated(box.topLeft())
        if isinstance(sound, (Blend, Pool)):
            self._parts(painter, sound, place)
            return
        image = self._pictures.small_waveform(
            sound.id, int(WAVE.width()), int(WAVE.height()), theme.MOSS
        )
        if image is None:
            painter.setPen(QPen(theme.RULE_STRONG, 1, Qt.PenStyle.DotLine))
            middle = place.center().y()
            painter.drawLine(QPointF(place.left(), middle), QPointF(place.right(), middle))
        else:
            painter.drawImage(place.topLeft(), image)
        listening = self._listening
        if listening.what == sound.id and listening.length:
            x = place.left() + place.width() * min(1.0, listening.position / listening.length)
            painter.setPen(QPen(theme.INK, 1.5))
            painter.drawLine(QPointF(x, place.top()), QPointF(x, place.bottom()))

    def _parts(self, painter: QPainter, made: Blend | Pool, place: QRectF) -> None:
        """The parts in small: of a pool beside each other, of a blend over each other."""
        parts = parts_of(made)[:MOST_PARTS]
        number = len(parts)
        for at, part in enumerate(parts):
            if isinstance(made, Pool):
                width = place.width() / number
                spot = QRectF(place.left() + at * width, place.top(), width - 3, place.height())
                painter.setPen(QPen(theme.RULE_STRONG, 1))
                painter.setBrush(Qt.BrushStyle.NoBrush)
                painter.drawRoundedRect(spot, 2, 2)
            else:
                height = place.height() / number
                spot = QRectF(place.left(), place.top() + at * height, place.width(), height - 2)
            image = self._pictures.small_waveform(
                part, max(2, int(spot.width())), max(2, int(spot.height())), theme.MOSS
            )
            if image is not None:
                painter.drawImage(spot.topLeft(), image)


class ShelfList(QListView):
    """The list itself; files may be dropped on it, and the marks to listen choose nothing."""

    files_dropped = Signal(list)
    listen_wanted = Signal(str)
    sought = Signal(str, float)

    def __init__(self, model: ShelfModel, painter: RowPainter, listening: Listening) -> None:
        super().__init__()
        self._listening = listening
        self.setAccessibleName("Shelf")
        self.setModel(model)
        self.setItemDelegate(painter)
        self.setUniformItemSizes(True)
        # Thousands of rows are laid out a few at a time; what is seen first comes first.
        self.setLayoutMode(QListView.LayoutMode.Batched)
        self.setBatchSize(200)
        self.setSelectionMode(QAbstractItemView.SelectionMode.ExtendedSelection)
        self.setEditTriggers(QAbstractItemView.EditTrigger.NoEditTriggers)
        self.setDragEnabled(True)
        self.setAcceptDrops(True)
        self.setDragDropMode(QAbstractItemView.DragDropMode.DragDrop)
        self.setDefaultDropAction(Qt.DropAction.CopyAction)
        self.setVerticalScrollMode(QAbstractItemView.ScrollMode.ScrollPerPixel)
        self.setContextMenuPolicy(Qt.ContextMenuPolicy.CustomContextMenu)

    @override
    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        if self.currentIndex().isValid():
            self.scrollTo(self.currentIndex())

    def choose_rows(self, rows: Sequence[int], current: int) -> None:
        """Let exactly these rows be chosen."""
        model, picked = self.model(), QItemSelection()
        for row in rows:
            picked.select(model.index(row, 0), model.index(row, 0))
        selection = self.selectionModel()
        selection.select(picked, QItemSelectionModel.SelectionFlag.ClearAndSelect)
        if current >= 0:
            index = model.index(current, 0)
            selection.setCurrentIndex(index, QItemSelectionModel.SelectionFlag.NoUpdate)
            self.scrollTo(index)

    def _hit(self, event: QMouseEvent) -> tuple[Placeable | None, float, bool]:
        """The sound under the pointer, the share of its waveform there, whether it is its mark."""
        index = self.indexAt(event.position().toPoint())
        if not index.isValid():
            return None, 0.0, False
        inside = event.position().x() - self.visualRect(index).left()
        share = (inside - WAVE.left()) / WAVE.width()
        return index.data(SOUND_ROLE), share, inside < LISTEN_WIDTH

    def _for_listening(self, event: QMouseEvent) -> bool:
        if event.button() != Qt.MouseButton.LeftButton:
            return False
        sound, share, mark = self._hit(event)
        if sound is None:
            return False
        return mark or (self._listening.what == sound.id and 0 <= share <= 1)

    @override
    def mousePressEvent(self, event: QMouseEvent) -> None:
        if self._for_listening(event):
            sound, share, mark = self._hit(event)
            assert sound is not None
            if mark:
                self.listen_wanted.emit(sound.id)
            else:
                self.sought.emit(sound.id, share)
            event.accept()
            return
        super().mousePressEvent(event)

    @override
    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        if self._for_listening(event):
            self.mousePressEvent(event)
        else:
            super().mouseDoubleClickEvent(event)

    @override
    def startDrag(self, supportedActions: Qt.DropAction) -> None:
        """Carry the sound's name along, and not the whole row, which would hide the sheet."""
        sound = self.currentIndex().data(SOUND_ROLE)
        data = self.model().mimeData(self.selectedIndexes())
        if sound is None or data is None:
            return
        label = QLabel(sound.label)
        label.setStyleSheet(f"background: {theme.MOSS.name()}; color: {theme.CARD.name()};")
        label.setContentsMargins(8, 3, 8, 3)
        label.adjustSize()
        drag = QDrag(self)
        drag.setMimeData(data)
        drag.setPixmap(label.grab())
        drag.setHotSpot(QPoint(-6, label.height() + 6))
        drag.exec(Qt.DropAction.CopyAction)

    @override
    def dragEnterEvent(self, event: QDragEnterEvent) -> None:
        self.dragMoveEvent(event)

    @override
    def dragMoveEvent(self, event: QDragMoveEvent) -> None:
        let_files_in(event)

    @override
    def dropEvent(self, event: QDropEvent) -> None:
        take_files(event, self.files_dropped.emit)
