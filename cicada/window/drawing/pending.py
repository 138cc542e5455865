"""What an edit put where, to be shown before there is a plan that says what sounds."""

from cicada.core.editing import Cell
from cicada.core.model import Clip, Keyframe, Layer, Project, Scene
from cicada.core.placed import spans
from cicada.window.drawing.traces import EVERYWHERE, Extent, SceneTraces
from cicada.window.drawing.view import Pending

Changes = tuple[frozenset[Cell], dict[str, list[Pending]]]


def gone_and_pending(
    old: Project, new: Project, scene_id: str, names: dict[str, str]
) -> Changes | None:
    """The keyframes of a scene that are gone or changed, and those that have come, by layer.

    None if the scene's layers are others than before: then all waits for the plan.
    """
    scenes = [next((s for s in p.scenes if s.id == scene_id), None) for p in (old, new)]
    before, after = scenes
    if before is None or after is None or before is after:
        return None
    if [layer.id for layer in before.layers] != [layer.id for layer in after.layers]:
        return None
    gone: set[Cell] = set()
    pending: dict[str, list[Pending]] = {}
    for was, now in zip(before.layers, after.layers, strict=True):
        if was.keyframes is now.keyframes:
            continue
        kept = set(map(id, was.keyframes)) & set(map(id, now.keyframes))
        gone |= {Cell(was.id, k.frame) for k in was.keyframes if id(k) not in kept}
        come = [k for k in now.keyframes if id(k) not in kept]
        pending[now.id] = _outlines(after, now, come, names)
    return frozenset(gone), pending


def touched(traces: SceneTraces, number: int, gone: frozenset[Cell], come: list[Pending]) -> Extent:
    """The places of a row between which an edit is shown, before and after it."""
    row = traces.rows[number]
    frames = [float(f) for p in come for f in (p.frame, p.end)]
    if row.layer is not None:
        frames += [float(cell.frame) for cell in gone if cell.layer == row.layer.id]
    places = [traces.of_frame(frame) for frame in frames]
    for index, voice in enumerate(row.voices):
        # As a plain tuple: a cell made for each voice would take a tenth of the time of an edit.
        if (voice.layer, voice.frame) in gone:
            places += [float(row.starts[index]), float(row.ends[index])]
    return (min(places), max(places)) if places else EVERYWHERE


def _outlines(
    scene: Scene, layer: Layer, come: list[Keyframe], names: dict[str, str]
) -> list[Pending]:
    frames = {keyframe.frame for keyframe in come}
    return [
        Pending(k.frame, end, names.get(k.sound, ""))
        for k, end in spans(scene, layer)
        if k.frame in frames and isinstance(k, Clip)
    ]
