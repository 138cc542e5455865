"""The pads beside the card: pressed, set, and added; the film's values with a slider each."""

from PySide6.QtCore import Qt
from PySide6.QtGui import QHideEvent, QShowEvent
from PySide6.QtWidgets import (
    QFrame,
    QHBoxLayout,
    QLabel,
    QPushButton,
    QSlider,
    QVBoxLayout,
    QWidget,
)
from typing_extensions import override

from cicada.core.answer_edits import PutPad, PutValue, RemovePad, RemoveValue
from cicada.core.answers import Fire, Pad, Value
from cicada.core.coverage import watch_coverage
from cicada.core.editing import Edit
from cicada.core.kept_runs import inputs_of
from cicada.core.naming import free_id, free_name
from cicada.core.pressed import pad_of
from cicada.errors import BadEdit
from cicada.window.drawing import theme
from cicada.window.playing.kept import KeptRow
from cicada.window.playing.pad_row import PadRow
from cicada.window.playing.pads import Pads
from cicada.window.playing.value_row import ValueRow
from cicada.window.playing.zones import Zones
from cicada.window.state.conditions import Conditions
from cicada.window.state.notices import Notices
from cicada.window.state.session import Session
from cicada.window.widgets.rows import scrolled, soft
from cicada.window.words.quantities import begun, count

# Keys that lie under the fingers, given to pads in this order.
KEYS = "asdfghjkl"
NOTHING = (
    "No pad yet. A pad fires, silences or moves something\nas it is pressed while the film plays."
)


