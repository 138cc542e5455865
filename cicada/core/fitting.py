"""A loop made as long as so many beats, by its speed or by where it ends."""

from msgspec.structs import replace

from cicada.core.model import Clip
from cicada.core.shaping import Shaping
from cicada.core.timebase import samples_to_seconds, seconds_to_samples
from cicada.errors import BadEdit

SLOWEST, FASTEST = 0.1, 10.0


def loop_length(shaping: Shaping) -> int:
    """How many samples pass from one loop of a clip to the next."""
    return shaping.timing.step


def _loop(shaping: Shaping, samples: int) -> int:
    """How long a loop is whose next begins ``samples`` later: an overlap is at most half of it."""
    overlap = seconds_to_samples(shaping.clip.loop_overlap, shaping.rate)
    return samples + min(overlap, samples)


def fitted_by_speed(shaping: Shaping, samples: int) -> Clip:
    """The clip with loops ``samples`` apart, faster or slower; raises ``BadEdit``."""
    timing, clip = shaping.timing, shaping.clip
    length = _loop(shaping, samples)
    if timing.last <= timing.first or length < 1:
        raise BadEdit("there is nothing of the sound to fit", remedy="give it another trim")
    speed = round((timing.last - timing.first) / length, 9)
    if not SLOWEST <= speed <= FASTEST:
        raise BadEdit(
            f"it would have to play at {speed:g} times its speed",
            remedy="choose another number of beats",
        )
    return replace(clip, speed=speed)


def fitted_by_trim(shaping: Shaping, samples: int) -> Clip:
    """The clip with loops ``samples`` apart, ended sooner or later; raises ``BadEdit``."""
    timing, clip = shaping.timing, shaping.clip
    last = timing.first + shaping.heard_before_speed(_loop(shaping, samples))
    if last > shaping.whole:
        lacks = (last - shaping.whole) / shaping.rate
        raise BadEdit(
            f"the sound is {lacks:.2f} s too short for that", remedy="fit it by its speed instead"
        )
    return replace(clip, trim=(clip.trim[0], samples_to_seconds(last, shaping.rate)))
