"""Which numbers of a value play what: the parts of a pool or blend, or the pads that watch it."""

from collections.abc import Sequence
from itertools import pairwise
from typing import NamedTuple

from msgspec.structs import replace

from cicada.core.answers import Blend, Pool, Range, Value
from cicada.core.model import Project


class Stretch(NamedTuple):
    """Numbers from ``low`` up to ``high`` (that one too if ``closed``), and what they play.

    ``parts`` are places in the list that was asked about. Of a blend there are two where it goes
    from one to the other.
    """

    low: float
    high: float
    closed: bool
    parts: tuple[int, ...]


def ranges_over(value: Value, ranges: Sequence[Range | None]) -> list[Stretch]:
    """The whole of a value, cut where anything changes; None is always open."""
    ends = {value.low, value.high}
    for low, high in filter(None, ranges):
        ends |= {end for end in (low, high) if value.low < end < value.high}
    places = sorted(ends)
    found: list[Stretch] = []
    for low, high in pairwise(places):
        inside = tuple(
            place for place, each in enumerate(ranges)
            if each is None or (each[0] <= low and high <= each[1])
        )  # fmt: skip
        found.append(Stretch(low, high, high == value.high, inside))
    return found


def pool_coverage(project: Project, pool: Pool, value: str) -> list[Stretch]:
    """What may be drawn by the numbers of one value; what another opens counts as open."""
    ranges = [part.range if part.value == value else None for part in pool.parts]
    return ranges_over(project.value(value), ranges)


def pool_values(pool: Pool) -> tuple[str, ...]:
    """The values that open parts of a pool, each once."""
    return tuple(dict.fromkeys(part.value for part in pool.parts if part.value is not None))


def gaps(project: Project, pool: Pool) -> list[tuple[str, Stretch]]:
    """The values and numbers at which nothing of a pool is open.

    A pool with a part that is always open has none; where several values open its parts, only
    what no part of another value could fill is one.
    """
    values = pool_values(pool)
    if len(values) != 1 or any(part.value is None for part in pool.parts):
        return []
    covered = pool_coverage(project, pool, values[0])
    return [(values[0], stretch) for stretch in covered if not stretch.parts]


def gap_closed(project: Project, pool: Pool, gap: Stretch) -> Pool:
    """The pool with a gap closed: what ends below it rises to where the next begins.

    At the lowest end what begins above it goes down to that.
    """
    value = project.value(pool_values(pool)[0])
    parts = list(pool.parts)
    for place, part in enumerate(parts):
        if part.range is None:
            continue
        low, high = part.range
        if high == gap.low and gap.low > value.low:
            parts[place] = replace(part, range=(low, gap.high))
            return replace(pool, parts=tuple(parts))
    for place, part in enumerate(parts):
        if part.range is not None and part.range[0] == gap.high:
            parts[place] = replace(part, range=(gap.low, part.range[1]))
            return replace(pool, parts=tuple(parts))
    return pool


def blend_coverage(project: Project, blend: Blend) -> list[Stretch]:
    """Which parts of a blend sound, alone or going over, by the numbers of its value."""
    value = project.value(blend.value)
    ats = [part.at for part in blend.parts]
    places = sorted({value.low, value.high} | {at for at in ats if value.low < at < value.high})
    found = []
    for low, high in pairwise(places):
        if high <= ats[0]:
            parts: tuple[int, ...] = (0,)
        elif low >= ats[-1]:
            parts = (len(ats) - 1,)
        else:
            before = max(place for place, at in enumerate(ats) if at <= low)
            parts = before, before + 1
        found.append(Stretch(low, high, high == value.high, parts))
    return found


def watch_coverage(project: Project, value: str) -> list[Stretch]:
    """Which pads watch which numbers of a value; places in the project's list of pads."""
    wanted = project.value(value)
    nowhere = (wanted.high, wanted.high)
    ranges = [
        pad.watch.enters if pad.watch is not None and pad.watch.value == value else nowhere
        for pad in project.pads
    ]
    return ranges_over(wanted, ranges)
