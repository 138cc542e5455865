"""Another frame rate: every keyframe keeps its frame, or its moment as nearly as frames allow.

Where moments are kept, a place ``f`` comes to stand at ``f * new / old``. Keyframes, press points
and the like go to the nearest whole frame; of two that would meet, the later takes the next free
one. Points of lines need no whole frames.
"""

from collections.abc import Sequence
from fractions import Fraction
from typing import Literal, NamedTuple, TypeVar

from msgspec.structs import replace
from typing_extensions import override

from cicada.core.copied import Copied
from cicada.core.editing import Edit, must_be_free
from cicada.core.kept_runs import that_fit
from cicada.core.model import (
    MAX_LENGTH,
    Clip,
    Keyframe,
    Layer,
    Mark,
    PressPoint,
    Project,
    Scene,
    Tempo,
)
from cicada.core.picture_parts import Images, PicturePart, Video
from cicada.core.points import place_of
from cicada.core.timebase import (
    Timebase,
    fps_text,
    round_half_up,
    samples_to_seconds,
    seconds_to_samples,
)
from cicada.core.values import Line, Point
from cicada.errors import BadEdit

Fps = tuple[int, int]
What = Literal["keyframe", "press point", "mark", "tempo", "picture", "length"]
# The highest frame there can be.
MOST = 2**53
OnFrame = TypeVar("OnFrame", Keyframe, PressPoint, Tempo)


class Shift(NamedTuple):
    """Something that does not keep its very moment, or only by a delay.

    It stands on frame ``before`` and comes to frame ``after``, which is ``late`` samples later than
    it was (earlier: negative). ``pushed`` says that the nearest frame was taken; ``delay`` are the
    samples that a free clip, or the first beat of a tempo, waits so that it keeps its moment.
    """

    what: What
    scene: str
    layer: str
    before: int
    after: int
    late: int
    pushed: bool = False
    delay: int = 0


class Kept(NamedTuple):
    """A project at another rate, and what does not keep its moment in it."""

    project: Project
    shifts: tuple[Shift, ...]


class _Change(NamedTuple):
    """From one rate to another; people count frames from ``first``."""

    old: Timebase
    new: Timebase
    by_delay: bool = False
    first: int = 1

    @property
    def ratio(self) -> Fraction:
        """New frames for each old one."""
        return Fraction(self.new.num * self.old.den, self.new.den * self.old.num)

    def nearest(self, frame: int) -> int:
        """The whole frame nearest to the moment of an old one."""
        place = frame * self.ratio
        return round_half_up(place.numerator, place.denominator)

    def point(self, place: float) -> float:
        """Where a place between frames comes to be."""
        num, den = self.ratio.as_integer_ratio()
        return place * num / den

    def late(self, before: int, after: int) -> int:
        """How many samples later the new frame is than the old."""
        return self.new.start(after) - self.old.start(before)

    def exact(self, frame: int) -> bool:
        """Whether an old frame begins just where a new one does."""
        return (frame * self.ratio).denominator == 1


def keep_seconds(project: Project, fps: Fps, *, by_delay: bool = False) -> Kept:
    """The project at another rate, everything where it was in seconds.

    With ``by_delay`` free clips stand on the frame before and wait for their very moment. Raises
    ``BadEdit`` where two would have to share a frame, a layer is guarded, or a scene gets too long.
    """
    new = Timebase(*fps, project.rate)
    change = _Change(project.timebase, new, by_delay, project.first_frame)
    shifts: list[Shift] = []
    scenes = tuple(_scene(scene, change, shifts) for scene in project.scenes)
    runs = tuple(replace(run, frame=change.nearest(run.frame)) for run in project.runs)
    made = that_fit(replace(project, fps=fps, scenes=scenes, runs=runs))
    return Kept(made, tuple(shifts))


