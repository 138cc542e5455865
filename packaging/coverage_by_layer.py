"""Check how much of each layer the tests run; the finer the layer, the more is asked."""

import json
import subprocess
import sys
import tempfile
from pathlib import Path

WANTED = {
    "core": 100.0, "disk": 90.0, "synth": 90.0, "media": 90.0, "store": 90.0, "cabinet": 90.0,
    "deliver": 90.0, "demo": 90.0,
    "cli": 90.0, "jobs": 80.0, "playback": 80.0, "remote": 90.0, "window": 80.0,
}  # fmt: skip


def main() -> int:
    """Print a table; 1 if a layer has less than is asked."""
    coverage = [sys.executable, "-m", "coverage"]
    subprocess.run([*coverage, "combine", "--quiet"], check=False)
    with tempfile.TemporaryDirectory() as folder:
        report = Path(folder) / "coverage.json"
        subprocess.run([*coverage, "json", "--quiet", "-o", str(report)], check=True)
        files = json.loads(report.read_text())["files"]
    failed = 0
    for layer, wanted in WANTED.items():
        inside = [f["summary"] for name, f in files.items() if name.startswith(f"cicada/{layer}/")]
        lines = sum(summary["num_statements"] for summary in inside)
        covered = sum(summary["covered_lines"] for summary in inside)
        share = 100 * covered / lines if lines else 0.0
        enough = share >= wanted
        failed += not enough
        mark = "" if enough else "  <- too little"
        print(f"{layer:10} {share:6.1f} %  (at least {wanted:.0f} %){mark}")
        if not enough:
            for name, file in files.items():
                if name.startswith(f"cicada/{layer}/") and file["missing_lines"]:
                    print(f"    {name}: lines {file['missing_lines'][:20]}")
    return int(failed > 0)


if __name__ == "__main__":
    sys.exit(main())
