"""Playing: tells the player, and lets the playhead follow what is audible.

One class: what is played, wanted and waited for is one state, and each method moves it.
"""

import time
from collections.abc import Callable, Sequence
from typing import Literal

from msgspec.structs import replace
from PySide6.QtCore import QObject, QSettings, Qt, QTimer, Signal

from cicada.core.answers import Input
from cicada.core.editing import Cell
from cicada.core.live import going_on, point_waited_at, standing_at
from cicada.core.model import PressPoint
from cicada.core.plan import Plan
from cicada.core.planner import plan as plan_of
from cicada.playback.messages import (
    COUNTING,
    FILM,
    LISTENING,
    TESTING,
    Beep,
    Began,
    Buffered,
    Count,
    CountIn,
    Devices,
    Given,
    Listen,
    Message,
    Mute,
    Pace,
    Play,
    Press,
    Pressed,
    Probe,
    Repeat,
    Report,
    Share,
    Status,
    Stop,
)
from cicada.window.playing.devices import SoundDevices
from cicada.window.playing.following import PAINTING, TICK, audible, until_next_frame
from cicada.window.playing.giving import Giving
from cicada.window.playing.handing import Handing
from cicada.window.playing.link import Link, PlayerMaker
from cicada.window.playing.outages import Outages
from cicada.window.state.conditions import ENDLESSLY, Conditions
from cicada.window.state.planning import Planning
from cicada.window.state.presence import Presence
from cicada.window.state.session import Session

PACES = (1.0, 0.5, 0.25)
Doing = Literal["nothing", "film", "listening", "testing", "standing"]
Begins = Play | Listen | Beep | Count | Probe
DOES: dict[type, Doing] = {
    Play: "film", Listen: "listening", Beep: "testing", Count: "testing", Probe: "testing"
}  # fmt: skip


