"""Handing a project over: packed into one file, opened from one, and a text of its sounds."""

from pathlib import Path

from PySide6.QtCore import QObject, QTimer, Signal

from cicada.deliver.packing import Packed
from cicada.deliver.terms import terms_text
from cicada.disk.why import size_text, why
from cicada.disk.writing import sweep, whole_file, write_all
from cicada.errors import CicadaError
from cicada.jobs.handing_over import pack_into, unpack_into
from cicada.window.state.document import Document
from cicada.window.state.notices import Notices
from cicada.window.state.work import Work
from cicada.window.widgets.asking import Asking
from cicada.window.widgets.progressing import Progressing
from cicada.window.words.quantities import count

SHOWN = 8


class HandingOver(QObject):
    """``opened`` comes with the project file of an archive that has been opened."""

    opened = Signal(object)

    def __init__(self, document: Document, work: Work, asking: Asking, notices: Notices) -> None:
        super().__init__()
        self._document, self._work = document, work
        self._asking, self._notices = asking, notices

    def pack(self) -> None:
        """Ask for a file, and pack the project as it is now with everything it uses."""
        path = self._asking.file_to_write("Pack", "Archives (*.zip)", ".zip", (".zip",))
        if path is None:
            return
        progress = Progressing(self._asking.parent, f"Packing {path.name}…")

        def done(packed: Packed) -> None:
            progress.close()
            said = f"{path.name}: {packed.files:,} files, {size_text(packed.size)}."
            if packed.missing:
                named = ", ".join(packed.missing[:SHOWN])
                more = " …" if len(packed.missing) > SHOWN else ""
                said += f" {count(len(packed.missing), 'file')} not there: {named}{more}."
            self._notices.say(said, lasting=True)

        def failed(sentence: str) -> None:
            progress.close()
            QTimer.singleShot(1000, lambda: sweep(path.parent))
            self._notices.say("Packing was stopped." if job.cancelled else sentence)

        job = self._work.jobs.run(
            pack_into, self._document.project, self._document.file, path,
            done=done, failed=failed,
        )  # fmt: skip
        progress.follow(job)

    def open_archive(self) -> None:
        """Ask for an archive and a folder, and open the project in it."""
        archive = self._asking.file_to_open("Open an archive", "Archives (*.zip)")
        folder = None if archive is None else self._asking.folder_to_open("Put it into this folder")
        if archive is None or folder is None:
            return
        progress = Progressing(self._asking.parent, f"Opening {archive.name}…")

        def done(file: Path) -> None:
            progress.close()
            self.opened.emit(file)

        def failed(sentence: str) -> None:
            progress.close()
            QTimer.singleShot(1000, lambda: sweep(folder))
            if not job.cancelled:
                self._notices.tell(sentence)

        job = self._work.jobs.run(unpack_into, archive, folder, done=done, failed=failed)
        progress.follow(job)

    def write_terms(self) -> None:
        """Ask for a file, and write where the sounds come from and on what terms."""
        path = self._asking.file_to_write("Sounds and terms", "Texts (*.txt)", ".txt", (".txt",))
        if path is None:
            return
        try:
            with whole_file(path) as made:
                write_all(made.file, terms_text(self._document.project).encode())
        except (CicadaError, OSError) as error:
            said = f"{path}: {why(error)}" if isinstance(error, OSError) else str(error)
            self._notices.tell(said)
            return
        self._notices.say(f"{path.name} is written.")
