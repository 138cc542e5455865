"""``python -m cicada``."""

import sys

from cicada.cli.start import main

if __name__ == "__main__":
    sys.exit(main())
