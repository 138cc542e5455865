"""The slowest machine on which sounds stay with the picture, found by trying.

A film that is fine at one draw time need not be at a shorter one: with a longer one a sound may be
fired while the picture is late anyway. So draw times are tried upward from the frame's own length,
millisecond by millisecond, and then sample by sample where the first fails: up to there each works.
"""

from collections.abc import Callable
from typing import NamedTuple

from msgspec.structs import replace

from cicada.core.drift import drifts
from cicada.core.editing import Cell
from cicada.core.model import Project, Run
from cicada.core.placed import Tables
from cicada.core.planner import plan

# Seconds that drawing a picture takes at most, of those tried.
MOST = 1.0
Progress = Callable[[float], bool]


class Slowest(NamedTuple):
    """The longest draw times, in samples, up to which each works; None where none fails.

    ``clips`` are those that start free or hold voices, ``film`` is for all, and ``first`` the clips
    that give first.
    """

    film: int | None
    first: tuple[Cell, ...]
    clips: dict[Cell, int | None]


def _go_on(_: float) -> bool:
    return True


def slowest(
    project: Project, run: Run, tolerance: int, progress: Progress = _go_on, most: float = MOST
) -> Slowest | None:
    """How slow a machine may be for no sound to be ahead by more than ``tolerance`` samples.

    ``progress`` is told the share done and answers whether to go on; None if it does not.
    """
    tables = Tables()
    own = project.rate * project.fps[1] // project.fps[0]
    last = max(own, int(most * project.rate))

    def ahead(samples: int) -> dict[Cell, bool]:
        slow = plan(project, replace(run, draw_time=samples / project.rate), tables)
        found: dict[Cell, bool] = {}
        for drift in drifts(slow):
            cell = drift.voice.cell
            found[cell] = found.get(cell, False) or drift.largest > tolerance
        return found

    clips: dict[Cell, int | None] = dict.fromkeys(ahead(own))
    left, works, step = set(clips), own, 0
    while left and works < last:
        step += 1
        tried = min(last, own + step * project.rate // 1000)
        failing = ahead(tried)
        if any(failing.get(cell, False) for cell in left):
            # To the sample: the last before it at which each of them works.
            for samples in range(works + 1, tried + 1):
                now = failing if samples == tried else ahead(samples)
                for cell in [each for each in left if now.get(each, False)]:
                    clips[cell] = samples - 1
                    left.discard(cell)
                if not progress(samples / last):
                    return None
        works = tried
        if not progress(works / last):
            return None
    limits = [limit for limit in clips.values() if limit is not None]
    film = min(limits, default=None)
    first = tuple(cell for cell, limit in clips.items() if film is not None and limit == film)
    return Slowest(film, first, clips)
