"""Bringing sounds in: asked for, dropped or pasted."""

from collections.abc import Callable
from pathlib import Path

from PySide6.QtCore import QSettings
from PySide6.QtWidgets import QApplication, QDialog

from cicada.core.editing import Cell
from cicada.core.model import Sound
from cicada.window.playing.listening import Listening
from cicada.window.shelf.entry import Kept
from cicada.window.shelf.importing import Importing
from cicada.window.shelf.shelf import Shelf
from cicada.window.state.arranging import Arranging
from cicada.window.state.decoding import Decoding
from cicada.window.state.notices import Notices
from cicada.window.state.session import Session
from cicada.window.state.sounds import Sounds
from cicada.window.state.work import Work


class ImportCommands:
    """One import at a time; ``importing`` is the last one."""

    def __init__(
        self,
        session: Session,
        shelf: Shelf,
        sounds: Sounds,
        listening: Listening,
        arranging: Arranging,
        decoding: Decoding,
        work: Work,
        notices: Notices,
        settings: QSettings,
    ) -> None:
        self.session, self.document, self.shelf = session, session.document, shelf
        self.sounds, self.listening, self.arranging = sounds, listening, arranging
        self.decoding, self.work, self.notices = decoding, work, notices
        self.settings = settings
        self.importing: Importing | None = None
        self.summary: QDialog | None = None
        # What is known of a sound elsewhere goes onto the shelf with it.
        self.with_what_is_known: Callable[[Sound], Sound] = lambda sound: sound

    @property
    def under_way(self) -> bool:
        """Whether something is being imported."""
        return self.importing is not None and not self.importing.done

    def import_sounds(self) -> None:
        """Ask for sounds and folders and put them on the shelf."""
        from cicada.window.shelf.import_dialog import ImportDialog

        settings = self.settings
        last = Path(str(settings.value("import/folder", "")) or Path.home())
        beside = None if self.document.path is None else self.document.path.parent
        dialog = ImportDialog(self.shelf, self.listening, self.work.jobs, last, beside)
        if dialog.exec() and dialog.paths:
            settings.setValue("import/folder", str(dialog.folder))
            self.import_files(dialog.paths, kept=dialog.kept)
        dialog.deleteLater()

    def import_files(
        self, paths: list[Path], place_at: Cell | None = None, kept: Kept = "size"
    ) -> None:
        """Take in files and what is in folders; the first in is put on ``place_at`` if given."""
        if self.under_way:
            self.notices.say("One import is under way; wait for it or stop it.")
            return
        self.importing = Importing(
            self.session, self.arranging, self.decoding, self.work, paths, place_at, kept,
            self.with_what_is_known,
        )  # fmt: skip
        self.importing.setParent(self.shelf)
        self.importing.shelved.connect(self.sounds.refresh)
        self.importing.over.connect(self._imported)
        self.shelf.strip.follow(self.importing)

    def _imported(self) -> None:
        if self.importing is not None:
            refused = bool(self.importing.of("refused"))
            self.notices.say(self.importing.sentence() if refused else "", lasting=refused)

    def show_summary(self) -> None:
        """Show what became of every file of the last import."""
        from cicada.window.shelf.import_summary import ImportSummary

        if self.importing is not None:
            self.summary = ImportSummary(self.shelf, self.importing)
            self.summary.show()

    def paste(self) -> None:
        """Import the files that have been copied in a file manager."""
        # Some platforms have no data at all where nothing was copied.
        data = QApplication.clipboard().mimeData()
        urls = data.urls() if data is not None else []  # type: ignore[redundant-expr]
        files = [Path(url.toLocalFile()) for url in urls if url.isLocalFile()]
        if files:
            self.import_files(files)
        else:
            self.notices.say("There are no files to paste; copy some in a file manager first.")

    def close(self) -> None:
        """Put nothing more on the shelf."""
        if self.importing is not None:
            self.importing.close()
