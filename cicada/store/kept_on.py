"""Which film each kept run was made on, so that it can be said when the film has changed since.

A project's file has no place for it; it is kept in the data folder, for this person.
"""

from pathlib import Path

import msgspec

from cicada.disk.locking import locked
from cicada.disk.reading import read_within
from cicada.errors import BadProject, CicadaError
from cicada.store.folders import data_folder
from cicada.store.projectfile import write_atomically

# Bytes of the file that are read, and runs that are remembered; the oldest are forgotten.
MOST, RUNS = 4_000_000, 2000


class KeptOn:
    """The marks of films, by the marks of the runs made on them."""

    def __init__(self, file: Path | None = None) -> None:
        self._file = file or data_folder() / "kept_on.json"
        self._films = self._read()

    def _read(self) -> dict[str, str]:
        try:
            return msgspec.json.decode(
                read_within(self._file, MOST, BadProject), type=dict[str, str]
            )
        except (CicadaError, msgspec.DecodeError, UnicodeDecodeError):
            return {}

    def film_of(self, run: str) -> str | None:
        """The mark of the film a run was made on; None if nobody knows."""
        return self._films.get(run)

    def remember(self, run: str, film: str) -> None:
        """A run was made on a film; a data folder that cannot be written forgets it at the end."""
        self._films = {**self._films, run: film}
        try:
            self._file.parent.mkdir(parents=True, exist_ok=True)
            with locked(self._file.parent):
                known = list({**self._read(), run: film}.items())[-RUNS:]
                write_atomically(self._file, msgspec.json.encode(dict(known)))
        except (OSError, CicadaError):
            return
