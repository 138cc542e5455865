"""All that is known of the chosen sounds, and where it is changed."""

from math import log10
from pathlib import Path

from PySide6.QtCore import Qt, Signal
from PySide6.QtGui import QResizeEvent, QShowEvent
from PySide6.QtWidgets import (
    QComboBox,
    QFrame,
    QGridLayout,
    QHBoxLayout,
    QLabel,
    QLineEdit,
    QPushButton,
    QSizePolicy,
    QVBoxLayout,
    QWidget,
)
from typing_extensions import override

from cicada.core.editing import Value
from cicada.core.model import Sound
from cicada.core.naming import code_name, is_code_name
from cicada.core.shelf_edits import ChangeSounds
from cicada.core.timebase import resampled_length
from cicada.disk.why import size_text
from cicada.media.measures import Measures
from cicada.window.drawing import theme
from cicada.window.playing.listening import Listening
from cicada.window.shelf.shelf_list import facts
from cicada.window.shelf.shelf_search import Uses
from cicada.window.shelf.sound_files import SoundFiles
from cicada.window.state.measuring import Measuring
from cicada.window.state.presence import Presence
from cicada.window.state.session import Session
from cicada.window.state.sounds import Sounds
from cicada.window.widgets.seek_track import SeekTrack
from cicada.window.words.quantities import count

MIXED = "various"


def loudness_words(measures: Measures | None) -> str:
    """Peak and loudness."""
    if measures is None:
        return "being measured…"
    if not measures.peak:
        return "silent"
    peak = f"peak {20 * log10(measures.peak):+.1f} dB".replace("-", "−")
    if measures.loudness is not None:
        loud = f", {measures.loudness:.1f} LUFS"
    else:
        loud = f", too {'quiet' if measures.heard is None else 'short'} to measure in LUFS"
    return peak + loud.replace("-", "−")


def ends_words(measures: Measures | None) -> str:
    """Silence at head and tail, and whether the two would join in a loop."""
    if measures is None:
        return "being measured…"
    seam = measures.seam
    if seam.clean:
        loop = "loops cleanly"
    elif seam.clicks:
        loop = f"clicks if looped, by {seam.jump:.0%}"
    else:
        which = "louder" if seam.step > 0 else "quieter"
        loop = f"a loop jumps {abs(seam.step):.0f} dB {which}"
    head, tail = (
        f"{value:.2f} s" if value >= 0.005 else "" for value in (measures.head, measures.tail)
    )
    silent = [f"{head} of silence at its head"] if head else []
    silent += [f"{tail} at its end" if head else f"{tail} of silence at its end"] if tail else []
    return f"{', '.join(silent) or 'no silence'}; {loop}"


