"""Recording: counted in, kept in takes, and put where it belongs.

One class: whether something is asked for, counted in or kept is one state, and each method moves
it. The film is counted in and played by the player, and says with which sample it began.
"""

import time
from collections.abc import Callable
from pathlib import Path
from typing import Literal, NamedTuple

from PySide6.QtCore import QObject, QSettings, Signal

from cicada.core.beats import tempo_at
from cicada.core.editing import Cell
from cicada.core.plan import Plan
from cicada.core.recorded import Stood, in_the_way, where_it_stood, without_silence
from cicada.errors import BadEdit, CicadaError
from cicada.playback.input import device_of_file
from cicada.playback.lining_up import LiningUp
from cicada.playback.messages import Began, CountIn, Status
from cicada.playback.recorder import (
    Begin,
    End,
    Find,
    ForgetPeaks,
    Found,
    Report,
    Slipped,
    Standing,
    Taken,
)
from cicada.store.recordings import About, UnderWay, begin
from cicada.window.drawing.growing import Growing
from cicada.window.playing.transport import Transport
from cicada.window.recording.input import Hearing, Input, RecorderLink
from cicada.window.recording.landing import Landed, Landing
from cicada.window.recording.so_far import SoFar
from cicada.window.recording.way import Way
from cicada.window.state.conditions import ENDLESSLY, Conditions
from cicada.window.state.notices import Notices
from cicada.window.state.session import Session
from cicada.window.state.work import Work
from cicada.window.words.quantities import begun
from cicada.window.words.recording import count_in, drift_text, slip_text

# Seconds for which the film is watched until it is sure where it began; what comes then is held.
WATCHED = 0.4
# Seconds of a take from which on it is known how two clocks drifted apart, and how much counts.
LONG, APART = 20.0, 0.005
Doing = Literal["nothing", "measuring", "asked", "recording", "landing"]


class _Under(NamedTuple):
    """A recording under way: where its files go, what it is called, and where it is to stand."""

    files: UnderWay
    name: str
    layer: str
    scene: str
    frame: int


