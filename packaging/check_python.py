"""Say in one sentence what is wrong with this Python, if anything is."""

import sys

if sys.version_info < (3, 11):  # noqa: UP036 - this file runs before anything is installed
    sys.exit(
        "Cicada needs Python 3.11 or newer, this is " + sys.version.split()[0] + "; set PYTHON"
    )
try:
    import ensurepip  # noqa: F401
    import venv  # noqa: F401
except ImportError:
    sys.exit("This Python has no venv; install the package python3-venv")
