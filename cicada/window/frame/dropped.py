"""Files dropped anywhere on the window."""

from pathlib import Path

from PySide6.QtCore import QObject, QTimer

from cicada.core.editing import Cell
from cicada.window.frame.files import SUFFIX, Files
from cicada.window.picture.adding import Adding
from cicada.window.shelf.import_commands import ImportCommands


class Dropped(QObject):
    """A project among them is opened, and not taken for a sound."""

    def __init__(self, files: Files, imports: ImportCommands, adding: Adding) -> None:
        super().__init__()
        self._files, self._imports, self._adding = files, imports, adding

    def on_sheet(self, files: list[Path], layer: str, frame: int) -> None:
        """Import them and put the first on a cell."""
        if not self._opens(files):
            self._imports.import_files(files, Cell(layer, frame))

    def on_shelf(self, files: list[Path]) -> None:
        """Import them."""
        if not self._opens(files):
            self._imports.import_files(files)

    def on_picture(self, files: list[Path], frame: int | None = None) -> None:
        """Put into the picture what can be one, from a frame or the playhead on."""
        if not self._opens(files):
            self._adding.drop(files, frame)

    def _opens(self, files: list[Path]) -> bool:
        projects = [file for file in files if file.suffix.lower() == SUFFIX]
        if projects:
            # Not inside the drop, which another program waits for.
            QTimer.singleShot(0, self, lambda: self._files.open_file(projects[0]))
        return bool(projects)
