"""The ways that are compared, as lanes of the sheet: made when they change, not in a paint."""

from cicada.core.editing import Cell
from cicada.core.ways import VALUES, outcome
from cicada.window.drawing.traces import SceneTraces
from cicada.window.drawing.way_lanes import LANE, WayLane, WayLanes
from cicada.window.state.ways import Ways
from cicada.window.words.ways import NAMES, way_words


class Compared:
    """Keeps the lanes until it is told to forget them."""

    def __init__(self, ways: Ways) -> None:
        self.ways = ways
        self._lanes: list[WayLane] | None = None

    def forget(self) -> None:
        """Others are compared, or another pass of them."""
        self._lanes = None

    def height(self, layer: str) -> int:
        """The room that a layer's row needs for them."""
        ways = self.ways
        if ways.cell is None or ways.cell.layer != layer:
            return 0
        return LANE * len(VALUES[ways.setting]) + 1

    def lanes(self, top: int) -> WayLanes | None:
        """The lanes from a pixel line on; None if nothing is compared."""
        cell = self.ways.cell
        if cell is None:
            return None
        if self._lanes is None:
            self._lanes = self._made(cell)
        return WayLanes(cell, self._lanes, top)

    def _made(self, cell: Cell) -> list[WayLane]:
        ways, now = self.ways, self.ways.now
        before = None if now is None else outcome(now, cell, ways.number)
        planned = {way.value: way for way in ways.found}
        lanes = []
        for number, value in enumerate(VALUES[ways.setting], 1):
            way = planned.get(value)
            traces, words = None, ""
            if way is not None and now is not None and before is not None:
                scene = way.project.layer(cell.layer)[0]
                traces = SceneTraces(way.project, way.plan, scene, ways.number)
                words = way_words(way, cell, ways.number, now, before)
            heard, set_so = value == ways.heard, way is not None and way is now
            lanes.append(WayLane(value, str(number), NAMES[value], words, traces, set_so, heard))
        return lanes
