"""A clip's own length in samples, and when each of its loops begins (semantics.md, section 2)."""

from typing import NamedTuple

from cicada.core.model import Clip
from cicada.core.timebase import decimal_ratio, round_half_up, seconds_to_samples
from cicada.core.values import WHOLE


class ClipTiming(NamedTuple):
    """All in samples of the project. Clip time 0 is where the clip starts.

    ``first`` and ``last`` bound the trimmed sound before its speed, ``loop`` is the length of
    one loop after it, ``step`` the distance from one loop's beginning to the next. ``total``
    is None for an endless clip, and 0 for one with nothing to play.
    """

    first: int
    last: int
    loop: int
    step: int
    delay: int
    offset: int
    loops: int
    total: int | None

    def loop_begins(self, index: int) -> int:
        """The clip time at which loop ``index`` begins (before the clip's start with an offset)."""
        return self.delay - self.offset + index * self.step


def clip_timing(clip: Clip, whole: int, rate: int) -> ClipTiming:
    """Work out ``clip``'s lengths at the project's ``rate``.

    ``whole`` is the length in samples of what it plays.
    """
    first, last = 0, whole
    if clip.trim is not WHOLE:
        head, tail = clip.trim
        first = min(seconds_to_samples(head, rate), whole)
        if tail is not None:
            last = min(seconds_to_samples(tail, rate), whole)
        last = max(first, last)
    loop = last - first
    if clip.speed != 1:
        numerator, denominator = decimal_ratio(clip.speed)
        loop = round_half_up(loop * denominator, numerator)
    overlap = 0
    if clip.loop_overlap:
        overlap = min(seconds_to_samples(clip.loop_overlap, rate), loop // 2)
    offset = min(seconds_to_samples(clip.offset, rate), loop) if clip.offset else 0
    delay = seconds_to_samples(clip.delay, rate) if clip.delay else 0
    step = loop - overlap
    if not loop:
        total: int | None = 0
    elif clip.loops:
        sounding = clip.loops * step + overlap - offset
        total = delay + sounding if sounding else 0
    else:
        total = None
    return ClipTiming(first, last, loop, step, delay, offset, clip.loops, total)
