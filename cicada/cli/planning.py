"""``cicada plan``."""

import argparse
import json

from cicada.cli.output import give
from cicada.errors import BadProject


def print_plans(options: argparse.Namespace) -> int:
    """Print what will sound and be shown, of each file."""
    from cicada.core.plan import plan_to_builtins
    from cicada.core.planner import plan
    from cicada.store.projectfile import load_case, load_run

    run = load_run(options.run) if options.run else None
    # All are planned before the first is printed, so that bad input prints nothing.
    shown = []
    for file in options.files:
        project, own_run = load_case(file)
        try:
            shown.append(plan_to_builtins(plan(project, run or own_run)))
        except BadProject as error:
            raise error.at(str(options.run if run else file)) from None
    if len(shown) == 1:
        give(json.dumps(shown[0], indent=1))
    else:
        for one in shown:
            give(json.dumps(one))
    return 0
