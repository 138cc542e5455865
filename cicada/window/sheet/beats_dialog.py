"""Tempo and beats of a scene: typed, tapped or found in a sound, and held against the frames."""

import time
from collections.abc import Callable
from functools import partial

from msgspec.structs import replace
from PySide6.QtCore import Qt, QTimer
from PySide6.QtGui import QKeySequence, QShortcut
from PySide6.QtWidgets import (
    QDialog,
    QGridLayout,
    QHBoxLayout,
    QLabel,
    QListWidget,
    QListWidgetItem,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from cicada.core.frame_rate import keep_seconds
from cicada.core.lengths import length_of
from cicada.core.model import Clip, Project, Tempo
from cicada.core.scene_edits import PutTempo
from cicada.core.shaping import Clock, Shaping
from cicada.core.tapping import recent, tapped
from cicada.core.tempos import (
    Suited,
    between_frames,
    farthest_off,
    suited_rates,
    suited_tempos,
)
from cicada.core.timebase import seconds_to_samples
from cicada.errors import BadEdit
from cicada.jobs.measuring import find_tempo
from cicada.media.tempo import Found, Tempos
from cicada.window.playing.transport import Transport
from cicada.window.sheet.sheet import Sheet
from cicada.window.state.work import Work
from cicada.window.widgets.fields import QuantityField, whole
from cicada.window.widgets.fields import time as time_kind
from cicada.window.widgets.rows import soft
from cicada.window.words.beats import (
    found_text,
    suited_sentence,
    tapped_text,
    tempo_sentence,
)
from cicada.window.words.numbers import shown
from cicada.window.words.quantities import TimeUnits, parse_bpm, parse_whole

WHAT = Qt.ItemDataRole.UserRole
# The words and key of each button, and what it makes of the tempo.
OTHERS = (
    ("Half", "H", 0.5), ("Double", "D", 2.0), ("Third", "R", 1 / 3), ("Triple", "P", 3.0),
    ("Two thirds", "W", 2 / 3), ("Half more", "A", 1.5),
)  # fmt: skip
# What is offered where the scene has no tempo yet.
USUAL = 96.0


class BeatsDialog(QDialog):
    """``rate_wanted`` is called with a frame rate that would suit the beats."""

    def __init__(
        self,
        parent: QWidget,
        sheet: Sheet,
        transport: Transport,
        work: Work,
        rate_wanted: Callable[[tuple[int, int]], None],
    ) -> None:
        super().__init__(parent)
        self._sheet, self._transport, self._work = sheet, transport, work
        self._session, self._document = sheet.session, sheet.document
        self._rate_wanted = rate_wanted
        self._taps: list[float] = []
        # The beat that is meant, in the scene's own samples, where it was tapped or found.
        self._beat: int | None = None
        self._heard: tuple[Tempos, Clip | None] | None = None
        self._asked = 0
        # A film, and how many things each rate would round in it.
        self._weighed: tuple[Project | None, dict[tuple[int, int], int]] = None, {}
        self.setWindowTitle("Beats")
        self.resize(600, 560)
        column = QVBoxLayout(self)
        column.setContentsMargins(18, 14, 18, 14)
        column.setSpacing(8)
        self.list = QListWidget()
        self.list.setAccessibleName("Tempos of the scene")
        self.list.setMaximumHeight(92)
        self.list.itemSelectionChanged.connect(self._choose)
        column.addWidget(self.list)
        column.addLayout(self._fields())
        column.addLayout(self._finding())
        column.addLayout(self._others())
        self.says = QLabel()
        self.says.setWordWrap(True)
        column.addWidget(self.says)
        column.addWidget(soft("Tempos and frame rates that suit; a double click takes one:"))
        self.suits = QListWidget()
        self.suits.setAccessibleName("Tempos and frame rates that would suit")
        self.suits.itemDoubleClicked.connect(self._take_suited)
        self.suits.itemActivated.connect(self._take_suited)
        column.addWidget(self.suits, 1)
        self._document.changed.connect(self.refresh)
        self._session.scene_changed.connect(self.refresh)
        self.finished.connect(self._stop)
        self.refresh()
        self.tap.setFocus()

    # -- what it is made of --------------------------------------------------------------------

    def _fields(self) -> QHBoxLayout:
        row = QHBoxLayout()
        self.frame = QuantityField("from frame", whole(parse_whole, lambda v: f"{v:.0f}", ""))
        self.bpm = QuantityField(
            "beats a minute", whole(parse_bpm, lambda v: shown(v, 4), "Beats a minute")
        )
        self.offset = QuantityField("first beat after", time_kind(self._units))
        for words, field in (
            ("from frame", self.frame),
            ("beats a minute", self.bpm),
            ("first beat after", self.offset),
        ):
            field.setFixedWidth(78)
            row.addWidget(soft(words))
            row.addWidget(field)
        self.bpm.chosen.connect(self._say)
        self.offset.chosen.connect(lambda _: self._forget_beat())
        self.frame.chosen.connect(lambda _: self._say())
        row.addStretch(1)
        self.put = QPushButton("Set it")
        self.put.setDefault(True)
        self.put.clicked.connect(self.set_tempo)
        self.remove = QPushButton("Remove")
        self.remove.setAutoDefault(False)
        self.remove.clicked.connect(self._remove)
        row.addWidget(self.put)
        row.addWidget(self.remove)
        return row

    def _finding(self) -> QGridLayout:
        grid = QGridLayout()
        grid.setColumnStretch(1, 1)
        self.tap = QPushButton("Tap (T)")
        self.tap.pressed.connect(self.tap_beat)
        self.tapped = soft("")
        self.finder = QPushButton("Find it in the sound (F)")
        self.finder.setToolTip("In the sound of the chosen clip, or the one chosen on the shelf")
        self.finder.clicked.connect(self.find_tempo)
        self.found = soft("")
        for number, (button, label) in enumerate(
            ((self.tap, self.tapped), (self.finder, self.found))
        ):
            button.setAutoDefault(False)
            grid.addWidget(button, number, 0)
            grid.addWidget(label, number, 1)
        # A key that is held down is one tap.
        for key, do in (("T", self.tap_beat), ("F", self.find_tempo)):
            shortcut = QShortcut(QKeySequence(key), self)
            shortcut.setAutoRepeat(False)
            shortcut.activated.connect(do)
        return grid

    def _others(self) -> QHBoxLayout:
        """A key for what else may be meant."""
        row = QHBoxLayout()
        self.others: dict[str, QPushButton] = {}
        for words, key, factor in OTHERS:
            button = QPushButton(f"{words} ({key})")
            button.setAutoDefault(False)
            button.clicked.connect(partial(self.multiply, factor))
            QShortcut(QKeySequence(key), self).activated.connect(partial(self.multiply, factor))
            self.others[key] = button
            row.addWidget(button)
        row.addStretch(1)
        return row

    def _units(self) -> TimeUnits:
        return TimeUnits(self._document.project.timebase.fps)

    # -- what there is -------------------------------------------------------------------------

    def refresh(self) -> None:
        """Show the tempos of the scene that is on the sheet."""
        project, scene = self._document.project, self._session.scene
        chosen = self._chosen()
        self.setWindowTitle(f"Beats of {scene.label}")
        self.list.blockSignals(True)
        self.list.clear()
        for tempo, off in between_frames(scene, project.timebase):
            item = QListWidgetItem(tempo_sentence(tempo, off, project))
            item.setData(WHAT, tempo)
            self.list.addItem(item)
            if chosen is not None and tempo.frame == chosen.frame:
                self.list.setCurrentItem(item)
        if not scene.tempo:
            self.list.addItem("No tempo yet: type one, tap it, or find it in a sound.")
        elif not self.list.selectedItems():
            self.list.setCurrentRow(0)
        self.list.blockSignals(False)
        self._choose()

    def _chosen(self) -> Tempo | None:
        items = self.list.selectedItems()
        tempo = items[0].data(WHAT) if items else None
        return tempo if isinstance(tempo, Tempo) else None

    def _choose(self) -> None:
        """Show the tempo that is chosen in the fields."""
        tempo = self._chosen()
        project = self._document.project
        self._beat = None
        self.remove.setEnabled(tempo is not None)
        self.frame.set_value(project.shown(0 if tempo is None else tempo.frame))
        self.bpm.set_value(USUAL if tempo is None else tempo.bpm)
        self.offset.set_value(0.0 if tempo is None else tempo.offset)
        self._say()

    def _typed(self) -> Tempo | None:
        """The tempo in the fields; None if there cannot be one there."""
        project, scene = self._document.project, self._session.scene
        frame = int(self.frame.value) - project.first_frame
        bpm, offset = self.bpm.value, self.offset.value
        if not 0 <= frame < scene.length or not 0 < bpm <= 1000:
            return None
        return Tempo(frame=frame, bpm=bpm, offset=offset)

    def _end(self, tempo: Tempo) -> int:
        """The sample up to which a tempo holds."""
        base, scene = self._document.project.timebase, self._session.scene
        later = [other.frame for other in scene.tempo if other.frame > tempo.frame]
        return base.start(min([*later, scene.length]))

    def _say(self, _: object = None) -> None:
        """Whether the beats that are typed fall on frames, and what would suit."""
        tempo, project = self._typed(), self._document.project
        self.suits.clear()
        self.put.setEnabled(tempo is not None)
        if tempo is None:
            self.says.setText("There is no such frame in this scene, or no such tempo.")
            return
        base, end = project.timebase, self._end(tempo)
        off = farthest_off(tempo, base, end)
        self.says.setText(tempo_sentence(tempo, off, project) + ".")
        self.says.setObjectName("soft" if off <= 1.0 else "warning")
        self.says.style().unpolish(self.says)
        for suited in suited_tempos(tempo, base, end):
            self._offer(suited, None)
        for suited in suited_rates(tempo, base, end):
            if suited.fps != project.fps:
                self._offer(suited, self._rounded(suited))

    def _offer(self, suited: Suited, rounded: int | None) -> None:
        item = QListWidgetItem(suited_sentence(suited, self._document.project, rounded))
        item.setData(WHAT, suited)
        self.suits.addItem(item)

    def _rounded(self, suited: Suited) -> int:
        """How many things another rate would round if seconds were kept; reckoned once a film."""
        project = self._document.project
        if project is not self._weighed[0]:
            self._weighed = project, {}
        known = self._weighed[1]
        if suited.fps not in known:
            known[suited.fps] = _to_round(project, suited.fps)
        return known[suited.fps]

    # -- setting it ----------------------------------------------------------------------------

    def set_tempo(self) -> None:
        """Put the tempo in the fields on the rulers; what was tapped or found falls on a beat."""
        tempo = self._typed()
        if tempo is None:
            return
        if self._beat is not None:
            tempo = self._begun_at(tempo, self._beat)
        scene = self._session.scene
        edit = PutTempo(scene=scene.id, frame=tempo.frame, bpm=tempo.bpm, offset=tempo.offset)
        if self._document.do(edit):
            self._sheet.show_unit("beats")

    def _begun_at(self, tempo: Tempo, beat: int) -> Tempo:
        """The tempo with its first beat where the one at that sample has it fall."""
        base = self._document.project.timebase
        length = 60 * base.rate / tempo.bpm
        since = (beat - base.start(tempo.frame)) % length
        # One sample before the frame is on it.
        offset = 0.0 if length - since <= 1.0 else since / base.rate
        return replace(tempo, offset=round(offset, 6))

    def _forget_beat(self) -> None:
        self._beat = None
        self._say()

    def _remove(self) -> None:
        tempo = self._chosen()
        if tempo is not None:
            edit = PutTempo(scene=self._session.scene_id, frame=tempo.frame, bpm=None)
            self._document.do(edit)

    def multiply(self, factor: float, _: bool = False) -> None:  # noqa: FBT001, FBT002 - Qt's
        """Another tempo that may be meant; of a sound's, the one that was found near it."""
        bpm = self.bpm.value * factor
        near = self._found_near(bpm)
        if near is not None:
            self._take_found(near)
        elif 0 < bpm <= 1000:
            self.bpm.set_value(round(bpm, 3))
            self._show_beat()

    # -- tapping -------------------------------------------------------------------------------

    def tap_beat(self) -> None:
        """A beat is tapped, now; while the film plays, it is where that is heard."""
        now = time.monotonic()
        self._taps = recent([*self._taps, now])
        self._heard = None
        made = tapped(self._taps)
        self.tapped.setText(tapped_text(made, len(self._taps)))
        if made is None:
            return
        self.bpm.set_value(round(made.bpm, 1))
        here = self._scene_sample()
        rate = self._document.project.rate
        self._beat = None if here is None else round(here - (now - made.first) * rate)
        self._show_beat()

    def _scene_sample(self) -> int | None:
        """Where in the scene the film is, in its own samples; None if it does not play."""
        plan = self._transport.plan
        if not self._transport.playing or not plan.stretches:
            return None
        visit, frame, share = plan.frame_at(max(0, int(self._transport.sample)))
        base = plan.timebase
        if visit.scene != self._session.scene_id:
            return None
        return base.start(frame) + round(share * base.duration(frame))

    def _show_beat(self) -> None:
        """Show from where on the first beat falls."""
        tempo = self._typed()
        if tempo is not None and self._beat is not None:
            self.offset.set_value(self._begun_at(tempo, self._beat).offset)
        self._say()

    # -- finding -------------------------------------------------------------------------------

    def find_tempo(self) -> None:
        """Listen for the tempo of the chosen clip's sound, in a worker."""
        clip = self._session.keyframe()
        project = self._document.project
        sound_id = clip.sound if isinstance(clip, Clip) else self._session.sound
        if all(sound.id != sound_id for sound in project.sounds) or sound_id is None:
            self.found.setText("choose a clip, or a sound on the shelf")
            return
        self._asked += 1
        asked, sound = self._asked, project.sound(sound_id)
        self.found.setText(f"listening to {sound.label} …")

        def done(tempos: Tempos | None) -> None:
            # Whoever has closed this, or asked anew, is told nothing more.
            if asked != self._asked:
                return
            if tempos is None:
                self.found.setText(f"{sound.label} is not here to be listened to")
                return
            self._heard = tempos, clip if isinstance(clip, Clip) else None
            speed = clip.speed if isinstance(clip, Clip) else 1.0
            self.found.setText(f"{sound.label}: {found_text(tempos, speed)}")
            if tempos.found:
                self._take_found(tempos.found[0])

        def failed(problem: str) -> None:
            if asked == self._asked:
                self.found.setText(problem)

        self._work.with_sounds(find_tempo, sound_id, done=done, failed=failed)

    def _found_near(self, bpm: float) -> Found | None:
        if self._heard is None:
            return None
        tempos, clip = self._heard
        speed = 1.0 if clip is None else clip.speed
        near = [x for x in tempos.found if abs(x.bpm * speed / bpm - 1) < 0.03]
        return near[0] if near else None

    def _take_found(self, found: Found) -> None:
        """Show a tempo that was found, with a beat where the clip has it."""
        assert self._heard is not None
        clip, project = self._heard[1], self._document.project
        base = project.timebase
        speed, beat = 1.0, seconds_to_samples(found.first, base.rate)
        if clip is not None:
            sound, length = project.placeable(clip.sound), self._session.scene.length
            whole = length_of(project, clip.sound)
            shaping = Shaping(clip, sound, whole, base.rate, Clock(base), length)
            speed, beat = clip.speed, shaping.moment_of(beat)
        self.bpm.set_value(round(found.bpm * speed, 3))
        self._beat = beat
        self._show_beat()

    # -- what would suit -----------------------------------------------------------------------

    def _take_suited(self, item: QListWidgetItem) -> None:
        suited = item.data(WHAT)
        if not isinstance(suited, Suited):
            return
        if suited.fps != self._document.project.fps:
            # The list is made anew by what that does, and may not be while it is clicked.
            QTimer.singleShot(0, partial(self._rate_wanted, suited.fps))
            return
        self.bpm.set_value(suited.bpm)
        QTimer.singleShot(0, self.set_tempo)

    def _stop(self) -> None:
        self._asked += 1


def _to_round(project: Project, fps: tuple[int, int]) -> int:
    """How many things would not keep their moment at a rate; all of them if it cannot be had."""
    try:
        kept = keep_seconds(project, fps)
    except BadEdit:
        return sum(len(layer.keyframes) for _, layer in project.all_layers())
    return sum(bool(shift.late) for shift in kept.shifts if shift.what != "length")
