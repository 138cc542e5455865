"""What the picture of the scene is made of: its parts, topmost first, and the fields of one."""

from pathlib import Path

from PySide6.QtCore import QSize, Qt
from PySide6.QtGui import QHideEvent, QShowEvent
from PySide6.QtWidgets import (
    QCheckBox,
    QFrame,
    QGridLayout,
    QHBoxLayout,
    QLabel,
    QListWidget,
    QListWidgetItem,
    QPushButton,
    QScrollArea,
    QVBoxLayout,
    QWidget,
)
from typing_extensions import override

from cicada.core.editing import Changes
from cicada.core.model import Project
from cicada.core.picture_edits import ChangePart, MovePart, RemovePart, shown_from, shown_to
from cicada.core.picture_parts import Images, PicturePart, Place, Still, Video, source_of
from cicada.core.stack import ends
from cicada.errors import BadPicture
from cicada.media.wanted import PictureInfo
from cicada.window.drawing import theme
from cicada.window.picture.adding import Adding
from cicada.window.picture.outline import Outlined
from cicada.window.picture.view import PictureView
from cicada.window.state.frames import Frames
from cicada.window.state.session import Session
from cicada.window.widgets.fields import Kind, QuantityField, whole
from cicada.window.widgets.rows import soft
from cicada.window.words.quantities import begun, parse_share, parse_whole, share_text

FRAMES = whole(parse_whole, lambda value: f"{value:.0f}", "a number of frames")
AXES = ("x", "y", "size")
BESIDE = (0.75, 0.5, 1.0)


def _stepped(value: float, steps: int, /, *, fine: bool) -> float:
    return round(value + steps * (0.01 if fine else 0.05), 6)


def named(part: PicturePart, project: Project, length: int) -> str:
    """A part of the picture in a few words: what it is and on which frames."""
    kind = {Images: "numbered images", Video: "video", Still: "still"}[type(part)]
    last = ends(part, length) - 1
    return f"{begun(kind)}, frames {project.shown(part.start)} to {project.shown(last)}"


