"""What is made of sounds, in parts: added, ordered, removed, and which numbers play what."""

from collections.abc import Callable

from msgspec.structs import replace
from PySide6.QtCore import Qt, Signal
from PySide6.QtGui import QDragEnterEvent, QDragMoveEvent, QDropEvent
from PySide6.QtWidgets import (
    QComboBox,
    QFrame,
    QHBoxLayout,
    QLabel,
    QPushButton,
    QSizePolicy,
    QVBoxLayout,
)
from typing_extensions import override

from cicada.core.answers import Blend, Playlist, Pool
from cicada.core.coverage import (
    blend_coverage,
    gap_closed,
    pool_coverage,
    pool_values,
)
from cicada.core.making import (
    put,
    with_part,
    with_part_moved,
    without_part,
)
from cicada.core.model import Placeable
from cicada.core.needs import may_be_part
from cicada.errors import BadEdit
from cicada.window.drawing import theme
from cicada.window.shelf.parts_table import ALWAYS, PartsTable
from cicada.window.state.notices import Notices
from cicada.window.state.session import Session
from cicada.window.widgets.choice import Choice
from cicada.window.widgets.coverage_view import CoverageTable
from cicada.window.widgets.rows import Page
from cicada.window.words.answers import kind_of, made_text
from cicada.window.words.numbers import read, shown
from cicada.window.words.quantities import TimeUnits, parse_seconds

Made = Blend | Pool | Playlist

CURVES = [
    ("power", "Evenly loud", "As one fades the other rises so that both together stay as loud"),
    ("linear", "In proportion", "The gains of both add up to one"),
]
AGAIN = [
    ("other", "Never twice in a row", "What was drawn last is left out if another is open"),
    ("any", "Anything", "Every open part may come again at once"),
]


