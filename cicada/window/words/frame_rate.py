"""What another frame rate does to what stands on frames, in words."""

from collections.abc import Sequence

from cicada.core.frame_rate import Shift
from cicada.core.model import Clip, Project, keyframe_at
from cicada.core.picture_parts import Images, Still, Video, source_of
from cicada.window.words.numbers import fixed
from cicada.window.words.quantities import count


def late_text(samples: int, rate: int) -> str:
    """How much later or earlier, in milliseconds or seconds."""
    seconds = abs(samples) / rate
    time = f"{fixed(seconds * 1000, 1)} ms" if seconds < 1 else f"{fixed(seconds, 2)} s"
    return f"{time} {'later' if samples > 0 else 'sooner'}"


def shift_sentence(shift: Shift, project: Project) -> str:
    """One shift, of what stands in ``project`` at its old rate."""
    scene = project.scene(shift.scene)
    if shift.what == "length":
        return f"{scene.label}: {shift.before} frames, then {shift.after}{_by(shift, project)}"
    before, after = project.shown(shift.before), project.shown(shift.after)
    said = f"{_name(shift, project)}, frame {before} of {scene.label}"
    if after != before:
        said += f", comes to frame {after}"
    if shift.pushed:
        said += ", for the one before is taken"
    if shift.delay:
        said += f" and waits {fixed(1000 * shift.delay / project.rate, 1)} ms there"
    return said + _by(shift, project) + _picture(shift, project)


def _by(shift: Shift, project: Project) -> str:
    return f", {late_text(shift.late, project.rate)}" if shift.late else ""


def _name(shift: Shift, project: Project) -> str:
    if shift.what != "keyframe":
        return {"press point": "A press point", "mark": "A mark", "tempo": "A tempo"}.get(
            shift.what, "A part of the picture"
        )
    _, layer = project.layer(shift.layer)
    keyframe = keyframe_at(layer, shift.before)
    if isinstance(keyframe, Clip):
        return project.placeable(keyframe.sound).label
    return f"A keyframe on {layer.label}"


def _picture(shift: Shift, project: Project) -> str:
    """What becomes of the files of a part of the picture."""
    if shift.what != "picture":
        return ""
    parts = [part for part in project.scene(shift.scene).picture if part.start == shift.before]
    said = []
    for part in parts:
        name = source_of(part).rsplit("/", 1)[-1]
        if isinstance(part, Images):
            said.append(f"{name}: its images stay one a frame and go by at the new rate")
        elif isinstance(part, Video):
            said.append(f"{name} keeps its own pace")
        elif isinstance(part, Still):
            said.append(name)
    return f" ({'; '.join(said)})" if said else ""


def copied_sentence(shift: Shift, rate: int) -> str:
    """One shift of what was copied; its frames count from the first keyframe."""
    said = f"{shift.layer or 'a keyframe'}, {shift.before} frames in: {shift.after}"
    taken = " (the one before is taken)" if shift.pushed else ""
    return f"{said}{taken}, {late_text(shift.late, rate)}" if shift.late else f"{said}{taken}"


def shifts_summary(shifts: Sequence[Shift], rate: int) -> str:
    """How many things do not keep their moment, and by how much at most."""
    moved = [shift for shift in shifts if shift.late and shift.what != "length"]
    waiting = sum(bool(shift.delay) for shift in shifts if shift.what == "keyframe")
    pushed = sum(shift.pushed for shift in shifts)
    said = "Everything keeps its moment"
    if moved:
        most = max(moved, key=lambda shift: abs(shift.late))
        verb = "comes" if len(moved) == 1 else "come"
        said = (
            f"{count(len(moved), 'thing')} {verb} at another moment, "
            f"the most by {late_text(most.late, rate)}"
        )
    if waiting:
        said += f"; {count(waiting, 'free clip')} kept by a delay"
    if pushed:
        said += f"; {count(pushed, 'keyframe')} on the next free frame"
    return said + "."
