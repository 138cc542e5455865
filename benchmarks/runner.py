"""A small round-robin runner: every round does each piece of work once, so that what disturbs the
machine disturbs all alike; a figure is the ratio of two medians.
"""

import gc
import json
import statistics
import time
from collections.abc import Callable, Iterable
from dataclasses import asdict, dataclass
from pathlib import Path

Work = Callable[[], object]
ROUNDS = 9


@dataclass(frozen=True)
class Figure:
    """One line of the table and of ``build/bench.json``."""

    name: str
    value: float
    unit: str
    floor: float | None
    ratio: float | None
    target: float
    ok: bool


def measure(works: dict[str, Work], rounds: int = ROUNDS) -> dict[str, float]:
    """The median time of each piece of work in seconds; the first round only warms up."""
    times: dict[str, list[float]] = {name: [] for name in works}
    for number in range(rounds + 1):
        for name, work in works.items():
            gc.collect()
            gc.disable()
            began = time.perf_counter()
            work()
            took = time.perf_counter() - began
            gc.enable()
            if number:
                times[name].append(took)
    return {name: statistics.median(taken) for name, taken in times.items()}


def compare(name: str, work: Work, floor: Work, target: float, rounds: int = ROUNDS) -> Figure:
    """``work`` against ``floor``; ``target`` is the highest ratio asked for."""
    took = measure({"work": work, "floor": floor}, rounds)
    return figure(name, took["work"], took["floor"], target)


def figure(name: str, value: float, floor: float, target: float) -> Figure:
    """A figure from two times in seconds."""
    ratio = value / floor
    return Figure(
        name,
        round(value * 1000, 4),
        "ms",
        round(floor * 1000, 4),
        round(ratio, 3),
        target,
        ratio <= target,
    )


def absolute(name: str, value: float, unit: str, target: float) -> Figure:
    """A figure asked for in absolute units: said, but it fails no run."""
    value = round(float(value), 2)
    return Figure(name, value, unit, None, None, target, value <= target)


def percentile(values: list[float]) -> float:
    """The 99th percentile."""
    return statistics.quantiles(values, n=100)[98]


def report(figures: Iterable[Figure], path: Path) -> int:
    """Print the table and write the file; how many figures are over their target."""
    kept = []
    print(f"{'':62}{'value':>12}{'floor':>12}{'ratio':>8}{'target':>8}")
    for each in figures:
        kept.append(each)
        mark = "" if each.ok else "  <- over"
        print(
            f"{each.name:62}{each.value:>9.3f} {each.unit}"
            + (
                f"{'':20}{each.target:>8g}{mark}"
                if each.floor is None
                else f"{each.floor:>9.3f} ms{each.ratio or 0:>8.2f}{each.target:>8.2f}{mark}"
            ),
            flush=True,
        )
    path.parent.mkdir(parents=True, exist_ok=True)
    path.write_text(json.dumps([asdict(each) for each in kept], indent=1) + "\n")
    return sum(not each.ok for each in kept)
