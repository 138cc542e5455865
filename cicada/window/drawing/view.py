"""All the sheet is painted from, gathered in one place."""

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field
from typing import Protocol

from PySide6.QtGui import QImage

from cicada.core.answers import Value
from cicada.core.arrays import Read
from cicada.core.editing import Cell
from cicada.core.model import Project
from cicada.core.timebase import Timebase
from cicada.core.values import Line
from cicada.deliver.mix_peaks import MixPeaks
from cicada.media.peaks import Peaks
from cicada.window.drawing.layout import SheetLayout
from cicada.window.drawing.narrow import RowWaves
from cicada.window.drawing.open_clip import Openable
from cicada.window.drawing.sound_pictures import SoundPictures
from cicada.window.drawing.traces import Row, SceneTraces
from cicada.window.drawing.way_lanes import WayLanes

# What the upper ruler can count; the lower one counts frames.
UNITS = ("seconds", "timecode", "beats")


class Drawable(Protocol):
    """Where sounds come from."""

    def peaks(self, sound_id: str) -> Peaks | None:
        """The peaks of a sound at the project's rate; None if there are none yet."""

    def read(self, sound_id: str) -> Read | None:
        """What reads a sound at the project's rate; None while it is not decoded."""


@dataclass(frozen=True, slots=True)
class Pending:
    """A keyframe that an edit has just put there, before there is a plan with it."""

    frame: int
    end: int
    name: str


@dataclass(slots=True, kw_only=True)
class SheetView:
    """``width`` and ``height`` are the sheet's in pixels; ``pending`` goes by layer.

    ``points`` are those chosen, by the name of their line.
    """

    project: Project
    traces: SceneTraces
    layout: SheetLayout
    sounds: Drawable
    pictures: SoundPictures
    waves: Callable[[Row], RowWaves]
    film: Callable[[int, int], QImage | None]
    film_ratio: float
    mix: MixPeaks | None
    width: int
    height: int
    unit: str = "seconds"
    cell: Cell | None = None
    chosen: frozenset[Cell] = frozenset()
    trial: Cell | None = None
    shown_sound: str | None = None
    silent: frozenset[str] = frozenset()
    pending: Mapping[str, list[Pending]] = field(default_factory=dict)
    gone: frozenset[Cell] = frozenset()
    opened: Openable | None = None
    ways: WayLanes | None = None
    # The seconds each frame takes to draw, where that is drawn by hand.
    drawing: Sequence[float] | None = None
    # A value whose line is drawn by hand, with that line.
    value: tuple[Value, Line] | None = None
    # By how many seconds a sound may be ahead before it is said; None: by a frame.
    tolerance: float | None = None
    points: Mapping[str, frozenset[int]] = field(default_factory=dict)
    range: tuple[int, int] | None = None
    range_is_played: bool = False

    @property
    def base(self) -> Timebase:
        """Frames against samples."""
        return self.project.timebase

    @property
    def end_x(self) -> float:
        """The pixel column where the scene is over, or the sheet's edge."""
        return min(float(self.width), self.layout.frame_x(self.traces.scene.length))
