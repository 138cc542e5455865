"""The shelf: the sounds of the project, to be listened to and dragged onto the sheet."""

from pathlib import Path
from typing import Any

from PySide6.QtCore import (
    QAbstractListModel,
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
from PySide6.QtGui import QDragEnterEvent, QDragMoveEvent, QDropEvent, QPainter, QPen
from PySide6.QtWidgets import (
    QAbstractItemView,
    QFrame,
    QHBoxLayout,
    QLabel,
    QListView,
    QPushButton,
    QStyle,
    QStyledItemDelegate,
    QStyleOptionViewItem,
    QVBoxLayout,
    QWidget,
)
from typing_extensions import override

from cicada.core.model import Clip, Sound
from cicada.core.timebase import Timebase, resampled_length
from cicada.window import theme
from cicada.window.quantities import count
from cicada.window.session import Session
from cicada.window.shelf_drag import SOUND, dragged_files, sound_mime
from cicada.window.sounds import Sounds

Index = QModelIndex | QPersistentModelIndex
_SOUND_ROLE = Qt.ItemDataRole.UserRole
LEFT = Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter
RIGHT = Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter
ROW_HEIGHT = 46


class _Model(QAbstractListModel):
    """The project's sounds, in order."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self.uses: dict[str, int] = {}
        self.sounds: tuple[Sound, ...] = ()
        self.missing: set[str] = set()
        session.document.changed.connect(self.refresh)
        self.refresh()

    def refresh(self) -> None:
        """Take the sounds of the project as they are now."""
        project = self._session.document.project
        uses: dict[str, int] = {}
        for _, layer in project.all_layers():
            for keyframe in layer.keyframes:
                if isinstance(keyframe, Clip):
                    uses[keyframe.sound] = uses.get(keyframe.sound, 0) + 1
        missing = self._session.document.missing()
        if (project.sounds, uses, missing) == (self.sounds, self.uses, self.missing):
            return
        self.beginResetModel()
        self.sounds, self.uses, self.missing = project.sounds, uses, missing
        self.endResetModel()

    @override
    def rowCount(self, parent: Index | None = None) -> int:
        return len(self.sounds)

    @override
    def data(self, index: Index, role: int = Qt.ItemDataRole.DisplayRole) -> Any:
        if not index.isValid():
            return None
        sound = self.sounds[index.row()]
        if role == _SOUND_ROLE:
            return sound
        if role in (Qt.ItemDataRole.DisplayRole, Qt.ItemDataRole.AccessibleTextRole):
            return sound.name or sound.id
        if role == Qt.ItemDataRole.ToolTipRole:
            return f"{sound.name}: {facts(sound)}" + (f"\n{sound.note}" if sound.note else "")
        return None

    @override
    def flags(self, index: Index) -> Qt.ItemFlag:
        flags = super().flags(index)
        return flags | Qt.ItemFlag.ItemIsDragEnabled if index.isValid() else flags

    @override
    def mimeTypes(self) -> list[str]:
        return [SOUND]

    @override
    def mimeData(self, indexes: Any) -> QMimeData:
        return sound_mime(self.sounds[indexes[0].row()].id)


def facts(sound: Sound) -> str:
    """Encoding, rate and channels."""
    channels = {1: "mono", 2: "stereo"}.get(sound.channels, f"{sound.channels} channels")
    return f"{sound.encoding or 'unknown'}, {sound.rate / 1000:g} kHz, {channels}"


class _Painter(QStyledItemDelegate):
    """Draws one sound: its waveform, name and length."""

    def __init__(self, session: Session, sounds: Sounds, model: _Model) -> None:
        super().__init__()
        self._session, self._sounds, self._model = session, sounds, model

    @override
    def sizeHint(self, option: QStyleOptionViewItem, index: Index) -> QSize:
        return QSize(200, ROW_HEIGHT)

    @override
    def paint(self, painter: QPainter, option: QStyleOptionViewItem, index: Index) -> None:
        sound: Sound = index.data(_SOUND_ROLE)
        box = QRectF(option.rect)
        painter.save()
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        if option.state & QStyle.StateFlag.State_Selected:
            painter.setBrush(theme.wash(theme.MOSS, 40))
            painter.setPen(theme.NO_PEN)
            painter.drawRoundedRect(box.adjusted(1, 1, -1, -2), 5, 5)
        painter.setPen(QPen(theme.RULE, 1))
        painter.drawLine(box.bottomLeft(), box.bottomRight())
        self._wave(painter, sound, box)
        missing = sound.id in self._model.missing
        left, width = box.left() + 104, box.width() - 112
        painter.setPen(theme.BRICK if missing else theme.INK)
        painter.setFont(theme.font(13, 500))
        name = painter.fontMetrics().elidedText(
            sound.name or sound.id, Qt.TextElideMode.ElideRight, int(width - 104)
        )
        painter.drawText(QRectF(left, box.top() + 4, width - 100, 20), LEFT, name)
        painter.setPen(theme.INK_SOFT)
        painter.setFont(theme.font(11))
        detail = "missing: its file is not there" if missing else facts(sound)
        painter.drawText(QRectF(left, box.top() + 23, width - 60, 18), LEFT, detail)
        project = self._session.document.project
        base = Timebase(*project.fps, project.rate)
        length = resampled_length(sound.frames, sound.rate, project.rate)
        frames = base.frame_from(length)
        painter.setPen(theme.INK)
        painter.setFont(theme.font(12))
        text = f"{sound.frames / sound.rate:.2f} s · {frames} f"
        painter.drawText(QRectF(left, box.top() + 4, width, 20), RIGHT, text)
        uses = self._model.uses.get(sound.id, 0)
        painter.setPen(theme.INK_SOFT)
        painter.setFont(theme.font(11))
        painter.drawText(QRectF(left, box.top() + 23, width, 18), RIGHT, count(uses, "use"))
        painter.restore()

    def _wave(self, painter: QPainter, sound: Sound, box: QRectF) -> None:
        image = self._sounds.small_waveform(sound.id, 88, 30, theme.MOSS)
        place = QRectF(box.left() + 6, box.top() + 7, 88, 30)
        if image is None:
            painter.setPen(QPen(theme.RULE_STRONG, 1, Qt.PenStyle.DotLine))
            middle = place.center().y()
            painter.drawLine(QPointF(place.left(), middle), QPointF(place.right(), middle))
        else:
            painter.drawImage(place.topLeft(), image)


class _List(QListView):
    """The list itself; files may be dropped on it."""

    files_dropped = Signal(list)

    @override
    def dragEnterEvent(self, event: QDragEnterEvent) -> None:
        self.dragMoveEvent(event)

    @override
    def dragMoveEvent(self, event: QDragMoveEvent) -> None:
        if dragged_files(event.mimeData()):
            event.acceptProposedAction()
        else:
            event.ignore()

    @override
    def dropEvent(self, event: QDropEvent) -> None:
        files = dragged_files(event.mimeData())
        if files:
            event.acceptProposedAction()
            self.files_dropped.emit(files)


class Shelf(QFrame):
    """The sounds of the project."""

    files_dropped = Signal(list)
    import_wanted = Signal()
    listen_wanted = Signal(str)
    menu_wanted = Signal(QPoint)

    def __init__(self, session: Session, sounds: Sounds) -> None:
        super().__init__()
        self.setObjectName("card")
        self.setMinimumWidth(300)
        self._session = session
        self.model = _Model(session)
        self._painter = _Painter(session, sounds, self.model)
        column = QVBoxLayout(self)
        column.setContentsMargins(10, 8, 8, 6)
        column.setSpacing(4)
        column.addWidget(self._top())
        for button in (self.listen, self.importing):
            button.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self.list = _List()
        self.list.setAccessibleName("Shelf")
        self.list.setModel(self.model)
        self.list.setItemDelegate(self._painter)
        self.list.setDragEnabled(True)
        self.list.setAcceptDrops(True)
        self.list.setDragDropMode(QAbstractItemView.DragDropMode.DragDrop)
        self.list.setDefaultDropAction(Qt.DropAction.CopyAction)
        self.list.setVerticalScrollMode(QAbstractItemView.ScrollMode.ScrollPerPixel)
        self.list.setContextMenuPolicy(Qt.ContextMenuPolicy.CustomContextMenu)
        self.list.customContextMenuRequested.connect(
            lambda point: self.menu_wanted.emit(self.list.viewport().mapToGlobal(point))
        )
        self.list.selectionModel().selectionChanged.connect(self._chosen)
        self.list.files_dropped.connect(self.files_dropped)
        column.addWidget(self.list, 1)
        self._empty = QLabel(
            "Nothing here yet.\nDrop sound files here, or import them with Ctrl+I."
        )
        self._empty.setObjectName("soft")
        self._empty.setAlignment(Qt.AlignmentFlag.AlignCenter)
        column.addWidget(self._empty, 1)
        self.setAcceptDrops(True)
        session.document.changed.connect(self._refresh)
        sounds.changed.connect(self.list.viewport().update)
        session.sound_changed.connect(self._show_choice)
        self._refresh()

    def _top(self) -> QWidget:
        top = QWidget()
        row = QHBoxLayout(top)
        row.setContentsMargins(4, 0, 2, 0)
        title = QLabel("Shelf")
        title.setFont(theme.font(13, 600))
        row.addWidget(title)
        self._count = QLabel()
        self._count.setObjectName("soft")
        row.addWidget(self._count)
        row.addStretch(1)
        self.listen = QPushButton("Listen")
        self.listen.setToolTip("Hear the chosen sound by itself (L); Esc silences")
        self.listen.clicked.connect(self._listen)
        row.addWidget(self.listen)
        self.importing = QPushButton("Import…")
        self.importing.setToolTip("Put sound files on the shelf (Ctrl+I)")
        self.importing.clicked.connect(self.import_wanted)
        row.addWidget(self.importing)
        return top

    def _refresh(self) -> None:
        number = len(self._session.document.project.sounds)
        self._count.setText(count(number, "sound") if number else "")
        self._empty.setVisible(number == 0)
        self.list.setVisible(number > 0)
        self._show_choice()

    def _show_choice(self) -> None:
        self.listen.setEnabled(self._session.sound is not None)
        for row, sound in enumerate(self.model.sounds):
            if sound.id == self._session.sound:
                self.list.setCurrentIndex(self.model.index(row, 0))

    def _chosen(self) -> None:
        chosen = self.list.selectionModel().selectedIndexes()
        self._session.choose_sound(chosen[0].data(_SOUND_ROLE).id if chosen else None)
        self.listen.setEnabled(bool(chosen))

    def _listen(self) -> None:
        if self._session.sound is not None:
            self.listen_wanted.emit(self._session.sound)

    @override
    def dragEnterEvent(self, event: QDragEnterEvent) -> None:
        if dragged_files(event.mimeData()):
            event.acceptProposedAction()

    @override
    def dropEvent(self, event: QDropEvent) -> None:
        files: list[Path] = dragged_files(event.mimeData())
        if files:
            event.acceptProposedAction()
            self.files_dropped.emit(files)
