"""``cicada drift``: by how much sounds are ahead of the picture where drawing takes its time."""

import argparse

from msgspec.structs import replace

from cicada.cli.output import give
from cicada.cli.planning import frames_at_most
from cicada.core.drift import drifts
from cicada.core.model import Project, Run
from cicada.core.planner import plan
from cicada.deliver.drift_report import as_csv, as_json
from cicada.errors import BadProject
from cicada.store.projectfile import load_case, load_run
from cicada.store.validate import validate_run
from cicada.window.words.drift import drift_sentence

# Frames of a run that are looked at in one go.
MOST = 5_000_000


def print_drift(options: argparse.Namespace) -> int:
    """Print the drift of each free or hold voice, as text, CSV or JSON."""
    project, run = load_case(options.file)
    source = options.file
    if options.run is not None:
        run, source = load_run(options.run), options.run
    if options.draw_time is not None:
        run = replace(run, draw_time=options.draw_time)
    try:
        validate_run(project, run, "run")
        _refuse_too_long(project, run)
    except BadProject as error:
        raise error.at(str(source)) from None
    planned = plan(project, run)
    found = drifts(planned)
    if options.json:
        give(as_json(found))
    elif options.csv:
        give(as_csv(found), end="")
    else:
        lines = [drift_sentence(drift, project, planned) for drift in found if drift.largest]
        give("\n".join(lines or ["nothing drifts"]))
    return 0


def _refuse_too_long(project: Project, run: Run) -> None:
    if frames_at_most(project, run) > MOST:
        raise BadProject(
            f"is longer than the {MOST:,} frames that are looked at in one go",
            place="run",
            remedy="set a limit in it",
        )