def keep_frames(project: Project, fps: Fps) -> Kept:
    """The project at another rate, everything on its frame: what comes to another moment by that.

    What is past its scene's end is left out, and so is what stands on frame 0 but for the picture,
    which may go by faster or slower.
    """
    change = _Change(project.timebase, Timebase(*fps, project.rate))
    shifts: list[Shift] = []

    def shift(what: What, scene: Scene, layer: str, frames: Sequence[int]) -> None:
        shifts.extend(
            Shift(what, scene.id, layer, frame, frame, change.late(frame, frame))
            for frame in frames
            if 0 < frame < scene.length
        )

    for scene in project.scenes:
        length = scene.length
        shifts.append(Shift("length", scene.id, "", length, length, change.late(length, length)))
        for layer in scene.layers:
            frames = sorted(keyframe.frame for keyframe in layer.keyframes)
            shift("keyframe", scene, layer.id, frames)
        shift("press point", scene, "", [point.frame for point in scene.press_points])
        shift("mark", scene, "", [mark.frame for mark in scene.marks])
        shift("tempo", scene, "", [tempo.frame for tempo in scene.tempo])
        shifts.extend(
            Shift("picture", scene.id, "", at, at, change.late(at, at))
            for at in sorted({part.start for part in scene.picture})
            if at < scene.length
        )
    return Kept(replace(project, fps=fps), tuple(shifts))


class KeepSeconds(Edit, frozen=True, kw_only=True, tag="keep-seconds"):
    """Change the frame rate and keep everything where it is in seconds."""

    fps: Fps
    by_delay: bool = False

    @property
    @override
    def title(self) -> str:
        return f"change the frame rate to {fps_text(self.fps)}"

    @override
    def apply(self, project: Project) -> Project:
        return keep_seconds(project, self.fps, by_delay=self.by_delay).project


# -- a scene ------------------------------------------------------------------------------------


def _scene(scene: Scene, change: _Change, shifts: list[Shift]) -> Scene:
    length = max(1, change.nearest(scene.length))
    if length > MAX_LENGTH:
        raise BadEdit(
            f"{scene.label} would get {length} frames",
            remedy=f"a scene has at most {MAX_LENGTH}: keep frames instead",
        )
    if not change.exact(scene.length) or length != scene.length * change.ratio:
        late = change.late(scene.length, length)
        shifts.append(Shift("length", scene.id, "", scene.length, length, late))
    ends = scene.length, length
    layers = []
    for layer in scene.layers:
        must_be_free(layer)
        layers.append(_layer(scene, layer, ends, change, shifts))
    on_rulers = f"the rulers of {scene.label}"
    like = Shift("press point", scene.id, "", 0, 0, 0)
    points = _spread(scene.press_points, ends, change, shifts, like, on_rulers)
    like = Shift("tempo", scene.id, "", 0, 0, 0)
    # Tempi keep their first beat where it is.
    tempo = _spread(scene.tempo, ends, change, shifts, like, on_rulers)
    return replace(
        scene,
        length=length,
        layers=tuple(layers),
        press_points=points,
        marks=tuple(_mark(scene, mark, ends, change, shifts) for mark in scene.marks),
        tempo=tempo,
        master=_line(scene.master, change),
        value_lines={value: _line(line, change) for value, line in scene.value_lines.items()},
        picture=tuple(_part(scene, part, change, shifts) for part in scene.picture),
    )


def _layer(
    scene: Scene, layer: Layer, ends: tuple[int, int], change: _Change, shifts: list[Shift]
) -> Layer:
    like = Shift("keyframe", scene.id, layer.id, 0, 0, 0)
    where = f"{layer.label} in {scene.label}"
    keyframes = _spread(layer.keyframes, ends, change, shifts, like, where)
    return replace(layer, keyframes=keyframes, line=_line(layer.line, change))


def _line(line: Line, change: _Change) -> Line:
    return tuple(_moved(point, change) for point in line)


def _moved(point: Point, change: _Change) -> Point:
    return (change.point(place_of(point)), *point[1:])


def _spread(
    things: Sequence[OnFrame],
    ends: tuple[int, int],
    change: _Change,
    shifts: list[Shift],
    like: Shift,
    where: str,
) -> tuple[OnFrame, ...]:
    """Give each a frame of its own, in their order in time; they are kept in the order given."""
    (old_end, new_end), last = ends, -1
    placed: dict[int, OnFrame] = {}
    ordered = sorted(range(len(things)), key=lambda index: things[index].frame)
    for position, index in enumerate(ordered):
        thing = things[index]
        frame = thing.frame
        inside = frame < old_end
        wanted = change.nearest(frame)
        place = frame * change.ratio
        if _makes_up(thing, change):
            wanted = place.numerator // place.denominator
        # What was inside its scene stays inside, and what was past its end stays there.
        wanted = min(wanted, new_end - 1) if inside else max(wanted, new_end)
        after = max(wanted, last + 1)
        if after > MOST or (inside and after >= new_end):
            _refuse(things[ordered[max(0, position - 1)]].frame, frame, where, change)
        last = after
        moved, shift = _placed(thing, after, change, like)
        if shift.late or shift.delay or after != wanted or not change.exact(frame):
            shifts.append(shift._replace(pushed=after != wanted))
        placed[index] = moved
    return tuple(placed[index] for index in range(len(things)))


