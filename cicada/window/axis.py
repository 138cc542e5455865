"""Where moments of a run stand on the sheet, whose axis is the picture's frames."""

import numpy as np
from numpy.typing import NDArray

from cicada.core.plan import Plan

Numbers = NDArray[np.float64]


class Axis:
    """One visit of a plan on the axis of its scene's frames."""

    def __init__(self, plan: Plan, visit: int, length: int) -> None:
        self.plan, self.visit, self.length = plan, visit, length
        self.stay = plan.visits[visit]
        self._base = plan.timebase
        self._stretches = [s for s in plan.stretches if s.visit == visit]

    def place(self, sample: int) -> float:
        """The place, in frames, of a run sample; the scene's edges for what lies outside."""
        if sample <= self.stay.start or not self._stretches:
            return float(self._stretches[0].frame) if self._stretches else 0.0
        if sample >= self.stay.end:
            return self.stay.last
        visit, frame, share = self.plan.frame_at(sample)
        if visit != self.stay:
            return self.stay.last
        return frame + share

    def samples(self, places: Numbers) -> NDArray[np.int64]:
        """The run sample the picture moves through at each place (ascending), waits left out."""
        result = np.empty(len(places), np.int64)
        base = self._base
        for stretch in self._stretches:
            first, last = stretch.frame, stretch.frame + stretch.length
            inside = (places >= first) & (places <= last)
            if not inside.any():
                continue
            here = places[inside]
            low, high = int(here.min()), min(last, int(here.max()) + 1)
            frames = np.arange(low, high + 1)
            starts = [base.start(int(frame)) for frame in frames]
            moved = np.interp(here, frames, starts) - base.start(first)
            result[inside] = (stretch.at + stretch.stands + moved).astype(np.int64)
        if self._stretches:
            result[places > self.stay.last] = self.stay.end
        return result


def visits_of(plan: Plan, scene: str, number: int = 1) -> int | None:
    """The index of a scene's visit in one pass; None if the run does not come there."""
    for index, visit in enumerate(plan.visits):
        if visit.scene == scene and visit.number == number:
            return index
    return None
