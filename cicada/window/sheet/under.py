"""What is under a point of the sheet: layers, frames, keyframes, soundings, ends and edges."""

from math import floor

from PySide6.QtCore import QPointF

from cicada.core.editing import Cell
from cicada.core.model import Clip, Keyframe, Layer
from cicada.core.placed import spans
from cicada.window.drawing.layout import HEAD, MARKS, RULER, TOP
from cicada.window.drawing.rulers import part_ends
from cicada.window.drawing.traces import Row
from cicada.window.sheet.ground import Ground

GRIP = 5
# How far from where a part of the picture ends, in pixels, is still on it.
NEAR_END = 4


class Under:
    """Finds what a hand would take hold of; points are pixels of the sheet."""

    def __init__(self, ground: Ground) -> None:
        self._ground = ground

    def layer(self, y: float) -> Layer | None:
        """The layer whose row is under a pixel line."""
        row = self._ground.place.row_at(y)
        return None if row is None else self._ground.traces.rows[row].layer

    def frame(self, x: float) -> int:
        """The frame of the scene under a pixel column, or the nearest."""
        return max(
            0, min(floor(self._ground.place.frame(x)), self._ground.session.scene.length - 1)
        )

    def cell(self, point: QPointF) -> Cell | None:
        """The layer and frame under a point; of what sounds there, its keyframe."""
        layer = self.layer(point.y())
        if layer is None or point.x() < HEAD:
            return None
        keyframe = self.keyframe(point)
        frame = self.frame(point.x()) if keyframe is None else keyframe.frame
        return Cell(layer.id, frame)

    def keyframe(self, point: QPointF) -> Keyframe | None:
        """The keyframe of the layer whose shape is under a point."""
        layer = self.layer(point.y())
        if layer is None:
            return None
        near = [
            keyframe
            for keyframe in layer.keyframes
            if not isinstance(keyframe, Clip)
            and abs(self._ground.place.frame_x(keyframe.frame) - point.x()) <= GRIP
        ]
        if near:
            return near[0]
        by_frame = {keyframe.frame: keyframe for keyframe in layer.keyframes}
        exact = by_frame.get(self.frame(point.x()))
        if exact is not None:
            return exact
        struck = self._struck(point)
        if struck is not None:
            return by_frame.get(struck)
        found = self.voice(point)
        if found is None:
            return None
        voice = found[0].voices[found[1]]
        return by_frame.get(voice.frame) if voice.layer == layer.id else None

    def _struck(self, point: QPointF) -> int | None:
        """The frame of the clip that was left out whose sign is under a point, if one is."""
        number = self._ground.place.row_at(point.y())
        if number is None:
            return None
        near = [
            (abs(self._ground.place.frame_x(strike.frame) - point.x()), strike.frame)
            for strike in self._ground.traces.rows[number].strikes
        ]
        distance, frame = min(near, default=(GRIP + 1.0, 0))
        return frame if distance <= GRIP else None

    def voice(self, point: QPointF) -> tuple[Row, int] | None:
        """The row and number of the sounding under a point; of several the one begun last."""
        number = self._ground.place.row_at(point.y())
        if number is None or point.x() < HEAD:
            return None
        row, place = self._ground.traces.rows[number], self._ground.place.place(point.x())
        least = GRIP / self._ground.place.scale
        pillar = 14 / self._ground.place.scale
        for index in reversed(range(len(row.voices))):
            start, end = float(row.starts[index]), float(row.ends[index])
            if start <= place < max(end, start + (pillar if row.held[index] else least)):
                return row, index
        return None

    def span_end(self, point: QPointF) -> Cell | None:
        """The clip whose span's end is under a point: the cell of its keyframe."""
        layer = self.layer(point.y())
        if layer is None or layer.guarded:
            return None
        standing = {keyframe.frame: keyframe for keyframe in layer.keyframes}
        for keyframe, end in spans(self._ground.session.scene, layer):
            if not isinstance(keyframe, Clip):
                continue
            past = point.x() - self._ground.place.frame_x(end)
            # What stands right behind it is taken hold of from its own first column on.
            right = 0 if isinstance(standing.get(end), Clip) else GRIP
            wide = self._ground.place.frame_x(end) - self._ground.place.frame_x(keyframe.frame)
            if -min(GRIP, wide / 2) <= past < right:
                return Cell(layer.id, keyframe.frame)
        return None

    def on_ruler(self, point: QPointF) -> tuple[int, bool] | None:
        """The frame of the mark or press point (True) whose flag is under a point."""
        if point.y() > MARKS or point.x() < HEAD:
            return None
        scene = self._ground.session.scene
        for press in scene.press_points:
            if abs(self._ground.place.frame_x(press.frame) - point.x()) <= 7:
                return press.frame, True
        metrics = self._ground.fontMetrics()
        for mark in reversed(scene.marks):
            left = self._ground.place.frame_x(mark.frame)
            if left - 3 <= point.x() <= left + metrics.horizontalAdvance(mark.text) + 10:
                return mark.frame, False
        return None

    def part_end(self, point: QPointF) -> int | None:
        """The frame on which a part of the picture begins or ends, under a point of the strip."""
        if point.x() < HEAD or not RULER <= point.y() < TOP:
            return None
        for frame in part_ends(self._ground.session.scene):
            if abs(self._ground.place.frame_x(frame) - point.x()) <= NEAR_END:
                return frame
        return None

    def edge(self, point: QPointF) -> int | None:
        """The row whose lower edge is under a point of the heads."""
        for number, top, height in self._ground.place.rows_in_sight():
            if (
                abs(top + height - point.y()) <= 3
                and self._ground.traces.rows[number].layer is not None
            ):
                return number
        return None
