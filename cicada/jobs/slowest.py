"""The job that finds how slow a machine may be."""

from cicada.core.model import Project, Run
from cicada.core.slowest import Slowest, slowest
from cicada.errors import Cancelled
from cicada.jobs.worker import progress


def find_slowest(project: Project, run: Run, tolerance: int) -> Slowest:
    """See ``core.slowest``; raises ``Cancelled``."""
    found = slowest(project, run, tolerance, progress)
    if found is None:
        raise Cancelled("stopped")
    return found
