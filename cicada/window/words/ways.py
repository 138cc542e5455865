"""What a clip would do if it were set otherwise, in words."""

from cicada.core.editing import Cell
from cicada.core.model import Clip, Project, keyframe_at
from cicada.core.ways import Outcome, Way, outcome
from cicada.window.words.drift import ahead_text, tolerance_of
from cicada.window.words.numbers import fixed
from cicada.window.words.quantities import count
from cicada.window.words.sentence import ending

NAMES = {
    "locked": "Locked", "free": "Free", "hold": "Hold picture",
    "on_top": "On top", "skip": "Leave out", "restart": "Start over",
    "queue": "Wait until the layer is quiet",
}  # fmt: skip


def way_words(way: Way, cell: Cell, number: int, now: Way, before: Outcome) -> str:
    """What becomes of the clip, and what of the film differs from how it is ``now``.

    ``before`` is what becomes of it now.
    """
    scene, layer = way.project.layer(cell.layer)
    clip = keyframe_at(layer, cell.frame)
    assert isinstance(clip, Clip)
    found = before if way is now else outcome(way, cell, number)
    if way is not now and way.plan == now.plan:
        return "the same as it is now"
    said = [ending(way.project, way.plan, scene, layer, clip, number)]
    said += _beside(found, way)
    dropped = found.dropped - before.dropped
    if dropped:
        said.append(
            f"{count(abs(dropped), 'picture')} {'more' if dropped > 0 else 'fewer'} dropped"
        )
    longer = way.plan.end - now.plan.end
    if longer:
        by = fixed(abs(longer) / way.plan.rate, 2)
        said.append(f"the film is {by} s {'longer' if longer > 0 else 'shorter'} than now")
    return "; ".join(said)


def _beside(found: Outcome, way: Way) -> list[str]:
    """What else it does to pictures and to other sounds."""
    project, voice = way.project, found.voice
    said = []
    if found.cuts and voice is not None:
        said.append(f"it cuts the one {_origin(found, way)}")
    elif found.others and voice is not None and voice.sync != "locked":
        said.append(f"{found.others + 1} sound at once")
    drift = found.drift
    if drift is not None and drift.last > tolerance_of(project):
        said.append(f"{ahead_text(drift.last, project)} ahead of the picture by then")
    elif drift is not None and drift.last:
        said.append("never a frame ahead of the picture")
    return said


def _origin(found: Outcome, way: Way) -> str:
    """Where the sounding that is cut comes from."""
    voice, cut = found.voice, found.cuts[0]
    project: Project = way.project
    there = way.plan.visits[cut.visit]
    frame = f"from frame {project.shown(cut.frame)}"
    if voice is not None and cut.visit == voice.visit:
        return frame
    return f"{frame} of {project.scene(there.scene).label}, pass {there.number}"
