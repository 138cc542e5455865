"""Print the ``newest`` or the ``oldest`` Python here, of those Cicada is tried on, that runs.

Looked at are those on the path and those of pyenv; a name on the path may stand for one that is
not chosen and does not run.
"""

# The Python that is asked may be an old one.
from __future__ import annotations

import os
import shutil
import subprocess
import sys
from pathlib import Path

OLDEST, NEWEST = (3, 11), (3, 13)
ASK = "import ensurepip, sys, venv; print(sys.version_info[0], sys.version_info[1])"


def version(python: str) -> tuple[int, int] | None:
    """What a Python is, by asking it; None if it does not run."""
    try:
        said = subprocess.run([python, "-c", ASK], capture_output=True, text=True, check=True)
        major, minor = said.stdout.split()
        return int(major), int(minor)
    except (OSError, ValueError, subprocess.CalledProcessError):
        return None


names = [f"python3.{minor}" for minor in range(OLDEST[1], NEWEST[1] + 1)]
pyenv = Path(os.environ.get("PYENV_ROOT") or Path.home() / ".pyenv")
found = [shutil.which(name) for name in names]
found += [str(path) for path in sorted(pyenv.glob("versions/3.*/bin/python3"))]
known = {python: version(python) for python in (sys.executable, *found) if python}
fit = {python: of for python, of in known.items() if of is not None and OLDEST <= of <= NEWEST}
choose = min if sys.argv[1:] == ["oldest"] else max
print(choose(fit, key=lambda python: fit[python], default=sys.executable))
