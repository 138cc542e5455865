"""Where the picture is at any sample of a run, and what the lines that follow it are worth."""

from bisect import bisect_left, bisect_right

import numpy as np

from cicada.core.lines import Curve, Gains, spread_jump
from cicada.core.model import Scene
from cicada.core.plan import Plan, Stretch
from cicada.core.timebase import round_half_up
from cicada.core.values import Line


class Motion:
    """The picture's position (semantics.md, 8) over the run of a plan."""

    def __init__(self, plan: Plan) -> None:
        self.plan = plan
        self.base = plan.timebase
        self.ramp = round_half_up(plan.rate, 500)
        self._entered = [stretch.at for stretch in plan.stretches]
        self._visit_of = [stretch.visit for stretch in plan.stretches]

    def positions(self, visit: int, start: int, end: int) -> Gains:
        """The position in frames at each run sample of ``start..end``, as that visit has it."""
        stay = self.plan.visits[visit]
        result = np.full(end - start, stay.last)
        first = bisect_left(self._visit_of, visit)
        last = bisect_right(self._visit_of, visit)
        index = max(first, bisect_right(self._entered, start, first, last) - 1)
        while index < last:
            stretch = self.plan.stretches[index]
            until = self._entered[index + 1] if index + 1 < last else stay.end
            low, high = max(start, stretch.at), min(end, until)
            if stretch.at >= end:
                break
            if low < high:
                result[low - start : high - start] = self._along(stretch, low, high)
            index += 1
        return result

    def _along(self, stretch: Stretch, start: int, end: int) -> Gains:
        base = self.base
        origin = stretch.at + stretch.stands - base.start(stretch.frame)
        low, high = base.start(stretch.frame), base.start(stretch.frame + stretch.length)
        moved = np.clip(np.arange(start - origin, end - origin), low, high)
        first = base.frame_at(int(moved[0]))
        frames = range(first, base.frame_at(int(moved[-1])) + 2)
        return np.interp(moved, [base.start(frame) for frame in frames], list(frames))

    def reached(self, visit: int, position: float) -> float | None:
        """The run sample at which that visit's picture passes ``position``; None if it does not."""
        first = bisect_left(self._visit_of, visit)
        last = bisect_right(self._visit_of, visit)
        for stretch in self.plan.stretches[first:last]:
            if position > stretch.frame + stretch.length:
                continue
            if position < stretch.frame:
                return None
            whole = int(position)
            if whole == stretch.frame and whole == position:
                return float(stretch.at)
            moved = self.base.start(whole) - self.base.start(stretch.frame)
            share = (position - whole) * self.base.duration(whole)
            return stretch.at + stretch.stands + moved + share
        return None


class PictureLine:
    """A layer's line in one visit: its gain by run sample, jumps spread over 2 ms."""

    def __init__(self, motion: Motion, line: Line, visit: int) -> None:
        self.motion = motion
        self.curve = Curve(line)
        self.visit = visit
        self._jumps = []
        start = motion.plan.visits[visit].start
        for place, height in self.curve.jumps:
            moment = motion.reached(visit, place)
            if moment is not None and moment > start:
                self._jumps.append((moment, height))

    def gains(self, start: int, end: int) -> Gains:
        """The gain at each run sample of ``start..end``."""
        gains = self.curve.values(self.motion.positions(self.visit, start, end))
        moments = np.arange(start, end, dtype=np.float64)
        for moment, height in self._jumps:
            if start - self.motion.ramp < moment < end:
                spread_jump(gains, moments, moment, height, self.motion.ramp)
        return gains


class MasterLine:
    """The master lines of all scenes along a run: what everything that sounds is multiplied by."""

    def __init__(self, motion: Motion, scenes: tuple[Scene, ...]) -> None:
        self.motion = motion
        by_id = {scene.id: scene.master for scene in scenes}
        visits = motion.plan.visits
        self.active = any(by_id[visit.scene] for visit in visits)
        self._stays = [i for i, visit in enumerate(visits) if visit.end > 0 or i == len(visits) - 1]
        self._lines = {i: PictureLine(motion, by_id[visits[i].scene], i) for i in self._stays}
        self._starts = [visits[i].start for i in self._stays]
        self._changes = []
        for earlier, later in zip(self._stays, self._stays[1:], strict=False):
            moment = visits[later].start
            value = self._lines[later].curve.at(0.0)
            height = value - self._lines[earlier].curve.at(visits[earlier].last)
            if height:
                self._changes.append((moment, height))

    def gains(self, start: int, end: int) -> Gains:
        """The gain at each run sample of ``start..end``."""
        gains = np.ones(end - start)
        index = max(0, bisect_right(self._starts, start) - 1)
        while index < len(self._stays):
            low = max(start, self._starts[index]) if index else start
            last = index + 1 == len(self._stays)
            high = end if last else min(end, self._starts[index + 1])
            if low < high:
                line = self._lines[self._stays[index]]
                gains[low - start : high - start] = line.gains(low, high)
            if high >= end:
                break
            index += 1
        moments = np.arange(start, end, dtype=np.float64)
        for moment, height in self._changes:
            if start - self.motion.ramp < moment < end:
                spread_jump(gains, moments, moment, height, self.motion.ramp)
        return gains
