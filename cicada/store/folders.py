"""Where Cicada keeps what is not in a project's own folder."""

import os
from pathlib import Path

import platformdirs


def data_folder() -> Path:
    """Where what is not saved yet, and what was saved before, is kept.

    ``CICADA_DATA`` names another folder.
    """
    named = os.environ.get("CICADA_DATA")
    return Path(named) if named else Path(platformdirs.user_data_dir("cicada"))