class Transport(QObject):
    """Play, stop, listen; ``state_changed`` comes when one begins or ends.

    ``listened`` says which sample of the sound listened to is audible, ``tested`` that of the
    beeps, ``buffered`` what is handed over ahead and whether less was too few.
    ``waiting_changed`` comes when the picture begins or ends to wait for a press, ``looked`` with
    each ``Status`` of the player, ``began`` with its ``Began`` of what was asked for last.
    """

    state_changed = Signal()
    waiting_changed = Signal()
    moved = Signal()
    metered = Signal(list)
    player_begun = Signal()
    listened = Signal(float)
    tested = Signal(float)
    told = Signal(str)
    looked = Signal(object)
    began = Signal(object)
    buffered = Signal(float, bool)

    def __init__(
        self,
        session: Session,
        planning: Planning,
        presence: Presence,
        conditions: Conditions,
        make_player: PlayerMaker,
        settings: QSettings,
    ) -> None:
        super().__init__()
        self._conditions, self._settings = conditions, settings
        self._session, self._planning = session, planning
        self._document = session.document
        self._link = Link(make_player)
        self.devices = SoundDevices(self._link, settings)
        self.handing = Handing(self._link, planning, presence)
        self.giving = Giving(self._link)
        self.doing: Doing = "nothing"
        self._wanted_plays = 0
        self._begun: Begins | None = None
        # What else Space stops, each saying whether it did.
        self.also_stops: list[Callable[[], bool]] = []
        # How the next film is to begin: counted in, and heard or not.
        self._lead: tuple[CountIn | None, bool] = None, True
        self._outages = Outages(self.told.emit)
        self._wanted_frame: int | None = None
        self._began: tuple[str, int] | None = None
        self._between = False
        self.pace, self.at_pitch = 1.0, settings.value("playing/at_pitch", "true") == "true"
        self.returns = settings.value("playing/returns", "false") == "true"
        self.waiting: PressPoint | None = None
        self.muted: frozenset[Cell] = frozenset()
        self.silent_device = False
        # The run sample that is audible, of the plan that is played.
        self.sample = 0.0
        self._timer = QTimer(self)
        self._timer.setSingleShot(True)
        self._timer.setTimerType(Qt.TimerType.PreciseTimer)
        self._timer.timeout.connect(self.follow)
        planning.planned.connect(self._planned)
        session.scene_chosen.connect(self._go_along)
        session.playhead_placed.connect(self._leave_standing)

    @property
    def playing(self) -> bool:
        """Whether the film is being played."""
        return self.doing == "film"

    @property
    def standing(self) -> bool:
        """Whether pads answer while the picture stands."""
        return self.doing == "standing"

    @property
    def listening(self) -> bool:
        """Whether a sound is listened to by itself."""
        return self.doing == "listening"

    @property
    def testing(self) -> bool:
        """Whether beeps are held against a flash."""
        return self.doing == "testing"

    def _go_along(self) -> None:
        """Another scene was chosen: what is playing goes on there."""
        if self.playing and self._conditions.scope == "film":
            self.play_from(self._session.playhead)

    def start(self) -> None:
        """Start the player's process; later than the first paint."""
        if not self._link.there:
            self._begin_player(self._document.project.rate)
            self.load()
            self._timer.start(TICK)

    def _begin_player(self, rate: int) -> None:
        self._link.begin(rate)
        self.devices.use_wanted()
        if self.pace != 1:
            self._link.send(Pace(self.pace, self.at_pitch))
        self.giving.player_began()
        self.player_begun.emit()

    def load(self) -> None:
        """Hand the newest plan to the player."""
        planning = self._planning
        if not self._link.there or not planning.heard or self.standing:
            return
        project = planning.project
        if not self._link.fits(project.rate):
            self._link.close()
            self._over()
            self._wanted_plays = 0
            self._begin_player(project.rate)
        self.handing.film()

    def _planned(self) -> None:
        if self.playing and self.handing.known():
            self.handing.behind = True
        else:
            self.load()
        ready = self._planning.played == self._conditions.played()
        if self._wanted_frame is not None and ready:
            frame, self._wanted_frame = self._wanted_frame, None
            self.play_from(frame)

    # -- playing -------------------------------------------------------------------------------

    @property
    def plan(self) -> Plan:
        """The plan that is played."""
        planning = self._planning
        return planning.plan if self._between else planning.played_plan

    @property
    def picture(self) -> tuple[str, int] | None:
        """The scene and frame of the picture that is shown while the film plays.

        On a slow machine it may be one before the playhead's.
        """
        plan = self.plan
        if not self.playing or not self._conditions.draw_time or not plan.stretches:
            return None
        visit, frame = plan.shown_at(max(0, int(self.sample)))
        return visit.scene, frame

    def sample_of(self, frame: int, plan: Plan) -> int:
        """When the scene shown enters a frame, in the pass that is played."""
        visit = plan.visit_of(self._session.scene_id, self._number(plan))
        return (plan.entered(frame, visit) or 0) if visit is not None else 0

    def _number(self, plan: Plan) -> int:
        """The pass to be played: the one shown, or the only one of a plan of its own."""
        return self._planning.number if plan is self._planning.plan else 1

    def toggle(self) -> None:
        """Space: stop whatever sounds or is recorded, or play from the playhead."""
        if any(stop() for stop in self.also_stops):
            return
        if self.sounding:
            self.stop()
        else:
            self.play_from(self._session.playhead)

    @property
    def sounding(self) -> bool:
        """Whether anything is being played, or is about to be."""
        return self.doing not in ("nothing", "standing") or self._wanted_frame is not None

    def play_from(self, frame: int) -> None:
        """Play from a frame of the scene shown."""
        self.start()
        if not self._link.fits(self._planning.project.rate):
            self.load()
        conditions, planning = self._conditions, self._planning
        if not self.playing:
            self._began = self._session.scene_id, self._session.playhead
        conditions.end()
        if conditions.goes_live:
            # A live run begins at its frame.
            self._session.move_playhead(frame)
        played = conditions.played()
        if played != planning.played:
            self._wanted_frame = frame
            conditions.fresh()
            return
        conditions.begin()
        if played is not None and played.last is not None:
            inside = self._session.scene_id == played.run.scene
            first, last = played.run.frame, played.last
            frame = frame if inside and first <= frame <= last else first
            start = planning.played_plan.entered(frame, planning.played_plan.stretches[0].visit)
            whole = (0, planning.played_plan.length)
            self._play(Play(start or 0, whole, conditions.passes))
        else:
            self._play(Play(self.sample_of(frame, planning.played_plan)))

    def play_counted(self, frame: int, count_in: CountIn | None, *, heard: bool) -> None:
        """Play from a frame, counted in, and heard or in silence."""
        self._lead = count_in, heard
        self.play_from(frame)

    def _play(self, message: Begins) -> None:
        self._leave_standing()
        if isinstance(message, Play):
            count_in, heard = self._lead
            message = replace(message, count_in=count_in, heard=heard)
        self._lead = None, True
        if self.handing.behind:
            self.load()
        self._link.send(message)
        self._begun = message
        self._outages.begins()
        self._wanted_plays += 1
        self.doing = DOES[type(message)]
        self._between, self._wanted_frame = False, None
        self.state_changed.emit()

    def play_between(self, first: int, last: int) -> None:
        """Play one stretch of the drawn run, given in its samples, again and again."""
        self.start()
        self._play(Play(first, (first, last), drawn=True))
        self._between = True

    def play_from_start(self) -> None:
        """Play the scene shown from its first frame."""
        self._session.move_playhead(0)
        self.play_from(0)

    def stop(self) -> None:
        """Silence everything."""
        self._leave_standing()
        self._link.send(Stop())
        self._over()

    def _over(self) -> None:
        """Nothing is played any more: the playhead stays, or goes back to where it began."""
        was, self.doing = self.playing, "nothing"
        self._wanted_frame, self._lead = None, (None, True)
        self._conditions.end()
        self._wait(None)
        if self.muted:
            self.mute(frozenset())
        if was and self.returns and self._began is not None and not self._between:
            scene, frame = self._began
            self._session.show_scene(scene, playing=True)
            self._session.move_playhead(frame, playing=True)
        self.state_changed.emit()

    # -- how -----------------------------------------------------------------------------------

    def play_again_and_again(self, *, on: bool) -> None:
        """Play endlessly, or as often as the film plays for its audience."""
        times = ENDLESSLY if on else max(1, self._document.project.plays)
        self._conditions.play_times(times)
        if self.playing and self._conditions.scope == "range":
            self._link.send(Repeat((0, self.plan.length), times))
        self.state_changed.emit()

    def set_pace(self, pace: float) -> None:
        """Play at a pace of 1 or less."""
        self.pace = pace
        self._send_pace()

    def keep_pitch(self, *, on: bool) -> None:
        """Whether what is played slower keeps its pitch."""
        self.at_pitch = on
        self._settings.setValue("playing/at_pitch", "true" if on else "false")
        self._send_pace()

    def _send_pace(self) -> None:
        self._link.send(Pace(self.pace, self.at_pitch))
        self.state_changed.emit()

    def set_returning(self, *, on: bool) -> None:
        """Whether the playhead goes back to where playing began when it is over."""
        self.returns = on
        self._settings.setValue("playing/returns", "true" if on else "false")
        self.state_changed.emit()

    def mute(self, cells: frozenset[Cell]) -> None:
        """Hear these clips no more until playing is over; the project is not changed."""
        self.muted = cells
        self._link.send(Mute(tuple(sorted((cell.layer, cell.frame) for cell in cells))))
        self.state_changed.emit()

    def send(self, message: Message) -> None:
        """Tell the player, if there is one."""
        self._leave_standing()
        if self.handing.behind and not self.playing:
            self.load()
        self._link.send(message)

    def give(self, given: Input) -> bool:
        """Give a pad or a value something to do in the run that plays; whether one does."""
        if not self.playing or self._conditions.live is None:
            return False
        self.giving.give(given)
        return True

    def answer_standing(self, given: Input) -> None:
        """Let a pad or a value answer as if the picture stood on this frame of an empty film.

        It is heard and not kept.
        """
        self.start()
        ready = self.standing
        if not ready:
            self._conditions.end()
            self._stand()
        self.giving.give(given, timed=ready)

    def _stand(self) -> None:
        planning = self._planning
        project, run = standing_at(planning.project, self._session.scene_id, self._session.playhead)
        made = plan_of(project, going_on(run, project.rate))
        self.handing.by_itself(project, made, run)
        self._play(Play(0))
        self.doing = "standing"
        self.state_changed.emit()

    def _leave_standing(self) -> None:
        """The film is what is played again."""
        if self.standing:
            self._link.send(Stop())
            self.doing = "nothing"
            self.load()
            self.state_changed.emit()

    def press(self) -> bool:
        """Let the picture go on if it waits; whether it did."""
        if self.waiting is None:
            return False
        self._link.send(Press())
        return True

    # -- one sound by itself --------------------------------------------------------------------

    def listen(
        self,
        key: str,
        gain: float,
        start: int,
        others: tuple[str, ...] = (),
        shares: tuple[float, ...] = (1.0,),
    ) -> None:
        """Hear a sound of the cache by itself from its sample ``start``; the film stops.

        With ``others``, all of them together, each at its share.
        """
        self.start()
        self._conditions.end()
        self._play(Listen(key, gain, start, others, shares))

    def share(self, shares: tuple[float, ...]) -> None:
        """Let what is listened to together sound at other gains."""
        if self.listening:
            self._link.send(Share(shares))

    def test(self) -> None:
        """Beep at every second, so that a flash can be held against it."""
        self.start()
        self._conditions.end()
        self._play(Beep())

    def count(self, count_in: CountIn) -> None:
        """Count in, while the picture stands."""
        self.start()
        self._conditions.end()
        self._play(Count(count_in))

    def probe(self) -> None:
        """Sound the probe."""
        self.start()
        self._conditions.end()
        self._play(Probe())

    # -- following -----------------------------------------------------------------------------

    def follow(self) -> None:
        """Let the playhead, the meters and the buttons follow the player."""
        status = self._link.status()
        if status is None:
            return
        if self._link.died:
            self._begin_again(int(status.sample))
            return
        self._take_reports(self._link.reports())
        self.looked.emit(status)
        self._outages.missed(status.missed, sounding=self.sounding)
        self.metered.emit(self._link.readings(self._handed_over(status)))
        if status.rate and status.real == self.silent_device:
            self.silent_device = not status.real
            self.state_changed.emit()
        if self.sounding and status.plays >= self._wanted_plays:
            self._follow(status)
        heard = self._audible(status)
        follows = self.playing and status.doing == FILM
        wait = until_next_frame(self.plan, self.sample, heard, status) if follows else TICK
        self._timer.start(wait)

    def _begin_again(self, sample: int) -> None:
        """The player is gone: start another one where that was, unless they all go at once."""
        doing, begun, between, muted = self.doing, self._begun, self._between, self.muted
        self._link.close()
        if not self._outages.died():
            self._over()
            return
        self._wanted_plays = 0
        self.start()
        if muted:
            self.mute(muted)
        if doing != "nothing" and begun is not None:
            again = isinstance(begun, (Play, Listen))
            self._play(replace(begun, start=sample) if again else begun)
        self._between = between

    def _handed_over(self, status: Status) -> float:
        """How many samples had been handed over up to what is audible now."""
        elapsed = audible(status._replace(sample=0.0, pace=1.0), time.monotonic(), 0.0)
        return status.written + elapsed - self.devices.correction * status.rate

    def _audible(self, status: Status) -> float:
        return audible(status, time.monotonic(), self.devices.correction)

    def _follow(self, status: Status) -> None:
        if self.playing:
            if status.doing == FILM:
                self._show(self._audible(status) + PAINTING * status.rate * status.pace)
            elif status.doing != LISTENING:
                self._over()
        elif self.listening:
            if status.doing == LISTENING:
                self.listened.emit(status.sample)
            else:
                self._over()
        elif self.testing:
            if status.doing in (TESTING, COUNTING):
                self.tested.emit(self._audible(status))
            else:
                self._over()

    def _take_reports(self, reports: Sequence[Report]) -> None:
        for report in reports:
            match report:
                case Pressed(sample) if self.playing:
                    self._conditions.press(sample)
                case Given(given, number):
                    self._answered(given, number)
                case Began() if report.plays == self._wanted_plays:
                    self.began.emit(report)
                case Buffered(seconds, missed):
                    self.buffered.emit(seconds, missed)
                case Devices():
                    self.devices.take(report)

    def _answered(self, given: Input, number: int) -> None:
        status, seconds = self._link.status(), None
        if status is not None and status.rate and status.pace:
            seconds = (given.at - self._audible(status)) / (status.rate * status.pace)
        self.giving.took(number, seconds)
        if self.playing:
            self._conditions.give(given)

    def _show(self, sample: float) -> None:
        self.sample = sample
        plan = self.plan
        if not plan.stretches or sample >= plan.end:
            self.moved.emit()
            return
        visit, frame, _ = plan.frame_at(max(0, int(sample)))
        if all(visit.scene != scene.id for scene in self._document.project.scenes):
            # It was removed while it plays; the plan without it is on its way.
            return
        if visit.scene != self._session.scene_id:
            self._session.show_scene(visit.scene, playing=True)
        self._session.move_playhead(frame, playing=True)
        self._conditions.reach(visit.number)
        self._wait(point_waited_at(self._planning.project, plan, int(sample)))
        self.moved.emit()

    def _wait(self, point: PressPoint | None) -> None:
        if point is not self.waiting:
            self.waiting = point
            self.waiting_changed.emit()

    def close(self) -> None:
        """End the player."""
        self._timer.stop()
        self._link.close()
