"""A plan worked out portion by portion, however long its run is.

What is over is handed on and forgotten, so memory grows only with what is open at once. Pictures
and events come in their order; voices come as they end, each with what they are ordered by.
"""

from collections.abc import Iterable, Iterator, Sequence
from itertools import chain, islice
from typing import NamedTuple

from cicada.core.model import Project, Run
from cicada.core.placed import Tables
from cicada.core.plain import Ordered
from cicada.core.plan import Event, Glide, Picture, Plan, Stretch, Visit, entries
from cicada.core.planner import Film
from cicada.core.state import State
from cicada.core.timebase import Timebase
from cicada.core.writing import events_from, voices_from

# How much is over before it is handed on.
PORTION = 5000


class Portion(NamedTuple):
    """What is known for sure by now, and was not before; ``pictures`` are made as they are read.

    ``anew`` says that the voices and events handed on before are not it, and these are all.
    ``over`` has the plan's end and length, once, and ``glides`` all there were.
    """

    pictures: Iterable[Picture]
    voices: list[Ordered]
    events: list[Event]
    anew: bool = False
    over: tuple[int, int] | None = None
    glides: tuple[Glide, ...] = ()


def portions(project: Project, run: Run, size: int = PORTION) -> Iterator[Portion]:
    """The plan of a run, the last portion being over; raises what ``planner.plan`` raises."""
    state = State()
    film = Film(project, run, Tables(), state, plainly=False)
    base, walk = film.entering.base, film.walk()
    length = shown = 0
    while True:
        try:
            next(walk)
        except StopIteration as last:
            plan: Plan = last.value
            break
        if max(len(state.voices), len(state.events), len(state.stretches)) <= size:
            continue
        if not state.began:
            _forget(state)
            continue
        stretches = state.stretches[:-1]
        pictures = _pictures(stretches, _visits_of(state, stretches), base, state.origin)
        shown += sum(stretch.length for stretch in stretches if stretch.shown)
        voices, events = _over(state), events_from(state.events, state.origin)
        length = max([length, *(voice.end for _, voice in voices)])
        _forget(state)
        yield Portion(pictures, voices, events)
    if film.in_one_piece:
        rest: Iterable[Picture] = islice(plan.picture(), shown, None)
        voices = [((v.start, *v.anchor, n), v) for n, v in enumerate(plan.voices)]
    else:
        voices = voices_from(state.voices, state.origin)
        visits = _visits_of(state, plan.stretches)
        rest = _pictures(plan.stretches, visits, base, 0)
    yield Portion(
        rest,
        voices,
        list(plan.events),
        anew=film.in_one_piece,
        over=(plan.end, plan.length if film.in_one_piece else max(length, plan.length)),
        glides=plan.glides,
    )


def _visits_of(state: State, stretches: Sequence[Stretch]) -> dict[int, Visit]:
    """The visits that stretches are of, by their index."""
    first = state.visit + 1 - len(state.visits)
    return {number: state.visits[number - first] for number in {s.visit for s in stretches}}


def _pictures(
    stretches: Sequence[Stretch], visits: dict[int, Visit], base: Timebase, origin: int
) -> Iterator[Picture]:
    for stretch in stretches:
        if stretch.shown:
            scene = visits[stretch.visit].scene
            for at, frame in entries(stretch, base):
                yield Picture(at - origin, scene, frame)


def _over(state: State) -> list[Ordered]:
    return voices_from([v for v in state.voices if state.is_over(v)], state.origin)


def _forget(state: State) -> None:
    """Let go of what is over: before the origin it is not heard, and after it is handed on."""
    state.forget_voices()
    state.events.clear()
    del state.stretches[:-1]
    needed = min(chain((s.visit for s in state.stretches), (state.visit,)))
    first = state.visit + 1 - len(state.visits)
    del state.visits[: needed - first]
