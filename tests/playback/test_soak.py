"""A while in which the film plays as it is edited."""

import os
import subprocess
import sys

from tests.hands.__main__ import HERE


def test_a_while_of_edits_misses_no_block_and_takes_no_more_memory():
    ran = subprocess.run(
        [sys.executable, "-m", "tests.soak", "--minutes", "0.4"], cwd=HERE, check=False,
        env={**os.environ, "QT_QPA_PLATFORM": "offscreen"}, capture_output=True, text=True,
        timeout=240,
    )  # fmt: skip
    assert ran.returncode == 0, ran.stdout + ran.stderr
