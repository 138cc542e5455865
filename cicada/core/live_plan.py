"""The plan of a live run, worked out a little ahead from where it was last.

What was given so far stays; so the state before each input is kept, and an input costs no more
after an hour and ten thousand of them than after the first.
"""

from bisect import bisect_left
from collections import deque
from collections.abc import Callable
from typing import NamedTuple

from msgspec.structs import replace

from cicada.core.acting import taken_in
from cicada.core.answers import Input
from cicada.core.live import going_on, in_order
from cicada.core.model import Project, Run
from cicada.core.placed import SceneTable, Tables
from cicada.core.plan import Glide, Plan
from cicada.core.planner import Film
from cicada.core.state import State
from cicada.core.timebase import seconds_to_samples

# How many states are kept: the last may be of a moment that nothing is given at after all.
KEPT = 4
# So many samples back every glide is kept: a jump is spread over what follows it.
GLIDES_KEPT = 10_000


class Ahead(NamedTuple):
    """What sounds from a moment on, up to run sample ``until``.

    ``whole`` says that the run does not go on after that.
    """

    plan: Plan
    until: int
    whole: bool


class _Kept(NamedTuple):
    """The state at run sample ``at``, before what is given there, and what was given before."""

    at: int
    presses: tuple[int, ...]
    inputs: tuple[Input, ...]
    state: State

    def leads_to(self, run: Run) -> bool:
        """Whether a run comes by it, too."""
        presses, inputs = len(self.presses), len(self.inputs)
        return (
            run.presses[:presses] == self.presses
            and run.inputs[:inputs] == self.inputs
            and all(press >= self.at for press in run.presses[presses:])
            and all(given.at >= self.at for given in run.inputs[inputs:])
        )


def _nothing() -> None:
    """Go on at once."""


class LivePlan:
    """Plans one live run of a project again and again, as more is given in it."""

    def __init__(self, project: Project) -> None:
        self._project, self._tables = project, Tables()
        self._scenes: dict[int, SceneTable] = {}
        self._bare: Run | None = None
        self._kept: deque[_Kept] = deque(maxlen=KEPT)

    def ahead(
        self, run: Run, now: int, seconds: float, between: Callable[[], None] = _nothing
    ) -> Ahead:
        """The run from sample ``now`` on, up to so many ``seconds`` from its origin.

        What was over before is left out, and what sounds longer is cut there. ``between`` is
        called before each frame. Raises what ``planner.plan`` raises.
        """
        bare = replace(run, presses=(), inputs=())
        if bare != self._bare:
            self._bare = bare
            self._kept.clear()
        kept = next((k for k in reversed(self._kept) if k.at <= now and k.leads_to(run)), None)
        # What a state was kept after is in order: of ten thousand only the newest are looked at.
        run = in_order(run) if kept is None else in_order(run, len(kept.presses), len(kept.inputs))
        whole = run.limit is not None and run.limit <= seconds
        limited = going_on(run if whole else replace(run, limit=seconds), self._project.rate)
        state = State() if kept is None else self._resumed(kept, limited)
        film = Film(self._project, limited, self._tables, state, plainly=False, closely=True)
        film.tables = self._scenes
        keeping = _Keeping(film, run, now, self._kept)
        film.entering.before_moment = keeping.before_moment
        walk = film.walk()
        while True:
            between()
            try:
                keeping.at_frame(next(walk))
            except StopIteration as over:
                plan: Plan = over.value
                break
        # Else it would hold itself, and looking for such garbage holds up the mixing.
        film.entering.before_moment = None
        if whole or not any(event.kind == "limited" for event in plan.events):
            return Ahead(plan, plan.length, whole=True)
        return Ahead(plan, seconds_to_samples(seconds, self._project.rate), whole=False)

    def _resumed(self, kept: _Kept, run: Run) -> State:
        """A copy of a kept state, under the run as it is now."""
        state, rate = kept.state.kept(), self._project.rate
        assert run.limit is not None
        state.limit = state.origin + seconds_to_samples(run.limit, rate)
        state.presses = sorted(state.origin + p for p in run.presses[len(kept.presses) :])
        state.inputs = taken_in(self._project, run.inputs[len(kept.inputs) :], state)
        state.taken = 0
        return state


class _Keeping:
    """Keeps the last state of a run in which what is given at ``now`` has not happened yet."""

    def __init__(self, film: Film, run: Run, now: int, into: deque[_Kept]) -> None:
        self._film, self._run, self._now, self._into = film, run, now, into
        base = film.entering.base
        # Frames differ by a sample in length; drawing them may take any time.
        self._frame = base.duration(0) + 1
        self._slow = bool(film.entering.draw_times)

    def at_frame(self, state: State) -> None:
        """A frame is about to be entered."""
        at = state.time - state.origin
        if state.standing is not None or not state.began or at > self._now:
            return
        if self._slow or at + self._frame >= self._now:
            self._keep(at)

    def before_moment(self, moment: int | None) -> None:
        """The picture stands, and the next that happens is at ``moment``, if anything does."""
        state = self._film.state
        at = state.time - state.origin
        later = moment is None or moment - state.origin >= self._now
        if state.began and at < self._now and later:
            # What happened at this very moment is in it.
            self._keep(at + 1)

    def _keep(self, at: int) -> None:
        state = self._film.state.kept()
        _forget(state)
        presses = self._run.presses[: bisect_left(self._run.presses, at)]
        inputs = self._run.inputs[: bisect_left(self._run.inputs, at, key=lambda given: given.at)]
        self._into.append(_Kept(at, presses, inputs, state))


def _forget(state: State) -> None:
    """Let go of what is over: it is not heard any more, and nothing depends on it."""
    state.forget_voices()
    if state.standing is None:
        state.events = []
    else:
        state.events = [state.events[state.standing.place]]
        state.standing = state.standing._replace(place=0)
    recent = bisect_left(state.glides, state.time - GLIDES_KEPT, key=lambda glide: glide.at)
    # Of those before, the last given to each value.
    last: dict[str, Glide] = {}
    for glide in state.glides[:recent]:
        last.pop(glide.value, None)
        last[glide.value] = glide
    state.glides = [*last.values(), *state.glides[recent:]]
