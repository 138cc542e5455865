"""What the player has made ready beside the mixing: plans with presses, and mixers."""

from collections.abc import Callable
from concurrent.futures import Future
from pathlib import Path
from typing import NamedTuple

from msgspec.structs import replace

from cicada.core.live import going_on
from cicada.core.mix import Mixer
from cicada.core.model import Run
from cicada.core.placed import Tables
from cicada.core.planner import plan
from cicada.media.cache import SoundCache
from cicada.media.sources import SoundSources
from cicada.playback.messages import Load


class Ready(NamedTuple):
    """A message with what mixes it: what a hand scrubs through, and what is played."""

    load: Load
    drawn: Mixer
    played: Mixer


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

    def mixers(self, load: Load, muted: tuple[tuple[str, int], ...]) -> Ready:
        """What mixes a message's plans, but for the clips that are muted."""
        files = {sound: Path(path) for sound, path in load.files.items()}
        sources = SoundSources(load.project, files, self._cache, only_cached=True)
        drawn = Mixer(load.plan, load.project, sources, load.silent, muted)
        if load.played is None:
            return Ready(load, drawn, drawn)
        return Ready(load, drawn, Mixer(load.played, load.project, sources, load.silent, muted))

    def with_inputs(self, load: Load, run: Run, muted: tuple[tuple[str, int], ...]) -> Ready:
        """The same with its live run as another one, planned as far as its next input."""
        played = plan(load.project, going_on(run, load.project.rate), self._tables)
        return self.mixers(replace(load, played=played, live=run), muted)