class MadeParts(QFrame):
    """One blend, pool or playlist with its parts; ``adding_wanted`` asks for another one."""

    adding_wanted = Signal()
    listen_wanted = Signal(str)

    def __init__(self, session: Session, notices: Notices) -> None:
        super().__init__()
        self._session, self._notices = session, notices
        self._id = ""
        column = QVBoxLayout(self)
        column.setContentsMargins(4, 0, 8, 2)
        column.setSpacing(8)
        head = QHBoxLayout()
        self.title = QLabel()
        self.title.setFont(theme.font(14, 600))
        self.title.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Preferred)
        head.addWidget(self.title, 1)
        self.add = QPushButton("Add a part…")
        self.add.setToolTip("Choose a part from the shelf; sounds can be dropped here as well")
        self.add.clicked.connect(self.adding_wanted)
        head.addWidget(self.add)
        column.addLayout(head)
        self._settings(column)
        self.table = PartsTable()
        self.table.typed.connect(self._typed)
        self.table.moved.connect(self._move)
        self.table.dropped.connect(self.add_part)
        self.table.taken_out.connect(self._take_out)
        self.table.cellDoubleClicked.connect(self._listen)
        column.addWidget(self.table)
        column.addLayout(self._buttons())
        self.covered = QComboBox()
        self.covered.setAccessibleName("the value whose numbers are listed")
        self.covered.activated.connect(lambda _: self.refresh())
        column.addWidget(self.covered)
        self.coverage = CoverageTable()
        self.coverage.gap_clicked.connect(self._close_gap)
        column.addWidget(self.coverage)
        column.addStretch(1)
        self.setAcceptDrops(True)
        session.document.changed.connect(self.refresh)

    @override
    def dragEnterEvent(self, event: QDragEnterEvent) -> None:
        self.dragMoveEvent(event)

    @override
    def dragMoveEvent(self, event: QDragMoveEvent) -> None:
        # A row that is let go of beside the list is taken out of it.
        event.setAccepted(event.source() is self.table)

    @override
    def dropEvent(self, event: QDropEvent) -> None:
        if event.source() is self.table:
            event.setDropAction(Qt.DropAction.CopyAction)
            event.accept()
            self._take_out(self.table.currentRow())

    def _settings(self, column: QVBoxLayout) -> None:
        self.page = Page()
        self.value = QComboBox()
        self.value.setAccessibleName("the value it follows")
        self.value.activated.connect(self._choose_value)
        self.page.row("follows", self.value)
        self.curve = Choice("goes over", CURVES)
        self.curve.chosen.connect(lambda curve: self._change("how it goes over", curve=curve))
        self.page.row("goes over", self.curve)
        self.again = Choice("draws", AGAIN)
        self.again.chosen.connect(lambda again: self._change("what is drawn", again=again))
        self.page.row("draws", self.again)
        column.addWidget(self.page)

    def _buttons(self) -> QHBoxLayout:
        row = QHBoxLayout()
        self.hint = QLabel("Drag rows to order them, out of the list to take them out.")
        self.hint.setObjectName("soft")
        row.addWidget(self.hint, 1)
        self.up = QPushButton("Up")
        self.up.setToolTip("The chosen part one row up (Alt+Up)")
        self.up.clicked.connect(lambda: self._move(self.table.currentRow(), -1, by=True))
        self.down = QPushButton("Down")
        self.down.setToolTip("The chosen part one row down (Alt+Down)")
        self.down.clicked.connect(lambda: self._move(self.table.currentRow(), 1, by=True))
        self.out = QPushButton("Take out")
        self.out.setToolTip("The chosen part is one no more; it stays on the shelf (Del)")
        self.out.clicked.connect(lambda: self._take_out(self.table.currentRow()))
        for button in (self.up, self.down, self.out):
            row.addWidget(button)
        return row

    # -- showing -------------------------------------------------------------------------------

    def show_made(self, made: str) -> None:
        """Show the one of that id."""
        self._id = made
        self.refresh()

    def made(self) -> Made | None:
        """What is shown, as it is now."""
        for group in (
            self._session.document.project.blends,
            self._session.document.project.pools,
            self._session.document.project.playlists,
        ):
            for each in group:
                if each.id == self._id:
                    return each
        return None

    def refresh(self) -> None:
        """Show it as it is now, if anybody can see it."""
        made = self.made()
        if made is None or self.isHidden():
            return
        project = self._session.document.project
        self.title.setText(f"{made.label}: {made_text(made, project)}")
        form, blend, pool = self.page.form, isinstance(made, Blend), isinstance(made, Pool)
        self.page.setVisible(blend or pool)
        form.setRowVisible(self.value, blend)
        form.setRowVisible(self.curve, blend)
        form.setRowVisible(self.again, pool)
        if isinstance(made, Blend):
            self.value.clear()
            for value in project.values:
                self.value.addItem(value.label, value.id)
            self.value.setCurrentIndex(self.value.findData(made.value))
            self.curve.set_value(made.curve)
        if isinstance(made, Pool):
            self.again.set_value(made.again)
        self._fill(made)
        self._cover(made)

    def _fill(self, made: Made) -> None:
        project = self._session.document.project
        names = [project.placeable(part.sound).label for part in made.parts]
        if isinstance(made, Blend):
            heads = ["part", "heard alone at"]
            rows = [[name, shown(part.at)] for name, part in zip(names, made.parts, strict=True)]
            choices: dict[int, list[str]] = {}
        elif isinstance(made, Pool):
            heads = ["part", "how likely", "while", "from", "up to"]
            rows = []
            for name, part in zip(names, made.parts, strict=True):
                low, high = part.range or ("", "")
                value = project.value(part.value).label if part.value else ALWAYS
                ends = [shown(end) if isinstance(end, float) else end for end in (low, high)]
                rows.append([name, shown(part.weight), value, *ends])
            choices = {2: [ALWAYS, *(value.label for value in project.values)]}
        else:
            heads = ["part", "times", "rings on for"]
            rows = [
                [name, str(part.loops), f"{shown(part.tail)} s"]
                for name, part in zip(names, made.parts, strict=True)
            ]
            choices = {}
        self.table.show_parts(heads, rows, choices)

    def _cover(self, made: Made) -> None:
        project = self._session.document.project
        names = [project.placeable(part.sound).label for part in made.parts]
        value = made.value if isinstance(made, Blend) else ""
        values = pool_values(made) if isinstance(made, Pool) else ()
        self._offer_values(values)
        if values:
            value = self.covered.currentData()
        self.coverage.setVisible(bool(value))
        if not value:
            return
        if isinstance(made, Blend):
            stretches = blend_coverage(project, made)
        else:
            assert isinstance(made, Pool)
            stretches = pool_coverage(project, made, value)
        title = f"What {project.value(value).label} plays"
        # What another value opens may fill what looks like a gap here.
        certain = made if len(values) < 2 else None
        self.coverage.show_coverage(title, stretches, names, certain)

    def _offer_values(self, values: tuple[str, ...]) -> None:
        """Let it be chosen which value is looked at, where several open a pool's parts."""
        project = self._session.document.project
        if values != tuple(self.covered.itemData(n) for n in range(self.covered.count())):
            self.covered.clear()
            for value in values:
                self.covered.addItem(f"by {project.value(value).label}", value)
        self.covered.setVisible(len(values) > 1)

    # -- changing ------------------------------------------------------------------------------

    def _do(self, make: Callable[[], Made], named: str) -> None:
        """Change it in one step; what does not fit is said, and nothing has changed then."""
        try:
            done = self._session.document.do(put(make(), named))
        except BadEdit as error:
            self._notices.say(str(error))
            done = False
        if not done:
            self.refresh()

    def _change(self, what: str, **changes: object) -> None:
        made = self.made()
        if made is not None:
            self._do(lambda: replace(made, **changes), f"change {what} of {made.label}")

    def _choose_value(self, index: int) -> None:
        self._change("the value", value=self.value.itemData(index))

    def add_part(self, sound: str, place: int | None = None) -> None:
        """Add a part from the shelf, before that row or at the end."""
        made, project = self.made(), self._session.document.project
        if made is None:
            return
        part: Placeable = project.placeable(sound)
        if sound == made.id or not may_be_part(project, made, sound):
            self._notices.say(f"A {kind_of(part)} cannot be a part of a {kind_of(made)}.")
            return
        self._do(lambda: with_part(made, sound, place), f"add {part.label} to {made.label}")

    def _take_out(self, row: int) -> None:
        made = self.made()
        if made is not None and 0 <= row < len(made.parts):
            self._do(lambda: without_part(made, row), f"take a part out of {made.label}")

    def _move(self, row: int, to: int, *, by: bool = False) -> None:
        made = self.made()
        if made is None or not 0 <= row < len(made.parts):
            return
        to = max(0, min(row + to if by else to, len(made.parts) - 1))
        if to != row:
            self._do(lambda: with_part_moved(made, row, to), f"order the parts of {made.label}")
            self.table.setCurrentCell(to, 0)

    def _listen(self, row: int, column: int) -> None:
        made = self.made()
        if made is not None and column == 0:
            self.listen_wanted.emit(made.parts[row].sound)

    def _close_gap(self, row: int) -> None:
        made, project = self.made(), self._session.document.project
        if isinstance(made, Pool):
            gap = pool_coverage(project, made, pool_values(made)[0])[row]
            self._do(lambda: gap_closed(project, made, gap), f"close a gap of {made.label}")

    def _typed(self, row: int, column: int, text: str) -> None:
        made = self.made()
        if made is None or row >= len(made.parts):
            return
        try:
            changes = self._read(made, row, column, text.strip())
        except ValueError as error:
            self._notices.say(str(error))
            self.refresh()
            return
        part = replace(made.parts[row], **changes)
        parts = (*made.parts[:row], part, *made.parts[row + 1 :])
        self._change("a part", parts=parts)

    def _read(self, made: Made, row: int, column: int, text: str) -> dict[str, object]:
        """What was typed in a cell, as fields of the part; raises ``ValueError``."""
        project = self._session.document.project
        if isinstance(made, Blend):
            return {"at": read(text)}
        if isinstance(made, Playlist):
            if column == 1:
                return {"loops": max(1, round(read(text)))}
            return {"tail": parse_seconds(text, TimeUnits(project.timebase.fps))}
        part = made.parts[row]
        if column == 1:
            return {"weight": read(text)}
        if column == 2:
            value = next((v for v in project.values if v.label == text), None)
            if value is None:
                return {"value": None, "range": None}
            return {"value": value.id, "range": part.range or (value.low, value.high)}
        if part.range is None:
            raise ValueError("choose which value it is open by first")
        low, high = part.range
        return {"range": (read(text), high) if column == 3 else (low, read(text))}
