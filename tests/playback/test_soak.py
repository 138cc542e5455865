"""Half a minute in which the film plays while it is edited."""

import os
import subprocess
import sys

from tests.hands.__main__ import HERE

# A machine on which other tests run may stand still for a while; ``make soak`` bears nothing.
BORNE = 1000


def test_half_a_minute_of_edits_breaks_nothing_and_takes_no_more_memory():
    ran = subprocess.run(
        [sys.executable, "-m", "tests.soak", "--minutes", "0.5", "--missed", str(BORNE)], cwd=HERE,
        check=False, env={**os.environ, "QT_QPA_PLATFORM": "offscreen"}, capture_output=True,
        text=True, timeout=240,
    )  # fmt: skip
    assert ran.returncode == 0, ran.stdout + ran.stderr
