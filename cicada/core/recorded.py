"""Where a take stands in the film it was recorded against, and the edit that puts it there."""

from typing import NamedTuple

from msgspec.structs import replace

from cicada.core.editing import Cell, Edit, Several
from cicada.core.keyframe_edits import ClearKeyframes, PlaceClip, PutKeyframes
from cicada.core.layer_edits import AddLayer
from cicada.core.model import Clip, Hush, Layer, Project, Scene, Sound, keyframe_at
from cicada.core.naming import free_id, free_name
from cicada.core.plan import Plan
from cicada.core.shelf_edits import AddSounds
from cicada.core.values import Sync
from cicada.errors import BadEdit


class Stood(NamedTuple):
    """The frame a take begins on, and by how many seconds later; it is free if it ran on alone."""

    scene: str
    frame: int
    delay: float
    sync: Sync


def where_it_stood(plan: Plan, start: int, length: int) -> Stood:
    """Where a take of ``length`` samples that began at run sample ``start`` belongs.

    It is locked to the picture, but free where the picture stood meanwhile.
    """
    visit, frame, _ = plan.frame_at(start)
    stretch, base = plan.stretch_at(start), plan.timebase
    stands = any(
        each.stands and each.at < start + length and start < each.at + each.stands
        for each in plan.stretches
    )
    if stands:
        entered = plan.entered(frame, stretch.visit)
        late = start - (stretch.at if entered is None else entered)
    else:
        # By the picture's own clock, which does not count what it stood before.
        moved = start - stretch.at - stretch.stands + base.start(stretch.frame)
        late = moved - base.start(frame)
    return Stood(visit.scene, frame, max(0, late) / plan.rate, "free" if stands else "locked")


def in_the_way(scene: Scene, cell: Cell) -> str:
    """Why a take cannot stand on a cell, as the end of a sentence; empty if it can."""
    layer = next((each for each in scene.layers if each.id == cell.layer), None)
    if layer is None:
        return "no layer is chosen"
    if layer.guarded:
        return f"{layer.label} is guarded"
    if isinstance(keyframe_at(layer, cell.frame), (Clip, Hush)):
        return f"something stands there on {layer.label}"
    return ""


def recording(project: Project, layer: str, stood: Stood, sound: Sound) -> tuple[Edit, Cell]:
    """The edit that puts a take on the shelf and on a layer, and where it stands then.

    Where something is in the way it gets a layer of its own, below that one.
    """
    scene = project.scene(stood.scene)
    edits: list[Edit] = [AddSounds(sounds=(sound,))]
    cell = Cell(layer, stood.frame)
    if in_the_way(scene, cell):
        own = _own_layer(project, scene, layer, sound)
        edits.append(own)
        cell = Cell(own.layer.id, stood.frame)
    edits.append(
        PlaceClip(
            layer=cell.layer, frame=cell.frame, sound=sound.id, sound_name=sound.name,
            sync=stood.sync, delay=stood.delay,
        )
    )  # fmt: skip
    return Several(named=f"record {sound.name}", edits=tuple(edits)), cell


def _own_layer(project: Project, scene: Scene, beside: str, sound: Sound) -> AddLayer:
    names = {layer.name for layer in scene.layers}
    rows = [number for number, layer in enumerate(scene.layers) if layer.id == beside]
    wanted = scene.layers[rows[0]].label if rows else sound.name
    layer = Layer(id=free_id("l", project), name=free_name(wanted, names), keyframes=())
    return AddLayer(scene=scene.id, layer=layer, index=rows[0] + 1 if rows else None)


def without_silence(project: Project, cell: Cell, head: float, tail: float) -> Edit:
    """The edit that trims seconds off both ends of a clip, the rest of which stays where it is.

    Raises ``BadEdit`` if the clip is not there, or nothing would be left.
    """
    scene, layer = project.layer(cell.layer)
    clip = keyframe_at(layer, cell.frame)
    if not isinstance(clip, Clip):
        raise BadEdit("there is no clip any more", remedy="choose one that is there")
    sound = project.sound(clip.sound)
    first, last = clip.trim
    end = (sound.frames / sound.rate if last is None else last) - tail
    begin = first + head
    if end <= begin:
        raise BadEdit("nothing would be left of it", remedy="record it again")
    base = project.timebase
    late = round((clip.delay + head) * project.rate)
    frame = min(base.frame_at(base.start(cell.frame) + late), scene.length - 1)
    taken = frame != cell.frame and isinstance(keyframe_at(layer, frame), Clip)
    if taken:
        frame = cell.frame
    delay = (late - base.start(frame) + base.start(cell.frame)) / project.rate
    made = replace(clip, frame=frame, delay=delay, trim=(begin, end))
    named = "trim the silence off"
    put = PutKeyframes(keyframes=((layer.id, made),), named=named)
    if frame == cell.frame:
        return put
    return Several(named=named, edits=(ClearKeyframes(cells=(cell,)), put))
