"""Recording, beside the card: the input and its level, how a take begins, where it will stand."""

from math import ceil

from PySide6.QtCore import Qt
from PySide6.QtGui import QHideEvent, QShowEvent
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
    QWidget,
)
from typing_extensions import override

from cicada.core.model import Sound, all_takes
from cicada.core.shelf_edits import UseTake
from cicada.playback.input import InputDevice
from cicada.store.sounds_folder import sound_file
from cicada.window.drawing import theme
from cicada.window.playing.listening import Listening
from cicada.window.recording.levels import InputLevel
from cicada.window.recording.recording import Recording
from cicada.window.state.conditions import Conditions
from cicada.window.state.session import Session
from cicada.window.widgets.asking import Asking
from cicada.window.widgets.rows import scrolled, soft
from cicada.window.words.recording import (
    clock_text,
    column_choices,
    count_in_choices,
    lands_text,
    room_text,
    way_text,
)

_FILE = "A sound file, as if it were a microphone…"
NO_INPUT = "No input is found. Connect a microphone, or let a sound file play as if it were one."
HEADPHONES = " Use headphones, or the film is recorded, too."


class RecordPanel(QFrame):
    """Shows what ``Recording`` has; the input is open only while it is seen."""

    def __init__(
        self,
        session: Session,
        conditions: Conditions,
        recording: Recording,
        listening: Listening,
        asking: Asking,
    ) -> None:
        super().__init__()
        self.setObjectName("card")
        self._session, self._conditions = session, conditions
        self._recording, self._listening, self._asking = recording, listening, asking
        column = QVBoxLayout(self)
        column.setContentsMargins(12, 10, 10, 8)
        column.setSpacing(6)
        column.addLayout(self._head())
        inside = QWidget()
        below = QVBoxLayout(inside)
        below.setContentsMargins(0, 0, 6, 0)
        below.setSpacing(6)
        below.addWidget(self._takes())
        for row in (self._input_row(), self._level_row(), self._way_row(), self._options_row()):
            below.addLayout(row)
        self.lands = self._wrapped("")
        below.addWidget(self.lands)
        below.addStretch(1)
        column.addWidget(scrolled(inside), 1)
        recording.changed.connect(self.refresh)
        recording.moved.connect(self._follow)
        session.playhead_moved.connect(self._show_place)
        session.cell_changed.connect(self._show_place)
        session.scene_changed.connect(self._show_place)
        conditions.range_changed.connect(self.refresh)
        session.document.changed.connect(self.refresh)
        listening.changed.connect(self._show_takes)
        self.refresh()

    # -- building ------------------------------------------------------------------------------

    @staticmethod
    def _wrapped(text: str) -> QLabel:
        label = soft(text)
        label.setWordWrap(True)
        return label

    def _head(self) -> QHBoxLayout:
        row = QHBoxLayout()
        row.setSpacing(8)
        title = QLabel("Record")
        title.setFont(theme.font(13, 600))
        row.addWidget(title)
        self.clock = QLabel()
        self.clock.setFont(theme.font(15, 600))
        self.clock.setAccessibleName("Recorded so far")
        row.addWidget(self.clock)
        self.room = soft("")
        row.addWidget(self.room)
        row.addStretch(1)
        self.button = QPushButton()
        self.button.setObjectName("main")
        self.button.setFixedWidth(132)
        self.button.setToolTip("Count in and record; again, or Space or Esc: end it")
        self.button.clicked.connect(self._recording.toggle)
        row.addWidget(self.button)
        return row

    def _input_row(self) -> QHBoxLayout:
        row = QHBoxLayout()
        row.setSpacing(6)
        self.inputs = QComboBox()
        self.inputs.setAccessibleName("Input")
        self.inputs.setToolTip(
            "What is recorded from; those marked “plays” are what an output plays"
        )
        self.inputs.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Fixed)
        self.inputs.activated.connect(self._choose_input)
        row.addWidget(self.inputs, 1)
        self.channels = QComboBox()
        self.channels.setAccessibleName("Channels")
        self.channels.activated.connect(self._choose_channels)
        self.channels.setSizeAdjustPolicy(QComboBox.SizeAdjustPolicy.AdjustToContents)
        row.addWidget(self.channels)
        return row

    def _level_row(self) -> QHBoxLayout:
        row = QHBoxLayout()
        row.setSpacing(8)
        self.level = InputLevel()
        row.addWidget(self.level, 1)
        self.forget = QPushButton("Forget")
        self.forget.setObjectName("quiet")
        self.forget.setToolTip("Hold the highest level, and clipping, from now on")
        self.forget.clicked.connect(self._recording.forget_peaks)
        row.addWidget(self.forget, 0, Qt.AlignmentFlag.AlignBottom)
        return row

    def _way_row(self) -> QHBoxLayout:
        row = QHBoxLayout()
        row.setSpacing(6)
        self.way = self._wrapped("")
        self.way.setToolTip(
            "How late what is heard comes in; takes are put where they belong by it"
        )
        row.addWidget(self.way, 1)
        self.measure = QPushButton("Measure…")
        self.measure.setToolTip(
            "Lead the output back into the input (a cable, or the microphone before the speaker): "
            "a short noise is played and found again, and takes then lie to the sample"
        )
        self.measure.clicked.connect(self._recording.measure)
        row.addWidget(self.measure)
        return row

    def _options_row(self) -> QVBoxLayout:
        column = QVBoxLayout()
        column.setSpacing(4)
        row = QHBoxLayout()
        row.setSpacing(8)
        self.film = QCheckBox("play the film")
        self.film.setToolTip("The film is played from the playhead while it is recorded")
        self.film.clicked.connect(lambda on: self._recording.set_option("film", _text(on)))
        self.heard = QCheckBox("heard")
        self.heard.setToolTip("What the film plays is heard, or it is played in silence")
        self.heard.clicked.connect(lambda on: self._recording.set_option("heard", _text(on)))
        self.rounds = QCheckBox("the range in rounds")
        self.rounds.setToolTip("Each round of the marked range is a take; the first is the sound")
        self.rounds.clicked.connect(lambda on: self._recording.go_in_rounds(on=on))
        for box in (self.film, self.heard, self.rounds):
            row.addWidget(box)
        row.addStretch(1)
        column.addLayout(row)
        row = QHBoxLayout()
        row.setSpacing(6)
        self.counting = QComboBox()
        self.counting.setAccessibleName("Count-in")
        self.counting.setToolTip("Clicks before it begins")
        self.counting.activated.connect(
            lambda index: self._recording.set_option("count_in", self.counting.itemData(index))
        )
        row.addWidget(self.counting)
        row.addWidget(soft("called"))
        self.name = QLineEdit()
        self.name.setAccessibleName("Name of the take")
        self.name.setPlaceholderText("as its layer")
        self.name.textEdited.connect(self._recording.call)
        row.addWidget(self.name, 1)
        column.addLayout(row)
        return column

    def _takes(self) -> QWidget:
        self.taken = QWidget()
        column = QVBoxLayout(self.taken)
        column.setContentsMargins(0, 2, 0, 0)
        column.setSpacing(3)
        self.trim = QPushButton()
        self.trim.setToolTip("What is left stays where it is; the file keeps all of it")
        self.trim.clicked.connect(self._recording.trim)
        column.addWidget(self.trim, 0, Qt.AlignmentFlag.AlignLeft)
        self._take_rows = QVBoxLayout()
        self._take_rows.setSpacing(2)
        column.addLayout(self._take_rows)
        self._listed: tuple[object, ...] = ()
        return self.taken

    # -- showing -------------------------------------------------------------------------------

    @override
    def showEvent(self, event: QShowEvent) -> None:
        super().showEvent(event)
        self._recording.at_hand(shown=True)
        self.refresh()

    @override
    def hideEvent(self, event: QHideEvent) -> None:
        super().hideEvent(event)
        self._recording.at_hand(shown=False)

    def refresh(self) -> None:
        """Show what is set and known, if anybody can see it."""
        if not self.isVisible():
            return
        recording = self._recording
        self._show_inputs()
        self.film.setChecked(recording.plays_film)
        self.film.setEnabled(not recording.busy)
        self.heard.setChecked(recording.heard)
        self.heard.setEnabled(recording.plays_film and not recording.busy)
        ranged = recording.plays_film and self._conditions.range is not None
        self.rounds.setEnabled(ranged and not recording.busy)
        self.rounds.setChecked(recording.in_rounds)
        self._show_counting()
        self.measure.setEnabled(recording.state == "open")
        self._show_place()
        self._show_takes()
        self._follow()

    def _show_inputs(self) -> None:
        recording, device = self._recording, self._recording.input.device
        listed: list[InputDevice] = list(recording.input.inputs)
        if device is not None and all(each.name != device.name for each in listed):
            listed.append(device)
        self.inputs.clear()
        for each in listed:
            self.inputs.addItem(f"plays: {each.title}" if each.loop else each.title, each)
        self.inputs.addItem(_FILE, None)
        names = [each.name for each in listed]
        chosen = names.index(device.name) if device is not None else -1
        self.inputs.setCurrentIndex(chosen)
        if chosen < 0:
            self.inputs.setPlaceholderText("Choose an input")
        self.inputs.setEnabled(not recording.busy)
        choices = column_choices(device.channels) if device is not None else []
        self.channels.clear()
        for words, columns in choices:
            self.channels.addItem(words, columns)
        known = [columns for _, columns in choices]
        if recording.input.columns in known:
            self.channels.setCurrentIndex(known.index(recording.input.columns))
        self.channels.setVisible(len(choices) > 1)
        self.channels.setEnabled(not recording.busy)

    def _show_counting(self) -> None:
        choices = count_in_choices(self._recording.tempo)
        self.counting.clear()
        for chosen, words in choices:
            self.counting.addItem(words, chosen)
        values = [chosen for chosen, _ in choices]
        wanted = self._recording.counting
        self.counting.setCurrentIndex(values.index(wanted) if wanted in values else 0)
        self.counting.setEnabled(not self._recording.busy)

    def _show_place(self) -> None:
        if not self.isVisible():
            return
        recording, project = self._recording, self._session.document.project
        cell = recording.target
        names = {layer.id: layer.label for layer in self._session.scene.layers}
        words = lands_text(
            project, names.get(cell.layer, ""), cell.frame,
            locked=recording.plays_film, obstacle=recording.obstacle,
        )  # fmt: skip
        if recording.plays_film and recording.heard:
            words += HEADPHONES
        if not recording.input.inputs and recording.input.device is None:
            words = NO_INPUT
        trouble = recording.input.trouble
        self.lands.setText(trouble or words)
        self.lands.setObjectName("wrong" if trouble else "soft")
        self.lands.style().polish(self.lands)

    def _follow(self) -> None:
        """Show what changes from moment to moment."""
        if not self.isVisible():
            return
        recording, standing = self._recording, self._recording.input.standing
        live = standing is not None and standing.rate > 0
        self.level.show_standing(standing if live else None, len(recording.input.columns))
        self.forget.setVisible(live and standing is not None and standing.held > 0)
        busy = recording.state in ("asked", "recording")
        self.button.setText("Stop recording" if busy else "Record")
        self.button.setEnabled(recording.state in ("open", "asked", "recording"))
        words = ""
        if recording.state == "recording" and standing is not None and live:
            counts = recording.counts
            words = f"in {ceil(counts)} …" if counts else clock_text(recording.recorded)
        elif recording.state == "landing":
            words = "bringing it in…"
        self.clock.setText(words)
        self.room.setText(
            room_text(standing.room, standing.rate, len(recording.input.columns))
            if standing is not None and live
            else ""
        )
        self._show_way()

    def _show_way(self) -> None:
        recording, standing = self._recording, self._recording.input.standing
        if recording.state == "measuring":
            self.way.setText("Listening for the test sound…")
            return
        if standing is None or not standing.rate:
            self.way.setText("")
            return
        way, lined = recording.way, recording.lining_up
        self.way.setText(way_text(lined.way(), exact=lined.exact, remembered=way.remembered))

    def _sound(self) -> Sound | None:
        landed = self._recording.landed
        if landed is None:
            return None
        sounds = self._session.document.project.sounds
        return next((each for each in sounds if each.id == landed.sound), None)

    def _show_takes(self) -> None:
        """The take that came in last, with the others of its rounds."""
        if not self.isVisible():
            return
        sound, landed = self._sound(), self._recording.landed
        self.taken.setVisible(sound is not None)
        if sound is None or landed is None:
            return
        ends = [f"{seconds:.1f} s {where}" for seconds, where in
                ((landed.head, "before"), (landed.tail, "after")) if seconds]  # fmt: skip
        self.trim.setVisible(bool(ends) and landed.cell is not None)
        self.trim.setText(f"Trim the silence: {' and '.join(ends)}")
        heard = self._listening.what
        listed = (sound.id, sound.file, tuple(take.file for take in sound.takes), heard)
        if listed == self._listed:
            return
        self._listed = listed
        while (item := self._take_rows.takeAt(0)) is not None:
            widget = item.widget()
            if widget is not None:
                widget.hide()
                widget.deleteLater()
        for number, take in enumerate(all_takes(sound)):
            self._take_rows.addWidget(self._take_row(sound, number, take.frames / take.rate))

    def _take_row(self, sound: Sound, number: int, seconds: float) -> QWidget:
        take = all_takes(sound)[number]
        row = QWidget()
        line = QHBoxLayout(row)
        line.setContentsMargins(0, 0, 0, 0)
        line.setSpacing(6)
        path = sound_file(take, self._session.document.file)
        listen = QPushButton("Stop" if path == self._listening.what else "Listen")
        listen.setFixedWidth(72)
        if path is not None:
            listen.clicked.connect(lambda: self._listening.toggle(path))
        line.addWidget(listen)
        name = f"{sound.label}, in use" if not number else take.name
        line.addWidget(soft(f"{name}, {seconds:.1f} s"), 1)
        if number:
            use = QPushButton("Use this one")
            use.clicked.connect(
                lambda: self._session.document.do(UseTake(sound=sound.id, index=number - 1))
            )
            line.addWidget(use)
        return row

    # -- choosing ------------------------------------------------------------------------------

    def _choose_input(self, index: int) -> None:
        device = self.inputs.itemData(index)
        if device is not None:
            self._recording.input.choose(InputDevice(*device))
            return
        path = self._asking.file_to_open("A sound file instead of a microphone")
        if path is not None:
            self._recording.choose_file(path)
        self.refresh()

    def _choose_channels(self, index: int) -> None:
        device = self._recording.input.device
        if device is not None:
            self._recording.input.choose(device, tuple(self.channels.itemData(index)))


def _text(on: bool) -> str:  # noqa: FBT001 - a signal says it so
    return "true" if on else "false"
