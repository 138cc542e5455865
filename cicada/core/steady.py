"""The pass from which a film goes on in the same way (semantics.md, section 9)."""

from cicada.core.model import Project
from cicada.core.plan import Plan

# As far as is looked for a steady pass; one more is needed to see that the last stays so.
MOST_PASSES = 10


def may_settle(project: Project) -> bool:
    """Whether a steady pass is looked for: not where pools are drawn from or pads watch."""
    return not project.pools and all(pad.watch is None or pad.off for pad in project.pads)


def steady_pass(plan: Plan) -> int | None:
    """The first pass from which all have the same pictures, voices and events; None for none.

    ``plan`` is one of more passes than ``MOST_PASSES``; its last, which has no next, is not
    looked at. What sounds in a pass counts as far as it is heard there, whenever it began.
    """
    passes = [_Pass(plan, number) for number in range(1, plan.visits[-1].number)]
    first = len(passes)
    while first > 1 and passes[first - 2].same_as(passes[-1]):
        first -= 1
    return first if first <= MOST_PASSES and first < len(passes) else None


class _Pass:
    """What happens in one pass, in samples from its beginning."""

    def __init__(self, plan: Plan, number: int) -> None:
        visits = [(i, v) for i, v in enumerate(plan.visits) if v.number == number]
        self._first, self._start = visits[0][0], visits[0][1].start
        self._end = visits[-1][1].end
        inside = {index for index, _ in visits}
        self.pictures = [
            s._replace(at=s.at - self._start, visit=s.visit - self._first)
            for s in plan.stretches
            if s.visit in inside
        ]
        self.voices = sorted(
            (
                voice.scene,
                voice.layer,
                voice.frame,
                max(0, voice.start - self._start),
                min(voice.end, self._end) - self._start,
                voice.ended if voice.end <= self._end else "",
                tuple(
                    (max(0, start - self._start), min(end, self._end) - self._start)
                    for start, end, _ in voice.pieces
                    if start < self._end and end > self._start
                ),
            )
            for voice in plan.voices
            if voice.start < self._end and voice.end > self._start
        )
        self.events = [
            (
                event.kind,
                event.scene,
                event.layer,
                event.frame,
                event.at - self._start,
                None if event.until is None else event.until - self._start,
            )
            for event in plan.events
            if event.kind != "limited" and event.visit in inside
        ]

    def same_as(self, other: "_Pass") -> bool:
        return (self.pictures, self.voices, self.events) == (
            other.pictures,
            other.voices,
            other.events,
        )
