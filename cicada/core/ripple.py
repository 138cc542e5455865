"""Inserting and removing frames: everything later moves along.

On all layers it is the scene that grows or shrinks, with its marks, press points, tempo, picture
and master line. On some layers only those move, and the scene keeps its length.
"""

from math import ceil
from typing import TypeVar

from msgspec.structs import replace
from typing_extensions import override

from cicada.core.beats import beat_length, first_beat
from cicada.core.editing import Edit, frame_of, must_be_free, must_be_inside, with_scene
from cicada.core.model import (
    MAX_LENGTH,
    Hush,
    Keyframe,
    Layer,
    Mark,
    PressPoint,
    Project,
    Rest,
    Scene,
    Tempo,
)
from cicada.core.picture_parts import PicturePart
from cicada.core.stack import with_frames, without_frames
from cicada.core.timebase import Timebase
from cicada.core.values import Line, Point
from cicada.errors import BadEdit

OnRuler = TypeVar("OnRuler", Mark, PressPoint)


class _Ripple(Edit, frozen=True, kw_only=True):
    """``layers`` None means all of the scene."""

    scene: str
    frame: int
    count: int
    layers: tuple[str, ...] | None = None

    @override
    def apply(self, project: Project) -> Project:
        base = project.timebase
        return with_scene(project, self.scene, lambda scene: self._in(scene, base))

    def _in(self, scene: Scene, base: Timebase) -> Scene:
        must_be_inside(scene, self.frame)
        if self.count < 1:
            raise BadEdit("there is nothing to move", remedy="name one frame or more")
        layers = []
        for layer in scene.layers:
            if self.layers is None or layer.id in self.layers:
                must_be_free(layer)
                layers.append(self._layer(layer))
            else:
                layers.append(layer)
        scene = replace(scene, layers=tuple(layers))
        return scene if self.layers is not None else self._whole(scene, base)

    def _layer(self, layer: Layer) -> Layer:
        raise NotImplementedError

    def _whole(self, scene: Scene, base: Timebase) -> Scene:
        raise NotImplementedError

    def _words(self) -> str:
        return "a frame" if self.count == 1 else f"{self.count} frames"


class InsertFrames(_Ripple, frozen=True, kw_only=True, tag="insert-frames"):
    """Insert frames before ``frame``; what stands on it or later moves on."""

    @property
    @override
    def title(self) -> str:
        return f"insert {self._words()}"

    def _moved(self, frame: int) -> int:
        return frame + self.count if frame >= self.frame else frame

    @override
    def _layer(self, layer: Layer) -> Layer:
        keyframes = tuple(replace(k, frame=self._moved(k.frame)) for k in layer.keyframes)
        return replace(layer, keyframes=keyframes, line=self._line(layer.line))

    def _line(self, line: Line) -> Line:
        return tuple(
            _at(point, _frame(point) + self.count) if _frame(point) >= self.frame else point
            for point in line
        )

    @override
    def _whole(self, scene: Scene, base: Timebase) -> Scene:
        if scene.length + self.count > MAX_LENGTH:
            raise BadEdit("the scene would be too long", remedy="insert fewer frames")
        pictures: list[PicturePart] = []
        for part in scene.picture:
            pictures += with_frames(part, self.frame, self.count, scene.length)
        return replace(
            scene,
            length=scene.length + self.count,
            marks=tuple(replace(m, frame=self._moved(m.frame)) for m in scene.marks),
            press_points=tuple(replace(p, frame=self._moved(p.frame)) for p in scene.press_points),
            tempo=self._tempo(scene.tempo, base),
            master=self._line(scene.master),
            value_lines={value: self._line(line) for value, line in scene.value_lines.items()},
            picture=tuple(pictures),
        )

    def _tempo(self, tempo: tuple[Tempo, ...], base: Timebase) -> tuple[Tempo, ...]:
        carried = _carried(tempo, self.frame, base)
        return tuple(replace(t, frame=self._moved(t.frame)) for t in (*tempo, *carried))


