"""``python -m cicada``."""

import sys

from cicada.cli.main import main

if __name__ == "__main__":
    sys.exit(main())
