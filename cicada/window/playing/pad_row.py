"""A pad on its panel: the pad itself, what it does in words, and its settings when opened."""

from collections.abc import Callable

from msgspec.structs import replace
from PySide6.QtCore import Qt, QTimer, Signal
from PySide6.QtWidgets import (
    QCheckBox,
    QComboBox,
    QFrame,
    QHBoxLayout,
    QLabel,
    QLineEdit,
    QPushButton,
    QSizePolicy,
    QVBoxLayout,
)

from cicada.core.answers import Deed, Fire, GlideDeed, GoOn, HushDeed, Pad, Watch
from cicada.core.model import Project
from cicada.window.playing.deeds import DeedLine, deed_text
from cicada.window.playing.pad_controls import FollowsBox, OrderOfBoth, ZoneRow
from cicada.window.widgets.fields import LEVEL, QuantityField
from cicada.window.widgets.rows import soft
from cicada.window.words.answers import deeds_text
from cicada.window.words.numbers import read, shown

PAD_WIDTH, LIT = 120, 160


class PadRow(QFrame):
    """``pressed`` comes when it is to act, ``changed`` with the pad as it is to be and why.

    ``opened`` comes when its settings are to be seen or no more, ``removed`` when it is to go.
    ``zone_wanted`` comes when its zone is to be drawn.
    """

    pressed = Signal()
    changed = Signal(object, str)
    opened = Signal()
    zone_wanted = Signal()
    removed = Signal()

    def __init__(self, project: Project, pad: Pad, late: list[str], *, is_open: bool) -> None:
        super().__init__()
        self.project, self.pad = project, pad
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 2, 0, 4)
        column.setSpacing(4)
        row = QHBoxLayout()
        row.setSpacing(10)
        self.button = QPushButton(self._title())
        self.button.setObjectName("pad")
        self.button.setFixedWidth(PAD_WIDTH)
        self.button.setMinimumHeight(40)
        self.button.setEnabled(not pad.off)
        self.button.setToolTip("Press it")
        self.button.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        # As it goes down, not as it comes up: a press is heard at once.
        self.button.pressed.connect(self.pressed)
        row.addWidget(self.button)
        self.sentence = QLabel(self._sentence(late))
        self.sentence.setWordWrap(True)
        self.sentence.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Preferred)
        row.addWidget(self.sentence, 1)
        self.more = QPushButton("Done" if is_open else "Change")
        self.more.setToolTip("What it does, and what presses it")
        self.more.clicked.connect(self.opened)
        row.addWidget(self.more)
        column.addLayout(row)
        self.lines: list[DeedLine] = []
        if is_open:
            self._settings(column)
        self._dark = QTimer(self)
        self._dark.setSingleShot(True)
        self._dark.timeout.connect(lambda: self.button.setDown(False))

    def _title(self) -> str:
        key = f"   {self.pad.key}" if self.pad.key else ""
        return f"{self.pad.label}{key}"

    def _sentence(self, late: list[str]) -> str:
        said = deeds_text([deed_text(deed, self.project) for deed in self.pad.does])
        pad = self.pad
        if pad.at_start:
            said += "; also as a run begins"
        if pad.watch is not None:
            low, high = pad.watch.enters
            name = self.project.value(pad.watch.value).label
            said += f"; also as {name} comes between {shown(low)} and {shown(high)}"
        if pad.off:
            said += " (switched off)"
        if late:
            said += f". Not ready yet: {', '.join(late[:3])}"
        return said

    def light(self) -> None:
        """Let it be seen that it was pressed."""
        self.button.setDown(True)
        self._dark.start(LIT)

    # -- its settings --------------------------------------------------------------------------

    def _settings(self, column: QVBoxLayout) -> None:
        pad = self.pad
        self.name = self._text("name", pad.name, 132)
        self.name.editingFinished.connect(
            lambda: self._set("rename the pad", name=self.name.text().strip())
        )
        self.key = self._text("key", pad.key or "", 34)
        self.key.setMaxLength(1)
        self.key.setToolTip("The key that presses it while the pads are played")
        self.key.editingFinished.connect(
            lambda: self._set("the pad's key", key=self.key.text().strip() or None)
        )
        self.message = self._text("message", pad.message or "", 110)
        self.message.setPlaceholderText("/pad/one")
        self.message.setToolTip("An OSC address that presses it; 0 as its first argument does not")
        self.message.editingFinished.connect(self._set_message)
        self.level = QuantityField("level", LEVEL)
        self.level.setFixedWidth(86)
        self.level.set_value(pad.level)
        self.level.chosen.connect(lambda level: self._set("the pad's level", level=level))
        for line in (
            (("called", self.name), ("key", self.key)),
            (("OSC", self.message), ("level", self.level)),
        ):
            row = QHBoxLayout()
            row.setSpacing(6)
            for words, field in line:
                row.addWidget(soft(words))
                row.addWidget(field)
            row.addStretch(1)
            column.addLayout(row)
        for number, deed in enumerate(pad.does):
            if isinstance(deed, GoOn):
                continue
            does = DeedLine(self.project, deed)
            does.changed.connect(lambda made, number=number: self._put(number, made))
            does.removed.connect(lambda number=number: self._put(number, None))
            column.addWidget(does)
            self.lines.append(does)
        column.addLayout(self._adding())
        self.order = OrderOfBoth(pad.does)
        self.order.chosen.connect(lambda does: self._set("when the picture goes on", does=does))
        column.addWidget(self.order)
        column.addLayout(self._following())
        self.zone = ZoneRow(self.project, pad)
        self.zone.wanted.connect(self.zone_wanted)
        self.zone.gone.connect(lambda: self._set("the pad's zone", zone=None))
        column.addWidget(self.zone)
        column.addLayout(self._acting())
        column.addLayout(self._last())

    def _text(self, name: str, text: str, width: int) -> QLineEdit:
        field = QLineEdit(text)
        field.setAccessibleName(f"pad's {name}")
        field.setFixedWidth(width)
        return field

    def _adding(self) -> QHBoxLayout:
        row = QHBoxLayout()
        row.setSpacing(6)
        row.addWidget(soft("add"))
        sound = next((made.id for made in self.project.all_placeables()), None)
        value = next((value.id for value in self.project.values), None)
        makers: list[tuple[str, Callable[[], Deed] | None]] = [
            ("Fire", None if sound is None else lambda: Fire(sound=sound)),
            ("Silence", HushDeed),
            ("Move", None if value is None else lambda: GlideDeed(value=value, to=1.0)),
        ]
        self.adders: list[QPushButton] = []
        for words, make in makers:
            button = QPushButton(words)
            button.setEnabled(make is not None)
            if make is not None:
                button.clicked.connect(lambda _=False, make=make: self._add(make()))
            row.addWidget(button)
            self.adders.append(button)
        row.addStretch(1)
        return row

    def _following(self) -> QHBoxLayout:
        row = QHBoxLayout()
        row.setSpacing(6)
        row.addWidget(soft("level follows"))
        self.follows = FollowsBox(self.project, self.pad.follows)
        self.follows.follows.connect(
            lambda follows: self._set("what the pad's level follows", follows=follows)
        )
        row.addWidget(self.follows)
        row.addStretch(1)
        return row

    def _acting(self) -> QHBoxLayout:
        """What else makes it act."""
        row, pad = QHBoxLayout(), self.pad
        row.setSpacing(6)
        start = QCheckBox("at the start")
        start.setChecked(pad.at_start)
        start.clicked.connect(lambda on: self._set("when the pad acts", at_start=on))
        row.addWidget(start)
        self.watch = QComboBox()
        self.watch.setAccessibleName("the value it watches")
        self.watch.setMinimumContentsLength(6)
        self.watch.setSizeAdjustPolicy(
            QComboBox.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon
        )
        self.watch.addItem("watches nothing", "")
        for value in self.project.values:
            self.watch.addItem(f"watches {value.label}", value.id)
        self.watch.setCurrentIndex(self.watch.findData(pad.watch.value if pad.watch else ""))
        self.watch.activated.connect(lambda index: self._watch(self.watch.itemData(index)))
        row.addWidget(self.watch)
        self.ends: list[QLineEdit] = []
        if pad.watch is not None:
            for number, end in enumerate(pad.watch.enters):
                field = self._text(("from", "up to")[number], shown(end), 46)
                field.editingFinished.connect(self._watch_ends)
                self.ends.append(field)
                row.addWidget(field)
        row.addStretch(1)
        return row

    def _last(self) -> QHBoxLayout:
        row, pad = QHBoxLayout(), self.pad
        row.addStretch(1)
        off = QPushButton("Switch on" if pad.off else "Off")
        off.setToolTip("As if it were not there, or there again")
        off.clicked.connect(lambda: self._set("switch the pad", off=not pad.off))
        row.addWidget(off)
        gone = QPushButton("Remove the pad")
        gone.clicked.connect(self.removed)
        row.addWidget(gone)
        return row

    # -- changing it ---------------------------------------------------------------------------

    def _set(self, why: str, **changes: object) -> None:
        made = replace(self.pad, **changes)
        if made != self.pad:
            self.changed.emit(made, why)

    def _set_message(self) -> None:
        text = self.message.text().strip()
        if text and not text.startswith("/"):
            text = f"/{text}"
        self._set("the pad's message", message=text or None)

    def _put(self, number: int, deed: Deed | None) -> None:
        does = [*self.pad.does]
        does[number : number + 1] = [] if deed is None else [deed]
        self._set("what the pad does", does=tuple(does))

    def _add(self, deed: Deed) -> None:
        self._set("what the pad does", does=(*self.pad.does, deed))

    def _watch(self, value: str) -> None:
        if not value:
            self._set("what the pad watches", watch=None)
            return
        made = self.project.value(value)
        middle = (made.low + made.high) / 2
        self._set("what the pad watches", watch=Watch(value=value, enters=(middle, made.high)))

    def _watch_ends(self) -> None:
        assert self.pad.watch is not None
        try:
            low, high = (read(field.text()) for field in self.ends)
        except ValueError:
            return
        if low < high:
            self._set("what the pad watches", watch=replace(self.pad.watch, enters=(low, high)))