class PadsPanel(QFrame):
    """All pads and values of the film."""

    def __init__(
        self,
        session: Session,
        conditions: Conditions,
        pads: Pads,
        zones: Zones,
        kept: KeptRow,
        notices: Notices,
    ) -> None:
        super().__init__()
        self.setObjectName("card")
        self._session, self._pads, self._notices = session, pads, notices
        self._conditions, self._zones = conditions, zones
        # The pad whose settings are seen, and the value whose watches are.
        self._open, self._watched = "", ""
        self.rows: dict[str, PadRow] = {}
        self.sliders: dict[str, QSlider] = {}
        column = QVBoxLayout(self)
        column.setContentsMargins(12, 10, 10, 8)
        column.setSpacing(6)
        column.addLayout(self._head())
        self.delay = soft("")
        self.delay.hide()
        column.addWidget(self.delay)
        inside = QWidget()
        self._column = QVBoxLayout(inside)
        self._column.setContentsMargins(0, 0, 6, 0)
        self._column.setSpacing(2)
        column.addWidget(scrolled(inside), 1)
        self.kept = kept
        column.addWidget(self.kept)
        session.document.changed.connect(self.refresh)
        conditions.drawing_changed.connect(self.refresh)
        pads.changed.connect(self._show_played)
        pads.more_ready.connect(self.refresh)
        pads.pressed.connect(self._light)
        pads.heard.connect(self._show_delay)
        self.refresh()

    def _head(self) -> QHBoxLayout:
        row = QHBoxLayout()
        title = QLabel("Pads")
        title.setFont(theme.font(13, 600))
        row.addWidget(title)
        row.addStretch(1)
        self.play = QPushButton("Play the pads")
        self.play.setCheckable(True)
        self.play.setToolTip("Keys go to the pads until Esc; what is pressed in a run is kept")
        self.play.clicked.connect(lambda on: self._pads.play(on=on))
        self.add = QPushButton("Add a pad")
        self.add.setToolTip("A pad for what is chosen on the shelf")
        self.add.clicked.connect(self.add_pad)
        self.add_number = QPushButton("Add a value")
        self.add_number.setToolTip("A number that blends, pools and levels follow")
        self.add_number.clicked.connect(self.add_value)
        for button in (self.play, self.add, self.add_number):
            row.addWidget(button)
        return row

    # -- showing -------------------------------------------------------------------------------

    @override
    def showEvent(self, event: QShowEvent) -> None:
        super().showEvent(event)
        self._pads.at_hand(shown=True)
        self.refresh()

    @override
    def hideEvent(self, event: QHideEvent) -> None:
        super().hideEvent(event)
        self._pads.at_hand(shown=False)

    def _show_delay(self) -> None:
        self.delay.setText(self._pads.delay)
        self.delay.setVisible(bool(self._pads.delay))

    def refresh(self) -> None:
        """Show the pads and values as they are now, if anybody can see them."""
        if not self.isVisible():
            return
        project = self._session.document.project
        while (item := self._column.takeAt(0)) is not None:
            widget = item.widget()
            if widget is not None:
                # It is freed later, and must not be seen until then.
                widget.hide()
                widget.deleteLater()
        self.rows.clear()
        self.sliders.clear()
        if not project.pads and not project.values:
            empty = soft(NOTHING)
            empty.setAlignment(Qt.AlignmentFlag.AlignCenter)
            self._column.addWidget(empty)
        late = self._pads.not_ready()
        for pad in project.pads:
            self._add_row(pad, late.get(pad.id, []))
        for value in project.values:
            self._column.addWidget(self._value_row(value))
        self._column.addStretch(1)
        self._show_played()

    def _add_row(self, pad: Pad, late: list[str]) -> None:
        project = self._session.document.project
        row = PadRow(project, pad, late, is_open=pad.id == self._open)
        row.zone_wanted.connect(lambda: self._zones.draw(pad.id))
        row.pressed.connect(lambda: self._pads.press(pad.id))
        row.changed.connect(lambda made, why: self._do(PutPad(pad=made, named=why)))
        row.opened.connect(lambda: self._open_row(pad.id))
        row.removed.connect(lambda: self._remove(pad))
        self.rows[pad.id] = row
        self._column.addWidget(row)

    def _value_row(self, value: Value) -> ValueRow:
        project, pads = self._session.document.project, self._pads
        number = pads.numbers.get(value.id, value.begins)
        row = ValueRow(value, number, is_drawn=self._conditions.drawn_value == value.id)
        row.moved.connect(lambda at: pads.move(value.id, at))
        row.changed.connect(lambda made, why: self._do(PutValue(value=made, named=why)))
        row.drawn.connect(lambda on: self._conditions.draw_value(value.id if on else ""))
        row.let_go.connect(lambda: pads.let_go(value.id))
        row.removed.connect(lambda: self._remove_value(value))
        if any(pad.watch is not None and pad.watch.value == value.id for pad in project.pads):
            names, is_open = [pad.label for pad in project.pads], value.id == self._watched
            row.show_watches(watch_coverage(project, value.id), names, is_open=is_open)
            row.watched.clicked.connect(lambda on: self._keep_open(value.id if on else ""))
        self.sliders[value.id] = row.slider
        return row

    def _keep_open(self, value: str) -> None:
        self._watched = value

    def _open_row(self, pad: str) -> None:
        self._open = "" if self._open == pad else pad
        self.refresh()

    def _show_played(self) -> None:
        played = self._pads.played
        self.play.setChecked(played)
        self.play.setText("Pads are played: Esc ends it" if played else "Play the pads")

    def _light(self, pad: str) -> None:
        if pad in self.rows:
            self.rows[pad].light()

    # -- changing ------------------------------------------------------------------------------

    def _do(self, edit: Edit) -> bool:
        try:
            return self._session.document.do(edit)
        except BadEdit as error:
            self._notices.say(str(error))
            self.refresh()
            return False

    def add_pad(self) -> None:
        """Add a pad that fires what is chosen on the shelf, or whatever is first there."""
        project = self._session.document.project
        sound = self._session.sound
        made = next((x for x in project.all_placeables() if x.id == sound), None)
        names, keys = {pad.label for pad in project.pads}, {pad.key for pad in project.pads}
        pad = Pad(
            id=free_id("p", project),
            name=free_name(made.label if made else "Pad", names),
            key=next((key for key in KEYS if key not in keys), None),
            does=(Fire(sound=made.id),) if made else (),
        )
        self._open = pad.id
        self._do(PutPad(pad=pad))

    def add_value(self) -> None:
        """Add a value from 0 to 1."""
        project = self._session.document.project
        name = free_name("Value", {value.label for value in project.values})
        self._do(PutValue(value=Value(id=free_id("v", project), name=name)))

    def make_pad(self) -> None:
        """Make a pad of the keyframes that are chosen on the sheet."""
        project, cells = self._session.document.project, self._session.cells()
        try:
            edit, left_out = pad_of(project, self._session.scene, cells)
        except BadEdit as error:
            self._notices.say(begun(str(error)))
            return
        if self._do(edit):
            self._open = self._session.document.project.pads[-1].id
            words = "The pad does what was chosen"
            if left_out:
                words += f", but for {count(left_out, 'keyframe')} that a pad cannot do"
            self._notices.say(f"{words}.")

    def _say_gone(self, number: int) -> None:
        if number:
            self._notices.say(f"{number} kept in runs went with it; Ctrl+Z brings all back.")

    def _remove(self, pad: Pad) -> None:
        number = inputs_of(self._session.document.project, {pad.id})
        if self._do(RemovePad(pad=pad.id)):
            self._say_gone(number)

    def _remove_value(self, value: Value) -> None:
        number = inputs_of(self._session.document.project, {value.id})
        if self._do(RemoveValue(value=value.id)):
            self._say_gone(number)
