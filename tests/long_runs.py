"""Long runs add up over several goes: one file takes a line of each."""

import json
import subprocess
from pathlib import Path

HERE = Path(__file__).parent


def add(file, **line):
    """Add what a run was and found to ``file``, and which commit it was of."""
    asked = subprocess.run(
        ["git", "rev-parse", "--short", "HEAD"],
        cwd=HERE,
        capture_output=True,
        text=True,
        check=False,
    )
    line["commit"] = asked.stdout.strip() or "unknown"
    with file.open("a") as report:
        report.write(json.dumps(line) + "\n")
