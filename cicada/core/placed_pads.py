"""The pads of a film made ready for planning: what each does, in samples, and what it watches."""

from dataclasses import dataclass
from typing import NamedTuple

from cicada.core.answers import Fire, GlideDeed, GoOn, HushDeed, Pad
from cicada.core.exact import ExactRange
from cicada.core.model import Project, clip_of
from cicada.core.placed import PlacedClip, PlacedHush, Placing, RowKey, Tables
from cicada.core.plan import Anchor
from cicada.core.timebase import seconds_to_samples

NOWHERE = Anchor("", "", 0)


class PlacedGlide(NamedTuple):
    """A glide a pad gives, in samples."""

    value: str
    to: float | None
    over: int


PlacedDeed = PlacedHush | PlacedClip | PlacedGlide | GoOn


@dataclass(slots=True, eq=False)
class PlacedPad:
    """A pad made ready: what it does, and what it watches."""

    pad: Pad
    row: RowKey
    deeds: list[PlacedDeed]
    watch: ExactRange | None


def placed_pads(project: Project, tables: Tables) -> list[PlacedPad]:
    """The pads of a film that act, made ready in the order of the list; made once for ``tables``.

    What waits is known again by what it was made of.
    """
    rows, placing = len(project.scenes), tables.placing
    known: tuple[tuple[Pad, ...], int, Placing, list[PlacedPad]] | None = tables.pads
    if known is not None and known[0] is project.pads and known[1:3] == (rows, placing):
        return known[3]
    found: list[PlacedPad] = []
    for number, pad in enumerate(project.pads):
        if not pad.off:
            deeds = _deeds(pad, (rows, number), project.rate, placing)
            watch = placing.range(pad.watch.value, pad.watch.enters) if pad.watch else None
            found.append(PlacedPad(pad, (rows, number), deeds, watch))
    tables.pads = project.pads, rows, placing, found
    return found


def _deeds(pad: Pad, row: RowKey, rate: int, placing: Placing) -> list[PlacedDeed]:
    found: list[PlacedDeed] = []
    for number, deed in enumerate(pad.does):
        if isinstance(deed, Fire):
            placed = placing.clip(row, NOWHERE, clip_of(deed, 0), None, 0)
            if placed is not None:
                placed.fire = number
                for choice in placed.choices:
                    if choice.placed is not None:
                        choice.placed.fire = number
                found.append(placed)
        elif isinstance(deed, HushDeed):
            target = "layer" if deed.target == "pad" else deed.target
            fade = seconds_to_samples(deed.fade, rate)
            found.append(PlacedHush(row, NOWHERE, target, deed.sound, fade))
        elif isinstance(deed, GlideDeed):
            over = seconds_to_samples(deed.over, rate)
            found.append(PlacedGlide(deed.value, deed.to, over))
        else:
            found.append(deed)
    return found
