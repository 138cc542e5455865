"""What others do to the project's file while this window has it."""

from concurrent.futures import Future
from pathlib import Path
from typing import Literal

from PySide6.QtCore import QObject, QTimer, Signal

from cicada.errors import BadProject, CicadaError
from cicada.store.claims import Claims
from cicada.store.projectfile import content_hash, read_bytes
from cicada.window.state.beside import Beside, Post
from cicada.window.state.document import Document

# Milliseconds between two looks.
EVERY = 700
# A file of more bytes is read again only if it has been written to, as far as the disk says.
SMALL = 1_000_000

Doing = Literal["nothing", "changed", "gone", "held"]
_Stat = tuple[int, int, int, int]


def _look(
    post: Post, file: Path, known: str, claims: Claims, before: tuple[_Stat, str] | None
) -> None:
    """Post what the file's bytes are known by (empty: it is not there), and who has claimed it."""
    held, stat, content = claims.held(file), (0, 0, 0, 0), ""
    try:
        state = file.stat()
        stat = state.st_size, state.st_ino, state.st_mtime_ns, state.st_ctime_ns
        if before is not None and before[0] == stat and state.st_size > SMALL:
            content = before[1]
        else:
            content = content_hash(read_bytes(file))
    except FileNotFoundError:
        pass
    except (OSError, BadProject):
        # A disk that does not answer well says nothing about the file.
        content = known
    post(file, known, stat, content, held)


class Elsewhere(QObject):
    """``doing`` is what has been done to the file elsewhere; ``changed`` comes with another one.

    A window that finds a project claimed by another looks on, and so does one whose claim another
    has taken over; what it held unsaved stays in it. ``told`` says what happened by itself.
    """

    changed = Signal()
    told = Signal(str)

    def __init__(self, document: Document, folder: Path) -> None:
        super().__init__()
        self._document, self._claims = document, Claims(folder)
        self._claimed: Path | None = None
        self._era = document.era
        self._before: tuple[_Stat, str] | None = None
        # The content that the person does not want to take over.
        self._kept = ""
        self.doing: Doing = "nothing"
        self._beside = Beside("elsewhere", self._take)
        self._newest: Future[None] | None = None
        self._timer = QTimer(self)
        self._timer.setInterval(EVERY)
        self._timer.timeout.connect(self.look)
        self._timer.start()
        document.became.connect(self._became)
        document.saved_state_changed.connect(self._follow_file)

    def _became(self) -> None:
        self._let_go()
        self._era = self._document.era
        path = self._document.path
        if path is not None and self._claims.held(path):
            self._document.look_on(on=True)
            self._say("held")
        else:
            self._claim()
            self._say("nothing")

    def _follow_file(self) -> None:
        """Saved under another name it is another file."""
        document = self._document
        another = document.era != self._era
        if not another and document.path != self._claimed and not document.looking:
            self._let_go()
            self._claim()
            self._say("nothing")

    def _claim(self) -> None:
        self._claimed, self._before, self._kept = self._document.path, None, ""
        self._document.look_on(on=False)
        if self._claimed is not None:
            self._claims.take(self._claimed)

    def _let_go(self) -> None:
        if self._claimed is not None:
            self._claims.let_go(self._claimed)
            self._claimed = None

    # -- looking -------------------------------------------------------------------------------

    def look(self) -> None:
        """See what has become of the file."""
        path = self._document.path
        if path is None or (self._newest is not None and not self._newest.done()):
            return
        known = self._document.content
        self._newest = self._beside.do(_look, path, known, self._claims, self._before)

    def _take(self, file: Path, known: str, stat: _Stat, content: str, held: bool) -> None:  # noqa: FBT001 - posted so
        document = self._document
        if file != document.path or known != document.content:
            # It has been saved or left meanwhile.
            return
        self._before = stat, content
        if held:
            document.look_on(on=True)
            self._claimed = None
            if content not in (known, "") and not document.dirty:
                self._follow()
            self._say("held")
        elif document.looking:
            self._claim()
            self._say("nothing")
            self.told.emit("No other window has it open any more: you can work on it.")
        elif not content:
            self._say("gone")
        elif content in (known, self._kept):
            self._say("nothing")
        else:
            self._say("changed")

    def _say(self, doing: Doing) -> None:
        if doing != self.doing:
            self.doing = doing
            self.changed.emit()

    # -- what the person wants -----------------------------------------------------------------

    def _follow(self) -> None:
        try:
            self._document.take_what_is_there()
        except CicadaError as error:
            self._document.refused.emit(str(error))

    def take_what_is_there(self) -> None:
        """Have the project as its file is now; what is here can be had again by undo."""
        self._follow()
        self._say("nothing")

    def keep_mine(self) -> None:
        """Go on with what is here; saving will ask before it replaces what is there."""
        if self._before is not None:
            self._kept = self._before[1]
        self._say("nothing")

    def take_over(self) -> None:
        """Work on it here; the other window looks on from now on."""
        self._claim()
        self._say("nothing")
        self.look()

    def close(self) -> None:
        """Claim nothing any more."""
        self._timer.stop()
        self._let_go()
        self._beside.close()
