"""``cicada drift``: by how much sounds are ahead of the picture where drawing takes its time."""

import argparse
import csv
import io
import json

from msgspec.structs import replace

from cicada.cli.output import give
from cicada.cli.planning import frames_at_most
from cicada.core.conditions import first_scene
from cicada.core.drift import Drift, drifts
from cicada.core.model import Project, Run
from cicada.core.plan import Plan
from cicada.core.planner import plan
from cicada.errors import BadProject
from cicada.store.projectfile import load_case, load_run

# Frames of a run that are looked at in one go.
MOST = 5_000_000
FIELDS = ("scene", "layer", "frame", "start", "largest", "last")


def print_drift(options: argparse.Namespace) -> int:
    """Print the drift of each free or hold voice, as text, CSV or JSON."""
    project, run = load_case(options.file)
    source = options.file
    if options.run is not None:
        run, source = load_run(options.run), options.run
    if options.draw_time is not None:
        run = replace(run, draw_time=options.draw_time)
    try:
        first_scene(project, run)
        _refuse_too_long(project, run)
    except BadProject as error:
        raise error.at(str(source)) from None
    planned = plan(project, run)
    found = drifts(planned)
    if options.json:
        give(json.dumps([_fields(drift) for drift in found], indent=1))
    elif options.csv:
        table = io.StringIO()
        rows = csv.DictWriter(table, FIELDS, lineterminator="\n")
        rows.writeheader()
        rows.writerows(_fields(drift) for drift in found)
        give(table.getvalue(), end="")
    else:
        lines = [_sentence(drift, project, planned) for drift in found if drift.largest]
        give("\n".join(lines or ["nothing drifts"]))
    return 0


def _refuse_too_long(project: Project, run: Run) -> None:
    if frames_at_most(project, run) > MOST:
        raise BadProject(
            f"is longer than the {MOST:,} frames that are looked at in one go",
            place="run",
            remedy="set a limit in it",
        )


def _fields(drift: Drift) -> dict[str, str | int]:
    voice = drift.voice
    values = (*voice.anchor, voice.start, drift.largest, drift.last)
    return dict(zip(FIELDS, values, strict=True))


def _sentence(drift: Drift, project: Project, planned: Plan) -> str:
    voice, rate = drift.voice, project.rate
    scene, layer = project.layer(voice.layer)
    visit = planned.visits[voice.visit]
    passes = f", pass {visit.number}" if planned.visits[-1].number > 1 else ""
    frames = drift.last / rate * project.fps[0] / project.fps[1]
    said = (
        f"{project.sound(voice.sound).label} on {layer.label}, frame {project.shown(voice.frame)} "
        f"of {scene.label}{passes}: {drift.last / rate * 1000:.0f} ms ({frames:.1f} frames) ahead "
        "of the picture at its end"
    )
    beyond = drift.beyond(rate * project.fps[1] // project.fps[0])
    if beyond is None:
        return f"{said}, never by more than a frame"
    there, frame, _ = planned.frame_at(beyond)
    where = "" if there.scene == scene.id else f" of {_label(project, there.scene)}"
    return f"{said}, by more than a frame from frame {project.shown(frame)}{where} on"


def _label(project: Project, scene_id: str) -> str:
    return next(scene.label for scene in project.scenes if scene.id == scene_id)
