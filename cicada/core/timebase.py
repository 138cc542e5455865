"""Exact time: frames, seconds and samples. No floating point decides when anything happens.

Formulas: semantics.md, section 1.
"""

import re
from dataclasses import dataclass
from decimal import Decimal
from functools import lru_cache

MAX_FPS = 240


def round_half_up(numerator: int, denominator: int) -> int:
    """The whole number nearest to ``numerator / denominator`` (positive); halves go up."""
    return (2 * numerator + denominator) // (2 * denominator)


@lru_cache(maxsize=65536)
def decimal_ratio(number: float) -> tuple[int, int]:
    """Numerator and denominator of a float's shortest decimal text: 2.005 is 401/200."""
    return Decimal(repr(number)).as_integer_ratio()


@lru_cache(maxsize=65536)
def seconds_to_samples(seconds: float, rate: int) -> int:
    """Samples at ``rate`` that ``seconds`` take, from the decimal text, halves up."""
    numerator, denominator = decimal_ratio(seconds)
    return round_half_up(numerator * rate, denominator)


def samples_to_seconds(samples: int, rate: int) -> float:
    """Seconds, to a millionth, that ``seconds_to_samples`` turns into just these samples."""
    return round(samples / rate, 6)


def resampled_length(frames: int, own_rate: int, rate: int) -> int:
    """Samples that a sound of ``frames`` at ``own_rate`` has at ``rate``."""
    return round_half_up(frames * rate, own_rate)


@dataclass(frozen=True, slots=True)
class Timebase:
    """Frames against samples: ``num/den`` frames a second, ``rate`` samples a second."""

    num: int
    den: int
    rate: int

    def start(self, frame: int) -> int:
        """The sample, in the scene's own time, at which ``frame`` starts."""
        return (2 * frame * self.rate * self.den + self.num) // (2 * self.num)

    def duration(self, frame: int) -> int:
        """How many samples ``frame`` lasts."""
        return self.start(frame + 1) - self.start(frame)

    def frame_at(self, sample: int) -> int:
        """The frame that covers ``sample`` of the scene's own time."""
        frame = sample * self.num // (self.rate * self.den)
        # The exact start of the next frame lies past the sample, its rounded one maybe not.
        return frame + 1 if self.start(frame + 1) <= sample else frame

    def frame_from(self, sample: int) -> int:
        """The first frame that starts at or after ``sample``."""
        frame = self.frame_at(sample)
        return frame if self.start(frame) == sample else frame + 1

    def position(self, sample: float) -> float:
        """``sample`` as a place on the axis of frames, in proportion within its frame."""
        frame = self.frame_at(int(sample // 1))
        return frame + (sample - self.start(frame)) / self.duration(frame)

    def seconds(self, frame: int) -> float:
        """When ``frame`` starts, in seconds, for showing."""
        return frame * self.den / self.num

    @property
    def fps(self) -> float:
        """Frames a second, for showing."""
        return self.num / self.den

    def timecode(self, frame: int) -> str:
        """``frame`` as hours:minutes:seconds:frames, counted at the nominal whole rate."""
        nominal = max(1, round_half_up(self.num, self.den))
        seconds, rest = divmod(frame, nominal)
        minutes, second = divmod(seconds, 60)
        hour, minute = divmod(minutes, 60)
        return f"{hour:02}:{minute:02}:{second:02}:{rest:02}"


def parse_fps(text: str) -> tuple[int, int]:
    """A frame rate: ``24``, ``30000/1001``, ``23.976``, ``12.5``. Raises ``ValueError``."""
    match = re.match(r"^\s*(\d+)\s*(?:/\s*(\d+))?\s*$", text)
    if match:
        fps = int(match[1]), int(match[2] or 1)
    elif re.match(r"^\s*\d+[.,]\d+\s*$", text):
        value = float(text.replace(",", "."))
        whole = round(value * 1.001)
        near = abs(whole / 1.001 - value) < 0.005
        fps = (whole * 1000, 1001) if near else (round(value * 1000), 1000)
    else:
        raise ValueError(f"“{text.strip()}” is no frame rate: write 24 or 30000/1001")
    if not fps[0] or not fps[1] or fps[0] > MAX_FPS * fps[1]:
        raise ValueError(f"a frame rate is above 0 and at most {MAX_FPS}")
    return fps


def fps_text(fps: tuple[int, int]) -> str:
    """A frame rate as it is typed."""
    return str(fps[0]) if fps[1] == 1 else f"{fps[0]}/{fps[1]}"
