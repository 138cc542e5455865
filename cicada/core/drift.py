"""How far sounds run ahead of a picture that a slow machine keeps back (semantics.md, section 6).

Where the picture leads, a shown frame lasts until it is drawn, and free and hold voices go on: they
are ahead of it by all that frames have lasted too long since they began. So drift never shrinks,
and grows in steps, one at each frame that was late.
"""

from collections.abc import Iterable, Iterator
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from cicada.core.plan import Plan, Stretch, Voice
from cicada.core.timebase import Timebase

Samples = NDArray[np.int64]


class Step(NamedTuple):
    """Where drift grows: a frame that is entered at ``at`` and lasts ``late`` samples too long."""

    at: int
    scene: str
    frame: int
    late: int


class Drift(NamedTuple):
    """A voice against the pictures that are shown while it sounds.

    ``ats`` is when each is entered and ``ahead`` by how many samples the voice is ahead there.
    """

    voice: Voice
    ats: Samples
    ahead: Samples

    @property
    def largest(self) -> int:
        """The largest there is, in samples."""
        return int(self.ahead.max())

    @property
    def last(self) -> int:
        """That at the last picture, in samples."""
        return int(self.ahead[-1])

    def beyond(self, tolerance: int) -> int | None:
        """When the first picture is entered where it is more than that many samples; or None."""
        over = np.flatnonzero(np.abs(self.ahead) > tolerance)
        return int(self.ats[over[0]]) if len(over) else None


class Lateness:
    """By how much the picture of a run is late at each moment, standstills left aside."""

    def __init__(self, plan: Plan) -> None:
        self._plan = plan
        slow = [stretch for stretch in plan.stretches if stretch.late]
        base = plan.timebase
        # When each frame that is late should have been over, and how late it was.
        self._due = np.array([_due(stretch, base) for stretch in slow], np.int64)
        self._late = np.array([stretch.late for stretch in slow], np.int64)
        self._sums = np.concatenate(([0], np.cumsum(self._late)))
        self._slow = slow

    def at(self, moments: Samples) -> Samples:
        """How late it is at run samples, whatever their order."""
        before = np.searchsorted(self._due, moments, "left")
        late = self._sums[before]
        # A moment inside the time a frame lasts too long.
        inside = np.maximum(before - 1, 0)
        if len(self._due):
            over = moments - (self._due[inside] + self._late[inside])
            late = late + np.where(before > 0, np.minimum(over, 0), 0)
        return np.asarray(late, np.int64)

    def steps(self, start: int, end: int) -> Iterator[Step]:
        """The frames that were late between two run samples, with how much of that falls there."""
        base, visits = self._plan.timebase, self._plan.visits
        first = int(np.searchsorted(self._due + self._late, start, "right"))
        for stretch, due in zip(self._slow[first:], self._due[first:].tolist(), strict=True):
            if due >= end:
                break
            frame = stretch.frame + stretch.length - 1
            entered = stretch.at if stretch.length == 1 else due - base.duration(frame)
            late = min(end, due + stretch.late) - max(start, due)
            yield Step(entered, visits[stretch.visit].scene, frame, late)


def _due(stretch: Stretch, base: Timebase) -> int:
    """When the last frame of a stretch should be over."""
    moves = base.start(stretch.frame + stretch.length) - base.start(stretch.frame)
    return stretch.at + stretch.stands + moves


def drifts(plan: Plan, voices: Iterable[Voice] | None = None) -> list[Drift]:
    """Of each free or hold voice during which a picture is shown, in the plan's order.

    ``voices`` are those that are asked about, if not all.
    """
    lateness = Lateness(plan)
    shown = [s for s in plan.stretches if s.shown]
    ats = np.fromiter((at for s in shown for at, _ in plan.entries(s)), np.int64)
    late = lateness.at(ats)
    found = []
    for voice in plan.voices if voices is None else voices:
        if voice.sync == "locked":
            continue
        first, last = np.searchsorted(ats, (voice.start, voice.end), "left")
        if first < last:
            began = lateness.at(np.array([voice.start]))[0]
            found.append(Drift(voice, ats[first:last], late[first:last] - began))
    return found
