"""``python -m tests.hands``: do random things to a real window, and say what broke."""

import argparse
import json
import os
import subprocess
import sys
import tempfile
import time
from pathlib import Path

from tests import long_runs

HERE = Path(__file__).parents[2]
# So many steps lie between two looks at everything.
LOOK = 100
# A run that takes a step longer than this hangs.
PATIENCE = 60
STARTS = ("empty", "random", "demo", "storm")


def main():
    parser = argparse.ArgumentParser(prog="hands", description=__doc__)
    parser.add_argument("--steps", type=int, default=1000)
    parser.add_argument("--seed", type=int, default=1)
    parser.add_argument("--start", choices=(*STARTS, "all"), default="all")
    parser.add_argument("--only", help="numbers of the steps to be done, as JSON")
    parser.add_argument("--report", type=Path, help="a file that a line is added to for each run")
    parser.add_argument("--whole", action="store_true", help="look for no shorter sequence")
    options = parser.parse_args()
    if options.only is not None:
        from tests.hands.run import run

        return run(options.start, options.seed, json.loads(options.only))
    starts = STARTS if options.start == "all" else (options.start,)
    failed = 0
    for start in starts:
        began = time.monotonic()
        steps = list(range(options.steps))
        code, said = attempt(start, options.seed, steps)
        found = "nothing" if code == 0 else said.strip().splitlines()[-1] if said.strip() else "?"
        print(f"{start}, seed {options.seed}: {options.steps} steps, {found} "
              f"({time.monotonic() - began:.0f} s)", flush=True)  # fmt: skip
        if code:
            failed += 1
            print(said)
            if not options.whole:
                shortest = shorten(start, options.seed, reached(said, steps))
                print(f"python -m tests.hands --start {start} --seed {options.seed} "
                      f"--only '{json.dumps(shortest)}'", flush=True)  # fmt: skip
        if options.report is not None:
            long_runs.add(options.report, run="hands", start=start, seed=options.seed,
                          count=options.steps, found=found)  # fmt: skip
    return int(failed > 0)


def attempt(start, seed, steps):
    """Do some steps in a process of their own; its exit code and what it said."""
    command = [sys.executable, "-m", "tests.hands", "--start", start, "--seed", str(seed)]
    environment = {**os.environ, "QT_QPA_PLATFORM": os.environ.get("QT_QPA_PLATFORM", "offscreen")}
    environment["PYTHONFAULTHANDLER"] = "1"
    with tempfile.TemporaryDirectory() as home:
        environment |= {"CICADA_DATA": f"{home}/data", "CICADA_CACHE": f"{home}/cache"}
        try:
            ran = subprocess.run(
                [*command, "--only", json.dumps(steps)], cwd=HERE, env=environment, text=True,
                stdout=subprocess.PIPE, stderr=subprocess.STDOUT,
                timeout=PATIENCE + 0.5 * len(steps), check=False,
            )  # fmt: skip
        except subprocess.TimeoutExpired as expired:
            said = expired.stdout or b""
            return 1, (said.decode() if isinstance(said, bytes) else said) + "\nit hangs"
        return ran.returncode, ran.stdout


def reached(said, steps):
    """The steps up to the one that broke it."""
    numbers = [int(line.split()[1]) for line in said.splitlines() if line.startswith("step ")]
    return steps[: steps.index(numbers[-1]) + 1] if numbers else steps


def shorten(start, seed, steps):
    """Fewer steps that break something still, found in a bounded number of tries."""
    tries = 40
    size = 1
    while size < len(steps):
        tail = steps[-size:]
        tries -= 1
        if attempt(start, seed, tail)[0]:
            steps = tail
            break
        size *= 4
    piece = max(1, len(steps) // 2)
    while piece and tries > 0:
        at = 0
        while at < len(steps) - 1 and tries > 0:
            fewer = steps[:at] + steps[at + piece :]
            tries -= 1
            if fewer and attempt(start, seed, fewer)[0]:
                steps = fewer
            else:
                at += piece
        piece //= 2
    return steps


if __name__ == "__main__":
    sys.exit(main())