class Recording(QObject):
    """``changed`` comes when the state or a setting is another, ``moved`` with each look."""

    changed = Signal()
    moved = Signal()

    def __init__(
        self,
        session: Session,
        conditions: Conditions,
        transport: Transport,
        work: Work,
        notices: Notices,
        settings: QSettings,
        folder: Path,
        make: Callable[[], RecorderLink],
    ) -> None:
        """Recordings under way stand in ``folder``."""
        super().__init__()
        self._session, self._conditions, self._transport = session, conditions, transport
        self._document, self._work, self._notices = session.document, work, notices
        self._settings = settings
        self._doing: Doing = "nothing"
        self.input = Input(settings, folder, make)
        self.way = Way(session.document, transport, settings)
        self.counting = str(settings.value("recording/count_in", ""))
        self.plays_film = settings.value("recording/film", "true") == "true"
        self.heard = settings.value("recording/heard", "true") == "true"
        self.in_rounds = False
        self.name = ""
        # How what is played last began, and with which sample of the input the take begins.
        self._began: Began | None = None
        self.begins = 0
        # What has begun, or is counted in, and is not kept yet; and whether it is heard by now.
        self._due: Began | None = None
        self._is_heard = False
        self._under: _Under | None = None
        self._plan: Plan | None = None
        self._run_sample = 0
        # Samples of the input in a round of the range; 0: it is gone through once.
        self._every = 0.0
        self._with_film = self._starts_film = False
        self._takes: list[Taken] = []
        self._so_far = SoFar()
        self._landing: Landing | None = None
        self.landed: Landed | None = None
        self.input.started.connect(transport.start)
        self.input.opening.connect(self.way.leads_to)
        self.input.changed.connect(self._input_changed)
        self.input.reported.connect(self._take)
        self.input.died.connect(self._recorder_died)
        self.input.looked.connect(self._see_how_loud)
        self.way.changed.connect(self.changed)
        transport.looked.connect(self._line_up)
        transport.began.connect(self._film_began)
        transport.state_changed.connect(self._playing_changed)
        transport.also_stops.append(self.stop)

    # -- the input -----------------------------------------------------------------------------

    @property
    def state(self) -> Doing | Hearing:
        """What is done with the input, or whether there is one."""
        return self.input.state if self._doing == "nothing" else self._doing

    def _be(self, doing: Doing) -> None:
        self._doing = doing
        self.input.held = self.busy
        self.changed.emit()

    def at_hand(self, *, shown: bool) -> None:
        """It is in sight, or not: what is listened to only to see its level is let go of."""
        if shown:
            self.input.start()
        elif not self.busy:
            self._doing = "nothing"
            self.input.end()

    def _input_changed(self) -> None:
        if self._doing == "measuring" and self.input.state != "open":
            self._doing = "nothing"
        self.changed.emit()

    def choose_file(self, path: Path) -> None:
        """Let a sound file play as if it were the input."""
        try:
            self.input.choose(device_of_file(path))
        except CicadaError as error:
            self._notices.say(str(error))

    @property
    def busy(self) -> bool:
        """Whether something is being recorded, or about to be."""
        return self._doing in ("asked", "recording", "landing")

    def set_option(self, name: str, value: str) -> None:
        """Choose how it is counted in ("count_in"), "film" or "heard"."""
        self._settings.setValue(f"recording/{name}", value)
        if name == "count_in":
            self.counting = value
        elif name == "film":
            self.plays_film = value == "true"
        else:
            self.heard = value == "true"
        self.changed.emit()

    def go_in_rounds(self, *, on: bool) -> None:
        """Record the range again and again, each round a take."""
        self.in_rounds = on
        self.changed.emit()

    @property
    def rounds(self) -> bool:
        """Whether a range is gone over again and again."""
        return self.in_rounds and self.plays_film and self._conditions.range is not None

    def call(self, name: str) -> None:
        """What the next take is to be called; empty: after its layer."""
        self.name = name.strip()

    def forget_peaks(self) -> None:
        """Hold the highest level, and clipping, from now on."""
        self.input.send(ForgetPeaks())

    @property
    def lining_up(self) -> LiningUp:
        """How the output and the input lie to each other, by now."""
        return self.way.lining_up

    @property
    def _standing(self) -> Standing | None:
        return self.input.standing

    # -- lining up with the output -------------------------------------------------------------

    def _line_up(self, status: Status) -> None:
        if self._standing is None:
            return
        self.lining_up.look(status, self._standing)
        due = self._due
        if due is None or self.state != "recording" or status.written < due.written:
            return
        if not self._is_heard:
            self._is_heard = True
            self.lining_up.look_anew()
        elif status.written > due.written + WATCHED * status.rate:
            self._due = None
            self._keep(self.lining_up.input_sample(due.written), self._every)

    def measure(self) -> None:
        """Sound the probe, and find when it comes in."""
        if self.state != "open":
            return
        self._began = None
        self._be("measuring")
        self.input.send(Find(self._document.project.rate))
        self._transport.probe()

    def _found(self, at: int | None) -> None:
        if self.state != "measuring":
            return
        if at is None or self._began is None:
            self._notices.say(
                "The test sound did not come back: lead the output into the input by a cable, "
                "or put the microphone before the speaker, and measure again."
            )
        else:
            late = self.lining_up.came_back(self._began.written, at)
            self.way.remember(late)
            self._notices.say("Measured: takes lie to the sample for as long as this stays open.")
        self._be("nothing")

    # -- recording -----------------------------------------------------------------------------

    def toggle(self) -> None:
        """Begin to record, or end it."""
        if not self.stop():
            self.record()

    @property
    def target(self) -> Cell:
        """The layer that is chosen, and the frame a take would begin on, or has begun on."""
        if self._under is not None:
            return Cell(self._under.layer, self._under.frame)
        place, frame = self._session.place(), self._session.playhead
        marked = self._conditions.range
        if self.rounds and marked is not None:
            frame = marked.first
        return Cell(place.layer if place is not None else "", frame)

    @property
    def obstacle(self) -> str:
        """Why the take gets a layer of its own; empty if it does not."""
        return in_the_way(self._session.scene, self.target)

    def record(self) -> None:
        """Count in, and keep what comes."""
        if self.state != "open" or self.input.device is None:
            self._notices.say("Choose an input first: what comes in is not heard yet.")
            return
        if self.plays_film and self._transport.pace != 1:
            self._notices.say("Play at full speed to record: a take keeps no other time.")
            return
        marked = self._conditions.range
        if self.rounds and marked is not None and marked.scene != self._session.scene_id:
            self._session.show_scene(marked.scene)
        cell = self.target
        layers = {layer.id: layer.label for layer in self._session.scene.layers}
        name = self.name or layers.get(cell.layer) or "Recorded"
        about = About(time.time(), str(self._document.file), name)
        try:
            files = begin(self.input.folder, about)
        except CicadaError as error:
            self._notices.say(str(error), lasting=True)
            return
        self._under = _Under(files, name, cell.layer, self._session.scene_id, cell.frame)
        self._takes, self._plan, self.landed, self._due = [], None, None, None
        self._with_film = self._starts_film = False
        self.forget_peaks()
        if self.plays_film and self._transport.playing:
            self._join_the_film()
        elif self.plays_film:
            self._with_film = self._starts_film = True
            if self.rounds:
                self._conditions.play_what("range")
                self._conditions.play_times(ENDLESSLY)
            self._be("asked")
            self._transport.play_counted(cell.frame, self._count_in(), heard=self.heard)
        else:
            counted = self._count_in()
            self._be("asked")
            if counted is None:
                self._keep(-1)
            else:
                self._transport.count(counted)

    def _count_in(self) -> CountIn | None:
        rate = self._document.project.rate
        clicks, length = count_in(self.counting, self.tempo, rate)
        return CountIn(clicks, length) if length else None

    @property
    def tempo(self) -> float | None:
        """The beats a minute where the take begins."""
        return tempo_at(self._session.scene, self.target.frame)

    def _join_the_film(self) -> None:
        """The film plays already: the take begins now, where that is."""
        standing, began = self._standing, self._began
        if standing is None or began is None:
            self._nothing("The film has only just begun: try again.")
            return
        self._with_film = True
        self._plan = self._transport.plan
        past = self.lining_up.output_sample(standing.at) - began.written
        self._run_sample = max(0, began.sample + past)
        if self._conditions.scope == "range":
            self._run_sample %= self._plan.length
        self._keep(standing.at)

    def _film_began(self, began: Began) -> None:
        self._began = began
        doing = self._transport.playing if self._with_film else self._transport.testing
        if self.state != "asked" or not doing:
            return
        self._every = 0.0
        if self._with_film:
            self._plan, self._run_sample = self._transport.plan, began.sample
            if self.rounds and self._standing is not None:
                self._every = self._plan.length * self._standing.rate / self._plan.rate
        self._due, self._is_heard = began, False
        self.begins = self.lining_up.input_sample(began.written)
        self._be("recording")

    def _keep(self, at: int, every: float = 0.0) -> None:
        assert self._under is not None
        here = 0 if self._standing is None else self._standing.at
        self.begins = here if at < 0 else at
        self.input.send(Begin(str(self._under.files.path), at, every))
        self._be("recording")

    @property
    def recorded(self) -> float:
        """Seconds of the round under way."""
        standing = self._standing
        if self.state != "recording" or standing is None or not standing.rate:
            return 0.0
        so_far = standing.at - self.begins if self._due is not None else standing.kept
        return max(0, so_far) / standing.rate

    @property
    def counts(self) -> float:
        """Seconds until the take begins; 0 once it has."""
        standing = self._standing
        if self.state != "recording" or standing is None or not standing.rate:
            return 0.0
        return max(0.0, (self.begins - standing.at) / standing.rate)

    def growing(self) -> Growing | None:
        """What is recorded by now, as the sheet shows it; None: nothing is, in the scene shown."""
        under = self._under
        if under is None or self.state != "recording" or under.scene != self._session.scene_id:
            return None
        frames = self.recorded * self._document.project.timebase.fps
        if self._with_film:
            # Where the picture stands meanwhile, time goes on and no frame does.
            frames = max(0.0, float(self._session.playhead + 1 - under.frame))
        return Growing(under.layer, under.frame, frames, tuple(self._so_far.peaks))

    def stop(self) -> bool:
        """End the take; whether there was one."""
        if self.state not in ("asked", "recording"):
            return False
        asked = self.state == "asked"
        self._be("landing")
        if self._starts_film or asked or self._transport.testing:
            self._transport.stop()
        due, self._due = self._due, None
        if due is not None and self._is_heard:
            self._keep(self.lining_up.input_sample(due.written), self._every)
            self._be("landing")
        if asked or (due is not None and not self._is_heard):
            self._nothing("Nothing was recorded.")
        else:
            self.input.send(End())
        return True

    def _playing_changed(self) -> None:
        """The film has ended, or was stopped: so is the take that goes with it."""
        if (self.state == "recording" and self._with_film and not self._transport.sounding) or (
            self.state == "asked" and not self._transport.sounding
        ):
            self.stop()

    # -- what the recorder says ----------------------------------------------------------------

    def _see_how_loud(self) -> None:
        """Keep how loud it was at each look, from the beginning of the round on."""
        standing = self._standing
        peak = max(standing.left, standing.right) if standing is not None else 0.0
        self._so_far.look(self.recorded, peak)
        self.moved.emit()

    def _take(self, report: Report) -> None:
        match report:
            case Found(at):
                self._found(at)
            case Slipped(at, seconds):
                self._slipped(at, seconds)
            case Taken():
                self._taken(report)

    def _slipped(self, at: int, seconds: float) -> None:
        self.lining_up.forget()
        if self.state == "recording" and self._standing is not None and at > self.begins:
            self._notices.say(
                slip_text(seconds, (at - self.begins) / self._standing.rate), lasting=True
            )

    def _taken(self, taken: Taken) -> None:
        if self._under is None:
            return
        if taken.frames and taken.path:
            self._takes.append(taken)
        if not taken.last:
            return
        if taken.trouble:
            self._notices.say(f"The take has ended and is kept: {taken.trouble}.", lasting=True)
        if self.state != "landing":
            self._be("landing")
            if self._starts_film:
                self._transport.stop()
        if not self._takes:
            self._nothing("" if taken.trouble else "Nothing was recorded.")
            return
        self._say_drift(taken)
        self._land()

    def _say_drift(self, taken: Taken) -> None:
        rate = 0 if self._standing is None else self._standing.rate
        seconds = sum(each.frames for each in self._takes) / rate if rate else 0.0
        apart = self.lining_up.drift(seconds, taken.clock) if seconds > LONG else None
        if apart is not None and abs(apart) > APART and self._with_film:
            self._notices.say(drift_text(apart), lasting=True)

    def _nothing(self, word: str) -> None:
        if self._under is not None:
            self._under.files.forget()
            self._under = None
        if word:
            self._notices.say(word)
        self._over()

    def _over(self) -> None:
        """It is as before it was recorded."""
        self._be("nothing")

    def _recorder_died(self) -> None:
        """The recorder is gone: what it has kept is offered at the next start."""
        if self._under is not None:
            self._under.files.leave()
            self._under = None
            self._notices.say(
                "The recorder has ended; what it has kept is offered at the next start.",
                lasting=True,
            )
        self._be("nothing")

    # -- into the project ----------------------------------------------------------------------

    def _land(self) -> None:
        under, plan = self._under, self._plan
        assert under is not None
        first, title = self._takes[0], "" if self.input.device is None else self.input.device.title
        with_film, start, stands = self._with_film, self._run_sample, self._document.project
        when = time.strftime("%Y-%m-%d %H:%M")

        def where(length: int) -> Stood | None:
            if all(under.scene != scene.id for scene in self._document.project.scenes):
                return None
            if not with_film or plan is None:
                return Stood(under.scene, under.frame, 0.0, "free")
            played = self._transport.plan if self._conditions.live is not None else plan
            stood = where_it_stood(played, start + self._late(first, stands.rate), length)
            known = self._document.project.scenes
            return stood if any(stood.scene == scene.id for scene in known) else None

        self._landing = Landing(self._document, self._work, self._say_lasting, self._landed_now)
        self._landing.bring(
            [Path(taken.path) for taken in self._takes], under.name,
            f"recorded {when} from {title}", under.files, under.layer, where,
        )  # fmt: skip

    def _say_lasting(self, text: str) -> None:
        self._notices.say(text, lasting=True)

    def _late(self, first: Taken, rate: int) -> int:
        """By how many samples of the project the take begins after it was to begin."""
        standing = self._standing
        late = first.at - self.begins
        return 0 if standing is None or not standing.rate else round(late * rate / standing.rate)

    def _landed_now(self, landed: Landed | None) -> None:
        if self._under is not None:
            self._under = None
            self._over()
        if landed is None:
            return
        first = self.landed is None
        self.landed = landed
        if first:
            self._session.choose_sound(landed.sound)
            if landed.cell is not None:
                self._session.choose(landed.cell)
            rounds = len(self._takes)
            words = f", in {rounds} takes: choose one below" if rounds > 1 else ""
            self._notices.say(f"Recorded{words}; Ctrl+Z takes it back, its file stays.")
        self.changed.emit()

    def trim(self) -> None:
        """Trim the silence off the ends of the take that has just come in."""
        landed = self.landed
        if landed is None or landed.cell is None:
            return
        try:
            edit = without_silence(self._document.project, landed.cell, landed.head, landed.tail)
        except (BadEdit, KeyError) as error:
            self._notices.say(begun(str(error)))
            return
        if self._document.do(edit):
            self.landed = landed._replace(head=0.0, tail=0.0)
            self._session.choose_sound(landed.sound)
        self.changed.emit()

    def close(self) -> None:
        """End the recorder; what is being recorded stays, and is offered at the next start."""
        self.input.close()
        if self._under is not None:
            self._under.files.leave()
            self._under = None
