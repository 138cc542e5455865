"""Which sample is audible by now, and when the picture's next frame is due."""

from math import ceil

from cicada.core.plan import Plan
from cicada.playback.messages import Status

# Milliseconds between two looks at the player, at most.
TICK = 12
# Seconds from knowing which picture is due to its being painted.
PAINTING = 0.002
# Beyond so many seconds without a word the player is taken to stand.
SILENT = 0.25


def audible(status: Status, now: float, correction: float) -> float:
    """The sample that is audible at ``now``, in seconds of the player's clock.

    ``correction`` is how many seconds later than it says the device sounds.
    """
    elapsed = min(SILENT, max(0.0, now - status.clock))
    return status.sample + (elapsed - correction) * status.rate * status.pace


def until_next_frame(plan: Plan, shown: float, heard: float, status: Status) -> int:
    """Milliseconds until the frame after that at sample ``shown`` is due, ``TICK`` at most."""
    if not plan.stretches or not 0 <= shown < plan.end or not status.pace:
        return TICK
    _, frame, _ = plan.frame_at(int(shown))
    begins = plan.entered(frame + 1, plan.stretch_at(int(shown)).visit)
    if begins is None:
        return 1 if plan.end - shown < plan.rate * TICK / 1000 else TICK
    left = (begins - heard) / (status.rate * status.pace) - PAINTING
    return max(1, min(TICK, ceil(left * 1000)))
