"""What a clip would do if it were set otherwise: a lane for each way, in its own row."""

from collections.abc import Sequence
from typing import NamedTuple

from PySide6.QtCore import QPointF

from cicada.core.editing import Cell
from cicada.window.drawing.layout import HEAD
from cicada.window.drawing.traces import SceneTraces

# How high a lane is, and the line of words in it.
LANE, WORDS = 60, 17


class WayLane(NamedTuple):
    """One way: its value, its number as a key, its name, and what it does in words.

    ``traces`` are those of the film with it, None until it is planned; ``now`` says that the clip
    is set so, ``heard`` that it is listened to.
    """

    value: str
    key: str
    name: str
    words: str
    traces: SceneTraces | None
    now: bool
    heard: bool


class WayLanes(NamedTuple):
    """The lanes of one clip, from pixel line ``top`` on."""

    cell: Cell
    lanes: Sequence[WayLane]
    top: int

    def at(self, point: QPointF) -> WayLane | None:
        """The lane under a point of the sheet."""
        number = (point.y() - self.top) // LANE
        if point.x() < HEAD or not 0 <= number < len(self.lanes):
            return None
        return self.lanes[int(number)]
