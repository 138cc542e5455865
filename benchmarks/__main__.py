"""``python -m benchmarks``: all figures as a table, and in ``build/bench.json``."""

import sys
from itertools import chain
from pathlib import Path

from benchmarks import (
    cache,
    core,
    importing,
    journal,
    of_ones_own,
    playing,
    pressing,
    shelf,
    window,
)
from benchmarks.runner import report

if __name__ == "__main__":
    # The sheet first: what the others leave in memory would be measured with it.
    everything = chain(
        window.figures(),
        core.figures(),
        cache.figures(),
        journal.figures(),
        importing.figures(),
        shelf.figures(),
        playing.figures(),
        pressing.figures(),
        of_ones_own.figures(),
    )
    over = report(everything, Path("build/bench.json"))
    print("all within their targets" if not over else f"{over} over their targets")
    sys.exit(0)