class PicturePanel(QFrame):
    """The list of parts, and the chosen one's settings."""

    def __init__(self, session: Session, frames: Frames, view: PictureView, adding: Adding) -> None:
        super().__init__()
        self.setObjectName("card")
        self._session, self._document, self._frames = session, session.document, frames
        self._view, self._outline, self._adding = view, view.outline, adding
        # The number of the part whose settings are shown, from the lowest.
        self.chosen = 0
        self._sizes: dict[Path, QSize] = {}
        self._asked: Path | None = None
        column = QVBoxLayout(self)
        column.setContentsMargins(12, 8, 8, 4)
        column.setSpacing(4)
        self.title = QLabel()
        self.title.setFont(theme.font(13, 600))
        column.addWidget(self.title)
        self.list = QListWidget()
        self.list.setAccessibleName("Parts of the picture")
        self.list.setMinimumHeight(44)
        column.addWidget(self.list, 1)
        column.addLayout(self._buttons())
        area = QScrollArea()
        area.setFrameShape(QFrame.Shape.NoFrame)
        area.setWidgetResizable(True)
        self.settings = self._settings()
        area.setWidget(self.settings)
        area.viewport().setAutoFillBackground(False)
        self.settings.setAutoFillBackground(False)
        area.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        area.setMinimumHeight(60)
        self._area = area
        column.addWidget(area, 3)
        self.list.currentRowChanged.connect(self._choose_row)
        self._outline.changed.connect(lambda which, place: self._change({which: place}))
        self._document.changed.connect(self.refresh)
        self._session.scene_changed.connect(self.refresh)

    # -- building ------------------------------------------------------------------------------

    def _buttons(self) -> QHBoxLayout:
        row = QHBoxLayout()
        row.setSpacing(6)
        self.buttons: dict[str, QPushButton] = {}
        for words, tip, do in (
            ("Add…", "Images, drawings and videos (Ctrl+P)", self._adding.choose),
            ("Exchange…", "Let this part be another file or folder", self._exchange),
            ("Up", "Put it above the next part", lambda: self._reorder(1)),
            ("Down", "Put it below the next part", lambda: self._reorder(-1)),
            ("Remove", "Take it out of the picture; its file stays", self._remove),
        ):
            button = QPushButton(words)
            button.setToolTip(tip)
            button.clicked.connect(lambda _=False, do=do: do())
            self.buttons[words] = button
            row.addWidget(button)
        row.addStretch(1)
        return row

    def _settings(self) -> QWidget:
        inner = QWidget()
        grid = QGridLayout(inner)
        grid.setContentsMargins(0, 2, 0, 0)
        grid.setHorizontalSpacing(4)
        grid.setVerticalSpacing(3)
        grid.setColumnStretch(7, 1)
        self.fields: dict[str, QuantityField] = {}
        frame = whole(self._read_frame, self._shown_frame, "the number of a frame")
        share = whole(parse_share, share_text, "")._replace(step=_stepped)
        self._row(grid, 0, "Shown", [("from", "from", frame), ("to", "to", frame)])
        self.repeats = QCheckBox("begins again")
        self.repeats.setToolTip("When it is over it begins again; else its last picture stays")
        self.repeats.clicked.connect(lambda on: self._change({"repeat": on}))
        grid.addWidget(self.repeats, 0, 5, 1, 2)
        skipped = FRAMES._replace(tip="so many frames of its beginning are left out")
        dissolves = [("dissolve_in", "in", FRAMES), ("dissolve_out", "out", FRAMES)]
        self._row(grid, 1, "Dissolves", [*dissolves, ("skip", "skips", skipped)])
        self._row(grid, 2, "Stands at", [(f"place.{axis}", axis, share) for axis in AXES])
        self.moves = QCheckBox("Moves to")
        self.moves.setToolTip("It goes straight to another place, which it reaches as it ends")
        self.moves.clicked.connect(lambda on: self._change({"moves_to": BESIDE if on else None}))
        self._row(grid, 3, self.moves, [(f"moves_to.{axis}", axis, share) for axis in AXES])
        grid.setRowStretch(4, 1)
        return inner

    def _row(
        self,
        grid: QGridLayout,
        row: int,
        head: str | QCheckBox,
        fields: list[tuple[str, str, Kind]],
    ) -> None:
        grid.addWidget(soft(head) if isinstance(head, str) else head, row, 0)
        words = head if isinstance(head, str) else head.text()
        for number, (name, label, kind) in enumerate(fields):
            field = QuantityField(f"{words} {label}", kind)
            field.setFixedSize(54, 23)
            field.chosen.connect(lambda value, name=name: self._entered(name, value))
            self.fields[name] = field
            grid.addWidget(soft(label), row, 1 + 2 * number)
            grid.addWidget(field, row, 2 + 2 * number)

    def _read_frame(self, text: str) -> float:
        return parse_whole(text) - self._document.project.first_frame

    def _shown_frame(self, frame: float) -> str:
        return f"{frame + self._document.project.first_frame:.0f}"

    # -- showing -------------------------------------------------------------------------------

    @property
    def part(self) -> PicturePart | None:
        """The part whose settings are shown."""
        parts = self._session.scene.picture
        return parts[self.chosen] if 0 <= self.chosen < len(parts) else None

    def refresh(self) -> None:
        """Show the parts of the scene's picture, and the chosen one's settings."""
        if not self.isVisible():
            return
        scene, project = self._session.scene, self._document.project
        parts = scene.picture
        self.chosen = max(0, min(self.chosen, len(parts) - 1))
        self.title.setText(f"The picture of {scene.label}")
        self.list.blockSignals(True)
        self.list.clear()
        for part in reversed(parts):
            name = Path(source_of(part)).name
            item = QListWidgetItem(f"{name}   –   {named(part, project, scene.length)}")
            item.setToolTip(source_of(part))
            self.list.addItem(item)
        self.list.setCurrentRow(len(parts) - 1 - self.chosen)
        self.list.blockSignals(False)
        chosen = self.part
        for words, button in self.buttons.items():
            button.setEnabled(words == "Add…" or chosen is not None)
        self.settings.setVisible(chosen is not None)
        if chosen is not None:
            self._fill(chosen, ends(chosen, scene.length))
        self._outline_part()

    def _fill(self, part: PicturePart, end: int) -> None:
        still = isinstance(part, Still)
        values: dict[str, float] = {
            "from": part.start, "to": end - 1, "dissolve_in": part.dissolve_in,
            "dissolve_out": part.dissolve_out, "skip": 0 if isinstance(part, Still) else part.skip,
        }  # fmt: skip
        for name, place in (("place", part.place), ("moves_to", part.moves_to or part.place)):
            values |= {f"{name}.{axis}": value for axis, value in zip(AXES, place, strict=True)}
        for name, value in values.items():
            self.fields[name].set_value(value)
        self.fields["skip"].setEnabled(not still)
        self.repeats.setVisible(not still and not isinstance(part, Images))
        self.repeats.setChecked(bool(getattr(part, "repeat", False)))
        self.moves.setChecked(part.moves_to is not None)
        for axis in AXES:
            self.fields[f"moves_to.{axis}"].setEnabled(part.moves_to is not None)

    def _outline_part(self) -> None:
        """Draw the chosen part's outline over the picture while this panel is looked at."""
        part, shown = self.part, None
        if part is not None and self.isVisible():
            path = self._frames.file_of(part)
            if path in self._sizes:
                shown = Outlined(self._sizes[path], part.place, part.moves_to)
            elif self._asked != path:
                self._asked = path
                self._frames.look_at(path, lambda info: self._sized(path, info))
        self._outline.part = shown
        self._view.update()

    def _sized(self, path: Path, info: PictureInfo | BadPicture) -> None:
        if not isinstance(info, BadPicture):
            self._sizes[path] = QSize(info.width, info.height)
            self._outline_part()

    @override
    def minimumSizeHint(self) -> QSize:
        # The shelf stands in the same place and needs no more.
        return QSize(320, 200)

    @override
    def showEvent(self, event: QShowEvent) -> None:
        super().showEvent(event)
        # What the list does not need; only now is it known how large letters and fields are.
        self._area.setMaximumHeight(self.settings.sizeHint().height() + 2)
        self.refresh()

    @override
    def hideEvent(self, event: QHideEvent) -> None:
        super().hideEvent(event)
        self._outline_part()

    # -- changing ------------------------------------------------------------------------------

    def _choose_row(self, row: int) -> None:
        if row >= 0:
            self.chosen = len(self._session.scene.picture) - 1 - row
            self.refresh()

    def _change(self, changes: Changes) -> None:
        """Change the chosen part; what is refused is said, and shown as it was."""
        if not self._document.do(
            ChangePart(scene=self._session.scene_id, number=self.chosen, changes=changes)
        ):
            self.refresh()

    def _entered(self, name: str, value: float) -> None:
        part, length = self.part, self._session.scene.length
        if part is None:
            return
        if name == "from":
            self._change(shown_from(part, length, int(value)))
        elif name == "to":
            self._change(shown_to(part, length, int(value)))
        elif "." in name:
            which, axis = name.split(".")
            was: Place = (part.place if which == "place" else part.moves_to) or part.place
            place = [value if a == axis else old for a, old in zip(AXES, was, strict=True)]
            self._change({which: tuple(place)})
        else:
            self._change({name: int(value)})

    def _reorder(self, by: int) -> None:
        to = self.chosen + by
        if 0 <= to < len(self._session.scene.picture):
            edit = MovePart(scene=self._session.scene_id, number=self.chosen, to=to)
            self.chosen = to
            self._document.do(edit)

    def _remove(self) -> None:
        self._document.do(RemovePart(scene=self._session.scene_id, number=self.chosen))

    def _exchange(self) -> None:
        asking, images = self._adding.asking, isinstance(self.part, Images)
        ask = asking.folder_to_open if images else asking.file_to_open
        path = ask("Another folder" if images else "Another file")
        if path is not None:
            self._adding.exchange(self.chosen, path)
