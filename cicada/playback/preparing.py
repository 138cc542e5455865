"""What the player has made ready beside the mixing: plans with presses, and mixers."""

from collections.abc import Callable
from concurrent.futures import Future
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
# Whole seconds that a live run is planned ahead.
AHEAD = 4

Beside = Callable[[Callable[[], Ready]], "Future[Ready]"]


def at_once(make: Callable[[], Ready]) -> "Future[Ready]":
    """Have it made before this returns."""
    made: Future[Ready] = Future()
    made.set_result(make())
    return made


class Preparing:
    """Makes ready; one call at a time, on any thread."""

    def __init__(self, cache: SoundCache) -> None:
        self._cache = cache
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

    def ahead(self, load: Load, run: Run, now: int, drawn: Mixer, muted: Muted) -> Ready:
        """What mixes the live run, as another one, from sample ``now`` on and a little ahead.

        ``drawn`` goes on mixing what a hand scrubs through.
        """
        live, sources, placements = self._going_on(load)
        found = live.ahead(run, now, float(now // load.project.rate + AHEAD))
        played = Mixer(
            found.plan, load.project, sources, load.silent, muted, since=now, placements=placements
        )
        until = None if found.whole else found.until
        return Ready(replace(load, played=found.plan, live=run), drawn, played, now, until)

    def _going_on(self, load: Load) -> tuple[LivePlan, SoundSources, Placements]:
        before = self._live
        if before is None or before[0].project is not load.project:
            live = LivePlan(load.project)
            before = load, live, self._sources(load), Placements(load.project)
        elif before[0].files is not load.files:
            before = load, before[1], self._sources(load), before[3]
        self._live = before
        return before[1:]
