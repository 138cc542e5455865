"""The edits that put a clip of another shape in its place, on its frame or another one."""

from typing import NamedTuple

from msgspec.structs import replace
from typing_extensions import override

from cicada.core.beats import beats
from cicada.core.editing import (
    Cell,
    Edit,
    Several,
    changed,
    existing,
    frame_of,
    must_be_inside,
    scene_of,
    with_keyframe,
    with_layer,
)
from cicada.core.keyframe_edits import (
    ChangeKeyframes,
    MoveSpanEnd,
    PutKeyframes,
    into_room,
    own_rest,
    with_room,
)
from cicada.core.lengths import length_of
from cicada.core.model import Clip, Keyframe, Layer, Project, Rest, Scene, keyframe_at
from cicada.core.placed import span_ends
from cicada.core.plan import Plan
from cicada.core.shaping import Clock, Shaping
from cicada.errors import BadEdit


def ending_on(cell: Cell, shaping: Shaping, frame: int) -> Edit:
    """The edit that lets a clip be over as ``frame`` is entered, by its trim or by its span."""
    timing, needed = shaping.timing, shaping.needs(frame)
    if shaping.clip.sync == "hold":
        raise BadEdit(
            "a clip that holds the picture is over on its own frame", remedy="let it run free first"
        )
    if needed <= 0:
        raise BadEdit("the clip starts later than that", remedy="choose a later frame")
    named = "end the clip on a frame"
    if shaping.clip.loops == 1:
        there = shaping.playing(shaping.whole - timing.first) - timing.offset
        if there >= needed:
            clip = shaping.trim_tail(shaping.clock.enters(frame)).clip
            return ReshapeClip(cell=cell, clip=clip, named=named)
    if timing.total is not None and timing.total - timing.delay < needed:
        raise BadEdit("the sound is over before that frame", remedy="loop it to fill instead")
    edits: list[Edit] = [MoveSpanEnd(layer=cell.layer, frame=cell.frame, to=frame)]
    if shaping.clip.sync == "free":
        changes = {"ends": "span"}
        edits.append(ChangeKeyframes(cells=(cell,), changes=changes))
    return Several(named=named, edits=tuple(edits))


class ReshapeClip(Edit, frozen=True, kw_only=True, tag="reshape-clip"):
    """Put another shape of a clip in its place, maybe on another frame of its layer.

    Where it begins later, a rest keeps the span before it as it was; where it begins sooner, the
    rests it then stands before are taken away. Another keyframe on its new frame is replaced. The
    rest that gives it just the room it needs goes along, unless that is to ``stay``.
    """

    cell: Cell
    clip: Clip
    named: str = "shape the clip"
    stay: bool = False

    @property
    @override
    def title(self) -> str:
        return self.named

    @override
    def apply(self, project: Project) -> Project:
        return with_layer(
            project, self.cell.layer, lambda scene, layer: self._in(project, scene, layer)
        )

    def _in(self, project: Project, scene: Scene, layer: Layer) -> Layer:
        old, frame = self.cell.frame, self.clip.frame
        before = existing(layer, old)
        if not isinstance(before, Clip):
            raise BadEdit("there is no clip on that frame", remedy="choose a clip")
        must_be_inside(scene, frame)
        clip = changed(before, {f: getattr(self.clip, f) for f in self.clip.__struct_fields__})
        rest = None if self.stay else own_rest(project, layer, before)
        kept: list[Keyframe] = [
            k
            for k in layer.keyframes
            if k.frame != old
            and k is not rest
            and not (isinstance(k, Rest) and frame < k.frame < old)
        ]
        if frame > old and _minds_its_span(layer, old):
            kept.append(Rest(frame=old))
        bare = replace(layer, keyframes=tuple(sorted(kept, key=frame_of)))
        if frame != old:
            bare = into_room(project, bare, frame)
        if rest is None:
            return with_keyframe(bare, clip)
        return with_room(project, scene, bare, clip)


def _minds_its_span(layer: Layer, frame: int) -> bool:
    """Whether the keyframe before a frame is a clip that its span ends."""
    earlier = [k for k in layer.keyframes if k.frame < frame and not k.off]
    last = max(earlier, key=frame_of, default=None)
    return isinstance(last, Clip) and (last.sync == "locked" or last.ends == "span")


def filling(project: Project, cell: Cell, shaping: Shaping) -> Edit:
    """The edit that lets a clip loop until its span ends."""
    scene, layer = project.layer(cell.layer)
    ends = span_ends(scene, layer)
    if cell.frame not in ends:
        raise BadEdit("the clip is switched off", remedy="switch it on first")
    changes = shaping.looped_to(ends[cell.frame])
    return ChangeKeyframes(cells=(cell,), changes=changes, what="its loops to fill the span")


class Ending(NamedTuple):
    """A frame a clip may be ended on, and what is there."""

    what: str
    frame: int


def endings(project: Project, cell: Cell, shaping: Shaping, playhead: int) -> list[Ending]:
    """The frames a clip may well be ended on."""
    scene, layer = project.layer(cell.layer)
    span_end = span_ends(scene, layer).get(cell.frame, scene.length)
    later = [k.frame for k in layer.keyframes if k.frame > cell.frame and isinstance(k, Clip)]
    found = [Ending("its span's end", span_end)]
    if later:
        found.append(Ending("the next clip", min(later)))
    found += [Ending("the scene's end", scene.length), Ending("the playhead", playhead)]
    base = project.timebase
    over = base.start(shaping.clock.frame_at(shaping.begins + (shaping.timing.total or 0)))
    all_beats = [at for _, at in beats(scene, base, 0, base.start(scene.length))]
    if all_beats:
        beat = int(min(all_beats, key=lambda at: abs(at - over)))
        found.append(Ending("the beat nearest to its end", base.frame_from(beat)))
    return found


def splitting(cell: Cell, parts: tuple[Clip, Clip]) -> Edit:
    """The edit that puts the two parts of a clip where it was."""
    first, second = parts
    return Several(
        named="split the clip",
        edits=(
            ReshapeClip(cell=cell, clip=first, stay=True),
            PutKeyframes(keyframes=((cell.layer, second),)),
        ),
    )


def clip_on(project: Project, cell: Cell) -> Clip:
    """The clip on a cell; raises ``BadEdit`` if there is none."""
    layer = scene_of(project, cell.layer)[1]
    found = keyframe_at(layer, cell.frame)
    if not isinstance(found, Clip):
        raise BadEdit("there is no clip on that frame", remedy="choose a clip")
    return found


def shaping_of(
    project: Project, cell: Cell, plan: Plan | None = None, visit: int | None = None
) -> Shaping:
    """A clip of a project, on the clock of a plan's visit if it has a clock of its own."""
    clip = clip_on(project, cell)
    base = project.timebase
    clock = Clock(base) if clip.sync == "locked" else Clock(base, plan, visit)
    length = scene_of(project, cell.layer)[0].length
    sound, whole = project.placeable(clip.sound), length_of(project, clip.sound)
    return Shaping(clip, sound, whole, project.rate, clock, length)