def _placed(thing: OnFrame, after: int, change: _Change, like: Shift) -> tuple[OnFrame, Shift]:
    """It on its new frame; what can make up for coming too early does."""
    late = change.late(thing.frame, after)
    shift = like._replace(before=thing.frame, after=after, late=late)
    field = _makes_up(thing, change)
    if late >= 0 or not field:
        return replace(thing, frame=after), shift
    rate = change.new.rate
    waited = seconds_to_samples(getattr(thing, field), rate) - late
    moved = replace(thing, frame=after, **{field: samples_to_seconds(waited, rate)})
    return moved, shift._replace(late=0, delay=-late)


def _makes_up(thing: Keyframe | PressPoint | Tempo, change: _Change) -> str:
    """By which field it can come later than its frame; a free clip only if that is wanted."""
    if isinstance(thing, Tempo):
        return "offset"
    waits = change.by_delay and isinstance(thing, Clip) and thing.sync == "free"
    return "delay" if waits else ""


def _refuse(earlier: int, later: int, where: str, change: _Change) -> None:
    first, second = earlier + change.first, later + change.first
    raise BadEdit(
        f"there would be no frame left for frame {second} of {where} beside frame {first}",
        remedy="keep frames instead, or take one of the two away first",
    )


def _mark(
    scene: Scene, mark: Mark, ends: tuple[int, int], change: _Change, shifts: list[Shift]
) -> Mark:
    after = change.nearest(mark.frame)
    after = min(after, ends[1] - 1) if mark.frame < ends[0] else max(after, ends[1])
    if not change.exact(mark.frame) or change.late(mark.frame, after):
        late = change.late(mark.frame, after)
        shifts.append(Shift("mark", scene.id, "", mark.frame, after, late))
    return replace(mark, frame=after)


def _part(scene: Scene, part: PicturePart, change: _Change, shifts: list[Shift]) -> PicturePart:
    """A part of the picture from the frame nearest to its moment, for as long as it was shown.

    Numbered images stay one a frame, and so do the frames that are left out of them.
    """
    start = change.nearest(part.start)
    shown = part.shown
    if shown is not None:
        shown = max(1, change.nearest(part.start + shown) - start)
    if not change.exact(part.start) or isinstance(part, Images | Video):
        late = change.late(part.start, start)
        shifts.append(Shift("picture", scene.id, "", part.start, start, late))
    kept = replace(
        part,
        start=start,
        shown=shown,
        dissolve_in=change.nearest(part.dissolve_in),
        dissolve_out=change.nearest(part.dissolve_out),
    )
    if isinstance(kept, Video):
        length = None if kept.length is None else max(1, change.nearest(kept.length))
        return replace(kept, skip=change.nearest(kept.skip), length=length)
    return kept


# -- what is copied -------------------------------------------------------------------------------


def copied_in_seconds(copy: Copied, fps: Fps, rate: int) -> tuple[Copied, tuple[Shift, ...]]:
    """Copied keyframes at another rate, as far apart in seconds as they were.

    Frames count from the first that was copied; shifts name rows as layers.
    """
    if copy.fps is None or copy.fps == fps:
        return copy, ()
    change = _Change(Timebase(*copy.fps, rate), Timebase(*fps, rate))
    shifts: list[Shift] = []
    taken = []
    for row in sorted({each.row for each in copy.keyframes}):
        these = [each for each in copy.keyframes if each.row == row]
        like = Shift("keyframe", "", these[0].layer, 0, 0, 0)
        keyframes = [each.keyframe for each in these]
        moved = _spread(keyframes, (MOST, MOST), change, shifts, like, these[0].layer)
        taken += [
            replace(each, keyframe=keyframe)
            for each, keyframe in zip(these, moved, strict=True)
        ]  # fmt: skip
    return replace(copy, fps=fps, keyframes=tuple(taken)), tuple(shifts)
