"""By how much a sound runs ahead of the picture, in words."""

from math import floor

from cicada.core.drift import Drift, Lateness
from cicada.core.editing import Cell
from cicada.core.model import Project
from cicada.core.plan import Plan
from cicada.core.slowest import Slowest
from cicada.core.timebase import seconds_to_samples
from cicada.window.words.numbers import fixed
from cicada.window.words.quantities import count

# So many of the frames on which a sound gets ahead are named.
STEPS = 4


def tolerance_of(project: Project, seconds: float | None = None) -> int:
    """The samples by which a sound may be ahead before it counts: a frame's, unless it is set."""
    if seconds is not None:
        return seconds_to_samples(seconds, project.rate)
    return project.rate * project.fps[1] // project.fps[0]


def tolerance_text(project: Project, seconds: float | None) -> str:
    """How much that is."""
    return "a frame" if seconds is None else ahead_text(tolerance_of(project, seconds), project)


def ahead_text(samples: int, project: Project) -> str:
    """How much that is, in time and frames."""
    seconds = samples / project.rate
    frames = seconds * project.fps[0] / project.fps[1]
    time = f"{fixed(seconds * 1000, 0)} ms" if seconds < 1 else f"{fixed(seconds, 2)} s"
    return f"{time} ({fixed(frames, 1)} frames)"


def drift_sentence(
    drift: Drift, project: Project, planned: Plan, tolerated: float | None = None
) -> str:
    """Which sound it is, by how much it is ahead in the end, and from where on that is seen."""
    voice = drift.voice
    scene, layer = project.scene(voice.scene), project.heard_on(voice.layer)
    visit = planned.visits[voice.visit]
    passes = f", pass {visit.number}" if planned.visits[-1].number > 1 else ""
    name = project.placeable(voice.sound).label
    said = (
        f"{name} on {layer.label}, frame {project.shown(voice.frame)} "
        f"of {scene.label}{passes}: {ahead_text(drift.last, project)} ahead of the picture at its "
        "end"
    )
    beyond = drift.beyond(tolerance_of(project, tolerated))
    much = tolerance_text(project, tolerated)
    if beyond is None:
        return f"{said}, never by more than {much}"
    there, frame, _ = planned.frame_at(beyond)
    elsewhere = "" if there.scene == scene.id else f" of {project.scene(there.scene).label}"
    return f"{said}, by more than {much} from frame {project.shown(frame)}{elsewhere} on"


def steps_text(drift: Drift, lateness: Lateness, project: Project) -> str:
    """On which frames a sound gets ahead, the first few, and how many more there are."""
    steps = list(lateness.steps(drift.voice.start, int(drift.ats[-1])))
    named = [
        f"frame {project.shown(step.frame)} of {project.scene(step.scene).label}, "
        f"{ahead_text(step.late, project)}"
        for step in steps[:STEPS]
    ]
    more = f"; and on {count(len(steps) - STEPS, 'frame')} more" if len(steps) > STEPS else ""
    return f"It gets ahead on {'; '.join(named)}{more}."


def limit_sentence(
    found: Slowest, cell: Cell | None, project: Project, tolerated: float | None = None
) -> str:
    """How slow a machine may be for all sounds, which give first, and for the chosen clip."""
    much = tolerance_text(project, tolerated)
    if found.film is None:
        return f"No draw time up to 1 s lets a sound run ahead by more than {much}."
    first = "; ".join(_clip(c, project) for c in found.first)
    said = (
        f"Every draw time up to {_milliseconds(found.film, project)} keeps all sounds "
        f"within {much} of the picture. First gives: {first}."
    )
    if cell not in found.clips:
        return said
    own = found.clips[cell]
    up_to = "any up to 1 s" if own is None else f"up to {_milliseconds(own, project)}"
    return f"{said} The chosen clip alone: {up_to}."


def _milliseconds(samples: int, project: Project) -> str:
    # Rounded down, for up to there it is true.
    return f"{fixed(floor(samples / project.rate * 10_000) / 10, 1)} ms"


def _clip(cell: Cell, project: Project) -> str:
    scene, layer = project.layer(cell.layer)
    return f"frame {project.shown(cell.frame)} of {layer.label} in {scene.label}"
