"""The run that the sheet draws and the one that Space plays. Never saved with the project.

They are one run, with two exceptions: a marked range is played by itself while the sheet goes on
drawing the film about it, and a run that waits for presses is drawn as if they came at once until
they have come.
"""

from typing import Literal, NamedTuple

from msgspec.structs import replace
from PySide6.QtCore import QObject, Signal

from cicada.core.answers import Input
from cicada.core.live import waits_somewhere
from cicada.core.model import DrawTime, Run, Scene
from cicada.core.steady import MOST_PASSES
from cicada.window.state.session import Session

# The pass from which all are alike, wherever that is.
STEADY = 0
# How often the film is played: again and again.
ENDLESSLY = 0
# So many passes are planned beyond the one in sight; playing on plans more.
AHEAD = 2

Scope = Literal["film", "scene", "range"]


class Range(NamedTuple):
    """Frames ``first`` to ``last`` of a scene."""

    scene: str
    first: int
    last: int


class Played(NamedTuple):
    """What Space plays where that is another plan than the one drawn.

    Either a range, whose last frame is ``last``, or a ``live`` run with its presses so far.
    """

    run: Run
    last: int | None = None
    live: bool = False


class Conditions(QObject):
    """``changed`` comes when the run is another, ``range_changed`` when a range was marked.

    ``drawing_changed`` comes when the draw time begins to be drawn by hand, or is no more, and
    ``tolerance_changed`` when sounds may be ahead by more or less before it counts.
    """

    changed = Signal()
    range_changed = Signal()
    drawing_changed = Signal()
    tolerance_changed = Signal()

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self.shown_pass = 1
        self.from_playhead = False
        self.chase = True
        self.scope: Scope = "film"
        self.range: Range | None = None
        self.waits = True
        # How long drawing a picture is taken to take: as on the audience's machine.
        self.draw_time: DrawTime | dict[str, DrawTime] = 0.0
        # By how many seconds a sound may be ahead before it counts; None: by a frame.
        self.tolerance: float | None = None
        # Whether it is being drawn by hand on the sheet, or the line of which value.
        self.drawing = False
        self.drawn_value = ""
        self.keeps_presses = False
        # Whether pads answer: what is played is a live run then.
        self.plays_pads = False
        # Another seed than the project's, for listening to other draws; None: the project's.
        self.seed: int | None = None
        # The run that is playing or was played last, with its presses.
        self.live: Run | None = None
        self._passes: int | None = None
        self._planned = 1
        self._live_goes_on = False
        self._origin = session.scene_id, session.playhead
        session.playhead_placed.connect(self._follow)
        session.scene_changed.connect(self._follow_scene)
        self._era = session.document.era
        session.document.changed.connect(self._keep_up)

    # -- what is asked for ---------------------------------------------------------------------

    def show_pass(self, number: int) -> None:
        """Show a pass of the film, counted from 1, or ``STEADY``."""
        if number != self.shown_pass:
            self.shown_pass = number
            self._begin_anew()

    def run_from(self, *, playhead: bool, chase: bool = True) -> None:
        """Begin the run at the film's start or at the playhead, with what rings on or without."""
        if (playhead, chase) != (self.from_playhead, self.chase):
            self.from_playhead, self.chase = playhead, chase
            self._origin = self._session.scene_id, self._session.playhead
            self._begin_anew()

    @property
    def passes(self) -> int:
        """How often the film is played, ``ENDLESSLY`` if so; as its audience gets it unless set."""
        return self._session.document.project.plays if self._passes is None else self._passes

    def play_times(self, passes: int) -> None:
        """Play so often; this is for listening and edits nothing."""
        self._passes = passes
        self._begin_anew()

    def play_what(self, scope: Scope) -> None:
        """Play the whole film, the scene shown, or the marked range."""
        if scope == "range" and self.range is None:
            return
        self.scope = scope
        self._begin_anew()

    def mark_range(self, marked: Range | None) -> None:
        """Mark a range, which is then what is played; None plays the film again."""
        self.range = marked
        self.scope = "film" if marked is None else "range"
        self.range_changed.emit()
        self._begin_anew()

    def wait_at_points(self, *, on: bool) -> None:
        """Let the picture wait at press points while playing, or pass them."""
        self.waits = on
        self._begin_anew()

    def draw_in(self, draw_time: DrawTime | dict[str, DrawTime]) -> None:
        """Pretend that drawing one picture takes so many seconds."""
        self.draw_time = draw_time
        self._begin_anew()

    def draw_from(self, seed: int | None) -> None:
        """Draw from pools by another seed than the project's, for listening; None: by that."""
        if seed != self.seed:
            self.seed = seed
            self._begin_anew()

    def _as_played(self, run: Run) -> Run:
        """The run on the machine that is pretended, with the draws that are listened to."""
        seed = run.seed if run.seed is not None else self.seed
        return replace(run, draw_time=self.draw_time, seed=seed)

    def times_of(self, scene: Scene) -> tuple[float, ...]:
        """The seconds each frame of a scene takes to draw."""
        times = self.draw_time
        if isinstance(times, dict):
            times = times.get(scene.id, 0.0)
        if not isinstance(times, tuple):
            return (times,) * scene.length
        return tuple(times[f % len(times)] if times else 0.0 for f in range(scene.length))

    def draw_scene(self, scene_id: str, times: tuple[float, ...]) -> None:
        """Pretend that the frames of one scene take so many seconds each; others as before."""
        scenes = self._session.document.project.scenes
        before: dict[str, DrawTime] = {scene.id: self.times_of(scene) for scene in scenes}
        self.draw_in({**before, scene_id: times})

    def tolerate(self, seconds: float | None) -> None:
        """Let sounds be ahead by so much before it counts."""
        if seconds != self.tolerance:
            self.tolerance = seconds
            self.tolerance_changed.emit()

    def draw_by_hand(self, *, on: bool) -> None:
        """Let the draw time be drawn on the sheet, or no more."""
        if on != self.drawing:
            self.drawing, self.drawn_value = on, ""
            self.drawing_changed.emit()

    def draw_value(self, value: str) -> None:
        """Let the line of a value be drawn on the sheet; of none: no more."""
        if value != self.drawn_value:
            self.drawing, self.drawn_value = False, value
            self.drawing_changed.emit()

    def _begin_anew(self) -> None:
        self._planned = 1
        if not self.keeps_presses:
            self.live = None
        self.changed.emit()

    # -- following -----------------------------------------------------------------------------

    def _follow(self) -> None:
        here = self._session.scene_id, self._session.playhead
        if here == self._origin:
            return
        self._origin = here
        live = self.live
        had_presses = live is not None and bool(live.presses or live.inputs)
        if not self._live_goes_on and not self.keeps_presses:
            self.live = None
        if self.from_playhead or had_presses or self.goes_live:
            self.changed.emit()

    def _follow_scene(self) -> None:
        if self.scope == "scene" and not self._live_goes_on:
            self.changed.emit()

    def _keep_up(self) -> None:
        """After an edit the run keeps what is still there of it; another film has its own."""
        document = self._session.document
        if document.era != self._era:
            self._era = document.era
            self.range, self.scope, self.live, self._passes = None, "film", None, None
            self._planned, self.shown_pass, self.keeps_presses = 1, 1, False
            self.draw_time, self.seed = 0.0, None
            self.draw_by_hand(on=False)
            self.draw_value("")
            self.range_changed.emit()
        if all(value.id != self.drawn_value for value in document.project.values):
            self.draw_value("")
        lengths = {scene.id: scene.length for scene in document.project.scenes}
        live = self.live
        if live is not None and live.frame >= lengths.get(live.scene or "", 0):
            self.live = None
        self._keep_range()

    def _keep_range(self) -> None:
        """A range keeps the frames that are still there."""
        marked, project = self.range, self._session.document.project
        if marked is None:
            return
        scene = next((x for x in project.scenes if x.id == marked.scene), None)
        if scene is None or marked.first >= scene.length:
            self.range, self.scope = None, "film"
            self.range_changed.emit()
        elif marked.last >= scene.length:
            self.range = marked._replace(last=scene.length - 1)
            self.range_changed.emit()

    # -- the runs ------------------------------------------------------------------------------

    def _there(self, scene_id: str | None, frame: int) -> bool:
        """Whether the film has that frame; a scene may just have been removed."""
        scenes = self._session.document.project.scenes
        return any(
            frame < scene.length for scene in scenes if scene.id == (scene_id or scenes[0].id)
        )

    def _live(self) -> Run | None:
        live = self.live
        return live if live is not None and self._there(live.scene, live.frame) else None

    def run(self) -> Run:
        """The run that is drawn, planned as far as the pass shown and playing need."""
        return self._as_played(self._drawn())

    def _drawn(self) -> Run:
        live = self._live()
        if live is not None and (live.presses or live.inputs):
            return replace(live, passes=self._as_far(1))
        shown = self.shown_pass if self.shown_pass != STEADY else MOST_PASSES + 2
        passes = self._as_far(shown)
        if self.scope == "scene":
            scene = self._session.scene_id
            frame = self._origin[1] if self.from_playhead and self._origin[0] == scene else 0
            return Run(scene=scene, frame=frame, only_scene=True, chase=self.chase, passes=passes)
        scene, frame = self._origin
        if not self.from_playhead or not self._there(scene, frame):
            return Run(passes=passes)
        return Run(scene=scene, frame=frame, chase=self.chase, passes=passes)

    def _as_far(self, shown: int) -> int:
        far = max(shown, self._planned) + AHEAD
        wanted = far if self.passes == ENDLESSLY else max(self.passes, shown)
        return min(wanted, far)

    @property
    def goes_live(self) -> bool:
        """Whether playing waits for presses, or pads are played."""
        apart = self.scope != "range" and self.shown_pass == 1
        return apart and (self.plays_pads or self._waits_for_presses)

    @property
    def _waits_for_presses(self) -> bool:
        return self.waits and waits_somewhere(self._session.document.project)

    def play_pads(self, *, on: bool) -> None:
        """Let pads answer while the film plays, or no more."""
        if on != self.plays_pads:
            self.plays_pads = on
            self.changed.emit()

    def played(self) -> Played | None:
        """What is played, where it is not what is drawn."""
        found = self._apart()
        if found is None:
            return None
        return found._replace(run=self._as_played(found.run))

    def _apart(self) -> Played | None:
        marked, live = self.range, self._live()
        if self.scope == "range" and marked is not None and self._there(marked.scene, marked.first):
            run = Run(scene=marked.scene, frame=marked.first, chase=self.chase)
            return Played(run, last=marked.last)
        if not self.goes_live:
            return None
        if live is not None and (self._live_goes_on or self.keeps_presses):
            return Played(replace(live, passes=self._as_far(1)), live=True)
        scene, frame = self._session.scene_id, self._session.playhead
        run = Run(
            scene=scene, frame=frame, only_scene=self.scope == "scene", passes=self._as_far(1),
            chase=self.chase, press_points="wait" if self._waits_for_presses else "pass",
        )  # fmt: skip
        return Played(run, live=True)

    # -- while playing -------------------------------------------------------------------------

    def fresh(self) -> None:
        """A run is about to be played anew: without the presses of the last, unless they are kept.

        It is planned again if it is another one.
        """
        self._live_goes_on = False
        if not self.keeps_presses:
            self.live = None
        self.changed.emit()

    def replay(self, run: Run) -> None:
        """Draw and play a run with its presses."""
        self.scope, self.waits, self.keeps_presses = "film", True, True
        self.shown_pass, self.draw_time = 1, run.draw_time
        waits = run.press_points if run.inputs else "wait"
        self.live = replace(run, press_points=waits, scene=run.scene or self._session.scene_id)
        self._passes = run.passes
        self.changed.emit()

    def begin(self) -> None:
        """Playing begins."""
        played = self.played()
        self.live = played.run if played is not None and played.live else None
        self._live_goes_on = True

    def end(self) -> None:
        """Playing is over."""
        self._live_goes_on = False

    def reach(self, number: int) -> None:
        """Pass ``number`` is being played: plan as many more as are needed."""
        more = self.passes == ENDLESSLY or self.passes > number + 1
        if more and number + 1 >= self._planned + AHEAD:
            self._planned *= 2
            self.changed.emit()

    def press(self, sample: int) -> None:
        """A press has been counted at that run sample of the live run."""
        if self.live is not None:
            self.live = replace(self.live, presses=(*self.live.presses, sample))
            self.changed.emit()

    def give(self, given: Input) -> None:
        """What was given has been counted, at its moment of the live run."""
        if self.live is not None:
            self.live = replace(self.live, inputs=(*self.live.inputs, given))
            self.changed.emit()

    def keep_presses(self, *, on: bool) -> None:
        """Keep the presses of the last run, to be drawn and played again, or let them go."""
        self.keeps_presses = on
        if not on:
            self._begin_anew()