class SoundDetails(QFrame):
    """One sound with its waveform, or several at once; what differs is shown as various."""

    keep_wanted = Signal()
    used_wanted = Signal()
    replace_wanted = Signal()
    copy_wanted = Signal()
    take_changed_wanted = Signal()
    take_wanted = Signal(int)
    other_take_wanted = Signal()
    making_wanted = Signal()

    def __init__(
        self,
        session: Session,
        sounds: Sounds,
        presence: Presence,
        measuring: Measuring,
        listening: Listening,
        files: SoundFiles,
    ) -> None:
        super().__init__()
        self._files = files
        self._session, self._sounds, self._presence = session, sounds, presence
        self._measuring, self._listening = measuring, listening
        self._uses = Uses()
        self._ids: tuple[str, ...] = ()
        column = QVBoxLayout(self)
        column.setContentsMargins(4, 0, 8, 2)
        column.setSpacing(6)
        column.addLayout(self._head())
        self.track = SeekTrack(56)
        self.track.setToolTip("Click to hear it from there; the grey ends are silent")
        self.track.sought.connect(self._seek)
        column.addWidget(self.track)
        self._grid = QGridLayout()
        self._grid.setHorizontalSpacing(8)
        self._grid.setVerticalSpacing(3)
        self._grid.setColumnStretch(1, 3)
        self._grid.setColumnStretch(2, 3)
        self._grid.setColumnStretch(4, 9)
        column.addLayout(self._grid)
        self._fields()
        self._facts()
        column.addStretch(1)
        session.document.changed.connect(self.refresh)
        presence.changed.connect(self.refresh)
        measuring.changed.connect(self.refresh)
        sounds.changed.connect(self.refresh)
        files.sources_changed.connect(self.refresh)
        listening.changed.connect(self._show_position)
        self.refresh()

    # -- building ------------------------------------------------------------------------------

    def _head(self) -> QHBoxLayout:
        row = QHBoxLayout()
        row.setSpacing(6)
        self.title = QLabel()
        self.title.setFont(theme.font(14, 600))
        self.title.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Preferred)
        row.addWidget(self.title, 1)
        self.used = self._button("Show where used", "Choose its clips on the sheet", row)
        self.used.clicked.connect(self.used_wanted)
        self.replace = self._button(
            "Replace everywhere…", "Let all its clips be of another sound", row
        )
        self.replace.clicked.connect(self.replace_wanted)
        self.copy = self._button(
            "Work on a copy…",
            "Open a copy with the program the desktop has for it; saved there, it can be taken "
            "back as a take",
            row,
        )
        self.copy.clicked.connect(self.copy_wanted)
        return row

    def _button(self, text: str, tip: str, row: QHBoxLayout) -> QPushButton:
        button = QPushButton(text)
        button.setToolTip(tip)
        button.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        row.addWidget(button)
        return button

    def _label(self, text: str, row: int, column: int) -> None:
        label = QLabel(text)
        label.setObjectName("soft")
        self._grid.addWidget(label, row, column)

    def _fields(self) -> None:
        self.fields: dict[str, QLineEdit] = {}
        for row, column, name, text, tip in (
            (0, 1, "name", "name", "What it is called here; its name in code stays"),
            (1, 1, "code_name", "in code", "Its name in player code, which only you change"),
            (2, 1, "folder", "folder", "The folder of the shelf it is in"),
            (2, 2, "tags", "tags", "Words to find it by, with commas between them"),
            (3, 1, "terms", "terms", "What may be done with it, and who made it"),
            (4, 1, "note", "note", "Anything worth knowing"),
        ):
            field = QLineEdit()
            field.setAccessibleName(text)
            field.setToolTip(tip)
            field.editingFinished.connect(lambda name=name: self._entered(name))
            self.fields[name] = field
            if column == 1:
                self._label(text, row, 0)
            self._grid.addWidget(field, row, column, 1, 1 if row == 2 else 2)

    def _facts(self) -> None:
        self.facts: dict[str, QLabel] = {}
        for row, name in enumerate(("length", "kind", "level", "ends", "kept")):
            self._label(name, row, 3)
            value = QLabel()
            value.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Preferred)
            value.setTextInteractionFlags(Qt.TextInteractionFlag.TextSelectableByMouse)
            self.facts[name] = value
            self._grid.addWidget(value, row, 4)
        self.keep = QPushButton()
        self.keep.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self.keep.clicked.connect(self.keep_wanted)
        self._grid.addWidget(self.keep, 4, 5)
        self.takes = QComboBox()
        self.takes.setAccessibleName("Take")
        self.takes.setToolTip("Which take of it sounds; clips keep their trims")
        self.takes.activated.connect(self._take_chosen)
        self._grid.addWidget(self.takes, 0, 5)
        self.fresh = QPushButton("Take it as it is now")
        self.fresh.setToolTip("Its source has changed on disk: use it as a new take")
        self.fresh.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self.fresh.clicked.connect(self.take_changed_wanted)
        self._grid.addWidget(self.fresh, 1, 5)
        self.making = QPushButton("How it is made…")
        self.making.setToolTip("It was made here, and can be made otherwise (Ctrl+Alt+5)")
        self.making.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self.making.clicked.connect(self.making_wanted)
        self._grid.addWidget(self.making, 2, 5)
        self._grid.setColumnMinimumWidth(5, 150)

    @override
    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self.refresh()

    @override
    def showEvent(self, event: QShowEvent) -> None:
        super().showEvent(event)
        self.refresh()

    # -- showing -------------------------------------------------------------------------------

    def show_sounds(self, ids: tuple[str, ...]) -> None:
        """Show these sounds."""
        if ids != self._ids:
            self._ids = ids
            self.refresh()

    def chosen(self) -> list[Sound]:
        """The sounds shown, as they are now."""
        wanted = frozenset(self._ids)
        return [s for s in self._session.document.project.sounds if s.id in wanted]

    def refresh(self) -> None:
        """Show what is known now, if anybody can see it."""
        if self.isHidden():
            return
        sounds = self.chosen()
        for part in self.findChildren(QWidget):
            part.setEnabled(bool(sounds))
        one = sounds[0] if len(sounds) == 1 else None
        if one is None:
            self.title.setText(f"{len(sounds)} sounds" if sounds else "Choose a sound")
        else:
            self.title.setText(one.label)
        for name, field in self.fields.items():
            self._fill(name, field, sounds)
        for name in ("name", "code_name"):
            self.fields[name].setEnabled(one is not None)
        self._show_facts(sounds)
        self._show_track(one)
        self._show_buttons(sounds, one)

    def _fill(self, name: str, field: QLineEdit, sounds: list[Sound]) -> None:
        if field.hasFocus() and field.isModified():
            return
        values = {self._text(name, sound) for sound in sounds}
        field.setText(values.pop() if len(values) == 1 else "")
        hint = "tags" if name == "tags" else ""
        field.setPlaceholderText(MIXED if values and len(sounds) > 1 else hint)
        field.setModified(False)
        field.setCursorPosition(0)

    def _text(self, name: str, sound: Sound) -> str:
        return ", ".join(sound.tags) if name == "tags" else str(getattr(sound, name))

    def _show_facts(self, sounds: list[Sound]) -> None:
        project = self._session.document.project
        base = project.timebase
        seconds = sum(sound.frames / sound.rate for sound in sounds)
        samples = sum(resampled_length(x.frames, x.rate, project.rate) for x in sounds)
        uses = self._uses.of(project)
        used = sum(uses[sound.id] for sound in sounds)
        frames = count(base.frame_from(samples), "frame")
        self._say("length", f"{seconds:.3f} s, {frames}; {count(used, 'use')}")
        names = {
            "kind": {facts(sound, self._session.document.project) for sound in sounds},
            "level": {loudness_words(self._measuring.of(sound)) for sound in sounds},
            "ends": {ends_words(self._measuring.of(sound)) for sound in sounds},
            "kept": {self._kept_words(sound, one=len(sounds) == 1) for sound in sounds},
        }
        for name, values in names.items():
            self._say(name, values.pop() if len(values) == 1 else (MIXED if values else ""))

    def _say(self, name: str, text: str) -> None:
        label = self.facts[name]
        room = max(60, label.width())
        label.setText(label.fontMetrics().elidedText(text, Qt.TextElideMode.ElideRight, room))
        label.setToolTip(text)

    def _kept_words(self, sound: Sound, *, one: bool) -> str:
        if not one:
            return "linked" if sound.kept == "linked" else "inside the project"
        if sound.making is not None and not sound.file:
            return "made here; a file of it is kept inside when the project is saved"
        path = self._presence.standing.files.get(sound.id)
        if sound.id in self._presence.missing or path is None:
            return f"missing; it came from {sound.origin or 'nobody knows where'}"
        try:
            size = size_text(path.stat().st_size)
        except OSError:
            size = "size unknown"
        known = Path(sound.origin).is_absolute()
        origin = f"; {'from ' if known else ''}{sound.origin}" if sound.origin else ""
        if sound.kept == "linked":
            return f"linked at {path}, {size}"
        return f"inside the project, {size}{origin}"

    def _show_track(self, one: Sound | None) -> None:
        peaks = None if one is None else self._sounds.peaks(one.id)
        measures = None if one is None else self._measuring.of(one)
        quiet = (0.0, 0.0)
        marks: tuple[float, ...] = ()
        if one is not None and one.frames:
            seconds = one.frames / one.rate
            marks = tuple(hit / seconds for hit in one.hits if hit <= seconds)
            if measures is not None:
                quiet = (measures.head / seconds, measures.tail / seconds)
        self.track.show_peaks(peaks, quiet, marks)
        self._show_position()

    def _show_position(self) -> None:
        listening = self._listening
        shown = len(self._ids) == 1 and listening.what == self._ids[0] and listening.length > 0
        self.track.show_position(listening.position / listening.length if shown else None)

    def _show_buttons(self, sounds: list[Sound], one: Sound | None) -> None:
        uses = self._uses.of(self._session.document.project)
        self.used.setEnabled(any(uses[sound.id] for sound in sounds))
        self.replace.setEnabled(one is not None and uses[one.id] > 0)
        there = one is not None and one.id not in self._presence.missing
        filed = all(sound.making is None or sound.file for sound in sounds)
        self.copy.setEnabled(there and filed)
        self.keep.setEnabled(bool(sounds) and filed)
        linked = bool(sounds) and all(sound.kept == "linked" for sound in sounds)
        self.keep.setText("Keep inside…" if linked else "Link…")
        self.keep.setToolTip(
            "Copy its file into the project"
            if linked
            else "Use the file it came from, where it is, and keep none inside"
        )
        self.making.setVisible(one is not None and one.making is not None)
        self.fresh.setVisible(one is not None and one.id in self._files.changed_sources)
        self.takes.clear()
        if one is not None:
            self.takes.addItem("Take in use")
            for take in one.takes:
                self.takes.addItem(
                    f"{take.name or 'take'}: {take.frames / take.rate:.2f} s, {take.encoding}"
                )
            self.takes.addItem("Another file as a take…")
        self.takes.setVisible(one is not None)

    # -- changing ------------------------------------------------------------------------------

    def _entered(self, name: str) -> None:
        field, sounds = self.fields[name], self.chosen()
        if not field.isModified() or not sounds:
            return
        field.setModified(False)
        text = field.text().strip()
        value: Value = text
        if name == "tags":
            value = tuple(dict.fromkeys(word.strip() for word in text.split(",") if word.strip()))
        elif name == "code_name":
            value = self._free_code_name(text, sounds[0])
        elif name == "name" and not text:
            self.refresh()
            return
        ids = tuple(sound.id for sound in sounds)
        self._session.document.do(ChangeSounds(sounds=ids, changes={name: value}))
        self.refresh()

    def _free_code_name(self, text: str, sound: Sound) -> str:
        """What was typed if player code can hold it and nobody else has it; else the nearest."""
        others = {
            other.code_name
            for other in self._session.document.project.sounds
            if other.id != sound.id
        }
        if is_code_name(text) and text not in others:
            return text
        return code_name(text or sound.name, others)

    def _take_chosen(self, index: int) -> None:
        if index == self.takes.count() - 1:
            self.other_take_wanted.emit()
        elif index:
            self.take_wanted.emit(index - 1)
        self.refresh()

    def _seek(self, share: float) -> None:
        if len(self._ids) == 1:
            length = self._session.document.project.sound(self._ids[0])
            self._listening.listen(self._ids[0], share * length.frames / length.rate)
