"""What stands on a row of the sheet: voices, and the signs of keyframes that have none."""

from dataclasses import dataclass

from cicada.core.clip import ClipTiming
from cicada.core.model import Clip
from cicada.core.plan import Voice


@dataclass(frozen=True, slots=True)
class Trace:
    """One voice on the axis: from ``start`` to ``end``, its span up to ``span_end`` (places).

    ``cut`` says that it ends before its own end; ``come_from`` names the scene or pass it rings
    on from. ``held`` is how many samples it keeps the picture standing; ``starts_in`` and
    ``ends_in`` are seconds into a standstill it starts or ends in.
    """

    voice: Voice
    clip: Clip
    timing: ClipTiming
    name: str
    start: float
    end: float
    span_end: float
    cut: bool
    goes_on: bool
    divisions: tuple[float, ...] = ()
    waits_from: float | None = None
    come_from: str = ""
    held: int = 0
    starts_in: float | None = None
    ends_in: float | None = None


@dataclass(frozen=True, slots=True)
class Strike:
    """A keyframe that placed a sound which did not start, and why."""

    frame: int
    reason: str
    name: str


@dataclass(frozen=True, slots=True)
class Bar:
    """A rest or hush keyframe; a hush that ends nothing is ``idle``."""

    frame: int
    hush: bool
    idle: bool
    off: bool


@dataclass(frozen=True, slots=True)
class Off:
    """A clip that is switched off, with the frames it would have."""

    frame: int
    end: int
    name: str


@dataclass(frozen=True, slots=True)
class Tie:
    """A keyframe on one row and a voice it ends on another (``to``), at a place."""

    row: int
    to: int
    place: float
    hush: bool