class RemoveFrames(_Ripple, frozen=True, kw_only=True, tag="remove-frames"):
    """Remove ``count`` frames from ``frame`` on, with what stands on them; the rest moves up.

    Where a removed keyframe ended a span, the span ends where the frames were.
    """

    @property
    @override
    def title(self) -> str:
        return f"remove {self._words()}"

    @property
    def _end(self) -> int:
        return self.frame + self.count

    def _kept(self, frame: int) -> bool:
        return not self.frame <= frame < self._end

    def _moved(self, frame: int) -> int:
        return frame - self.count if frame >= self._end else frame

    @override
    def _layer(self, layer: Layer) -> Layer:
        ordered = sorted(layer.keyframes, key=frame_of)
        gone = [k for k in ordered if not self._kept(k.frame)]
        kept: list[Keyframe] = [
            replace(k, frame=self._moved(k.frame)) for k in ordered if self._kept(k.frame)
        ]
        ended = [k for k in gone if not k.off]
        if ended and all(k.frame != self.frame for k in kept):
            last = ended[-1]
            hushes = isinstance(last, Hush)
            kept.append(replace(last, frame=self.frame) if hushes else Rest(frame=self.frame))
        line = self._line(layer.line)
        return replace(layer, keyframes=tuple(sorted(kept, key=frame_of)), line=line)

    def _line(self, line: Line) -> Line:
        """Points on removed frames meet where the frames were: the first and the last of them."""
        inside = [p for p in line if self.frame <= _frame(p) < self._end]
        result = []
        for point in line:
            if _frame(point) >= self._end:
                result.append(_at(point, _frame(point) - self.count))
            elif _frame(point) < self.frame:
                result.append(point)
            elif point is inside[0] or point is inside[-1]:
                result.append(_at(point, float(self.frame)))
        return tuple(result)

    @override
    def _whole(self, scene: Scene, base: Timebase) -> Scene:
        if self._end > scene.length or self.count >= scene.length:
            raise BadEdit("the scene has not so many frames there", remedy="remove fewer frames")
        pictures: list[PicturePart] = []
        for part in scene.picture:
            pictures += without_frames(part, self.frame, self.count, scene.length)
        carried = _carried(scene.tempo, self._end, base) if self._end < scene.length else ()
        tempo = (*(t for t in scene.tempo if self._kept(t.frame)), *carried)
        return replace(
            scene,
            length=scene.length - self.count,
            marks=self._standing(scene.marks),
            press_points=self._standing(scene.press_points),
            tempo=_told(tuple(replace(t, frame=self._moved(t.frame)) for t in tempo), base),
            master=self._line(scene.master),
            value_lines={value: self._line(line) for value, line in scene.value_lines.items()},
            picture=tuple(pictures),
        )

    def _standing(self, parts: tuple[OnRuler, ...]) -> tuple[OnRuler, ...]:
        return tuple(replace(p, frame=self._moved(p.frame)) for p in parts if self._kept(p.frame))


def _told(tempo: tuple[Tempo, ...], base: Timebase) -> tuple[Tempo, ...]:
    """The tempo without the entries that change nothing: their beats are those before them."""
    kept: list[Tempo] = []
    for entry in sorted(tempo, key=lambda entry: entry.frame):
        if kept and kept[-1].bpm == entry.bpm:
            length = beat_length(entry, base.rate)
            beats = (first_beat(entry, base) - first_beat(kept[-1], base)) / length
            at_once = first_beat(entry, base) - base.start(entry.frame) < length
            # One whose first beat comes before theirs adds beats.
            if round(beats) >= 0 and at_once and abs(beats - round(beats)) * length < 1:
                continue
        kept.append(entry)
    return tuple(kept)


def _frame(point: Point) -> float:
    return float(point[0])


def _at(point: Point, frame: float) -> Point:
    return (frame, *point[1:])


def _carried(tempo: tuple[Tempo, ...], at: int, base: Timebase) -> tuple[Tempo, ...]:
    """The tempo that holds at a frame, begun anew there, so that its beats move with the frames."""
    earlier = [t for t in tempo if t.frame < at]
    if not earlier or any(t.frame == at for t in tempo):
        return ()
    holds = max(earlier, key=lambda t: t.frame)
    length, begins, moment = beat_length(holds, base.rate), first_beat(holds, base), base.start(at)
    number = max(0, ceil((moment - begins) / length))
    offset = (begins + number * length - moment) / base.rate
    return (Tempo(frame=at, bpm=holds.bpm, offset=round(offset, 9)),)
