"""What the player has made ready beside the mixing: plans with presses, and mixers."""

import threading
from collections.abc import Callable, Iterator
from concurrent.futures import Future
from contextlib import contextmanager
from pathlib import Path
from typing import NamedTuple

from msgspec.structs import replace

from cicada.core.live import going_on
from cicada.core.live_plan import LivePlan
from cicada.core.mix import Mixer
from cicada.core.model import Run
from cicada.core.placed import Tables
from cicada.core.placements import Placements
from cicada.core.planner import plan
from cicada.media.cache import SoundCache
from cicada.media.sources import SoundSources
from cicada.playback.messages import Load


class Ready(NamedTuple):
    """A message with what mixes it: what a hand scrubs through, and what is played.

    What is played may be known from run sample ``since`` to ``until`` alone (None: to its end).
    """

    load: Load
    drawn: Mixer
    played: Mixer
    since: int = 0
    until: int | None = None


Muted = tuple[tuple[str, int], ...]
"""Clips that are not heard, by layer and frame."""
# Half seconds that a live run is planned ahead: a little where somebody waits for it.
AT_ONCE, FAR = 2, 4

# Seconds that a frame waits to be planned: who mixes all the time is behind, and has to go on.
PATIENCE = 0.02

Beside = Callable[[Callable[[], Ready]], "Future[Ready]"]


def at_once(make: Callable[[], Ready]) -> "Future[Ready]":
    """Have it made before this returns."""
    made: Future[Ready] = Future()
    made.set_result(make())
    return made


class Turns:
    """Mixing goes first: what is made ready beside it stands still meanwhile.

    Else both go on at half their speed at best, for only one of two threads computes at a time.
    """

    def __init__(self) -> None:
        self._resting = threading.Event()
        self._resting.set()

    @contextmanager
    def mixing(self) -> Iterator[None]:
        """Nothing goes on beside this, but for what is called in one go."""
        self._resting.clear()
        try:
            yield
        finally:
            self._resting.set()

    def let_go_on(self) -> None:
        """The mixer waits for what is made beside it."""
        self._resting.set()

    def give_way(self) -> None:
        """Wait for the mixer to rest, and not for good."""
        self._resting.wait(PATIENCE)


class Preparing:
    """Makes ready; one call at a time, on any thread."""

    def __init__(self, cache: SoundCache, turns: Turns) -> None:
        self._cache, self._turns = cache, turns
        self._tables = Tables()
        # The live run of the message before, and what its mixers have in common.
        self._live: tuple[Load, LivePlan, SoundSources, Placements] | None = None

    def _sources(self, load: Load) -> SoundSources:
        files = {sound: Path(path) for sound, path in load.files.items()}
        return SoundSources(load.project, files, self._cache, only_cached=True)

    def mixers(self, load: Load, muted: Muted, since: int = 0) -> Ready:
        """What mixes a message's plans, but for the clips that are muted."""
        sources = self._sources(load)
        drawn = Mixer(load.plan, load.project, sources, load.silent, muted)
        if load.played is None:
            return Ready(load, drawn, drawn)
        played = Mixer(load.played, load.project, sources, load.silent, muted, since)
        return Ready(load, drawn, played, since)

    def again(self, ready: Ready, muted: Muted) -> Ready:
        """The same with other clips muted."""
        return self.mixers(ready.load, muted, ready.since)._replace(until=ready.until)

    def with_inputs(self, load: Load, run: Run, muted: Muted) -> Ready:
        """The same with its live run as another one, planned as far as its next input."""
        played = plan(load.project, going_on(run, load.project.rate), self._tables)
        return self.mixers(replace(load, played=played, live=run), muted)

    def ahead(
        self, load: Load, run: Run, now: int, drawn: Mixer, muted: Muted, half_seconds: int
    ) -> Ready:
        """What mixes the live run, as another one, from sample ``now`` on and a little ahead.

        That is so many ``half_seconds``, counted from the last whole one. ``drawn`` goes on mixing
        what a hand scrubs through.
        """
        live, sources, placements = self._going_on(load)
        until = (2 * now // load.project.rate + half_seconds) / 2
        found = live.ahead(run, now, until, self._turns.give_way)
        played = Mixer(
            found.plan, load.project, sources, load.silent, muted, since=now, placements=placements
        )
        known = None if found.whole else found.until
        return Ready(replace(load, played=found.plan, live=run), drawn, played, now, known)

    def _going_on(self, load: Load) -> tuple[LivePlan, SoundSources, Placements]:
        before = self._live
        if before is None or before[0].project is not load.project:
            live = LivePlan(load.project)
            before = load, live, self._sources(load), Placements(load.project)
        elif before[0].files is not load.files:
            before = load, before[1], self._sources(load), before[3]
        self._live = before
        return before[1:]
