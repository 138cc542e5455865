"""Keyframes taken along from one place to another: scenes, projects and windows alike."""

from collections.abc import Callable, Collection, Mapping
from typing import Annotated

import msgspec
from msgspec import Meta, Struct
from msgspec.structs import replace

from cicada.core.arrange import with_their_rests
from cicada.core.editing import Cell, Edit, Several
from cicada.core.keyframe_edits import PutKeyframes
from cicada.core.layer_edits import AddLayer
from cicada.core.model import Keyframe, Layer, Project, Scene, Sound, keyframe_at
from cicada.core.naming import all_ids, code_name, free_name, next_id
from cicada.errors import BadEdit

Positive = Annotated[int, Meta(ge=1, le=2**31)]


class CopiedKeyframe(Struct, frozen=True):
    """A keyframe, counted in rows and frames from the first of those copied with it."""

    row: int
    layer: str
    keyframe: Keyframe


class Copied(Struct, frozen=True):
    """Keyframes with the sounds they need; ``file`` is the project file they are from.

    ``fps`` is the frame rate of that project; older copies do not say it.
    """

    file: str
    sounds: tuple[Sound, ...]
    keyframes: tuple[CopiedKeyframe, ...]
    fps: tuple[Positive, Positive] | None = None

    def encoded(self) -> bytes:
        """As it stands on the clipboard."""
        return msgspec.json.encode(self)


def decoded(data: bytes) -> Copied | None:
    """What stands on the clipboard; None if it is something else."""
    try:
        return msgspec.json.decode(data, type=Copied)
    except (msgspec.MsgspecError, ValueError):
        return None


def copied(project: Project, scene: Scene, cells: Collection[Cell], file: str) -> Copied:
    """Copy keyframes of a scene, and the rests that give clips their room."""
    rows = {layer.id: row for row, layer in enumerate(scene.layers)}
    all_cells = with_their_rests(scene, cells)
    first_row = min(rows[cell.layer] for cell in all_cells)
    first = min(cell.frame for cell in all_cells)
    taken, used = [], set()
    for cell in sorted(all_cells, key=lambda cell: (rows[cell.layer], cell.frame)):
        layer = scene.layers[rows[cell.layer]]
        keyframe = keyframe_at(layer, cell.frame)
        assert keyframe is not None
        used.add(getattr(keyframe, "sound", None))
        moved = replace(keyframe, frame=cell.frame - first)
        taken.append(CopiedKeyframe(rows[cell.layer] - first_row, layer.name, moved))
    sounds = tuple(sound for sound in project.sounds if sound.id in used)
    return Copied(file, sounds, tuple(taken), project.fps)


def brought(
    project: Project, copy: Copied, moved: Callable[[Sound], Sound]
) -> tuple[tuple[Sound, ...], dict[str, str]]:
    """The sounds to be added for what is pasted, and the id each of its sounds has here.

    ``moved`` gives a sound as it is written beside this project's file.
    """
    here = {sound.id: sound for sound in project.sounds}
    by_hash = {sound.hash: sound.id for sound in project.sounds if sound.hash}
    taken = all_ids(project)
    added: list[Sound] = []
    ids: dict[str, str] = {}
    for sound in copy.sounds:
        own = here.get(sound.id)
        if own is not None and own.hash == sound.hash:
            ids[sound.id] = own.id
        elif sound.hash and sound.hash in by_hash:
            ids[sound.id] = by_hash[sound.hash]
        else:
            new = next_id("s", taken)
            taken.add(new)
            ids[sound.id] = new
            names = {other.code_name for other in (*project.sounds, *added)}
            own_name = code_name(sound.name or new, names)
            added.append(replace(moved(sound), id=new, code_name=own_name))
    return tuple(added), ids


def pasting(
    project: Project,
    scene: Scene,
    copy: Copied,
    at: Cell | None,
    frame: int,
    sounds: Mapping[str, str],
) -> tuple[Edit, list[Cell]]:
    """The edit that puts copied keyframes from ``frame`` on, and the cells they come to stand on.

    The topmost stand on the layer of ``at``, others below it as they stood; without one, each on
    the layer of its name. Layers that are missing are added. ``sounds`` gives the id of each
    sound in this project. Raises ``BadEdit`` if nothing fits into the scene.
    """
    ids = [layer.id for layer in scene.layers]
    taken, names = all_ids(project), {layer.name for layer in scene.layers}
    targets: dict[int, str] = {}
    edits: list[Edit] = []
    for each in copy.keyframes:
        if each.row in targets:
            continue
        row = ids.index(at.layer) + each.row if at is not None and at.layer in ids else None
        by_name = next((x.id for x in scene.layers if x.name == each.layer), None)
        if row is not None and row < len(ids):
            targets[each.row] = ids[row]
        elif row is None and by_name is not None:
            targets[each.row] = by_name
        else:
            own = next_id("l", taken)
            taken.add(own)
            name = free_name(each.layer or own, names)
            names.add(name)
            layer = Layer(id=own, name=name, keyframes=())
            edits.append(AddLayer(scene=scene.id, layer=layer))
            targets[each.row] = own
    put: list[tuple[str, Keyframe]] = []
    for each in copy.keyframes:
        keyframe = replace(each.keyframe, frame=each.keyframe.frame + frame)
        sound = getattr(keyframe, "sound", None)
        if sound is not None:
            keyframe = replace(keyframe, sound=sounds.get(sound, sound))
        if keyframe.frame < scene.length:
            put.append((targets[each.row], keyframe))
    if not put:
        raise BadEdit("nothing of it fits into the scene", remedy="paste on an earlier frame")
    many = f"{len(put)} keyframes" if len(put) > 1 else "the keyframe"
    edits.append(PutKeyframes(keyframes=tuple(put), named=f"paste {many}"))
    cells = [Cell(layer, keyframe.frame) for layer, keyframe in put]
    return Several(named=f"paste {many}", edits=tuple(edits)), cells
