"""Going back to what was: unfinished work, earlier versions, and what unsaved projects left."""

from collections.abc import Callable
from contextlib import suppress
from pathlib import Path

from PySide6.QtCore import QObject, Qt
from PySide6.QtGui import QPixmap

from cicada.disk.paths import is_folder
from cicada.disk.why import size_text
from cicada.errors import BadProject, CicadaError
from cicada.jobs.files import copied_beside
from cicada.store.journal_lines import SUFFIX
from cicada.store.leftovers import Leftover, folders, leftovers, remove, remove_needless
from cicada.store.projectfile import content_hash, load, loads, read_bytes
from cicada.store.sounds_folder import sounds_folder
from cicada.store.unfinished import Unfinished, is_open, read, unfinished
from cicada.window.frame.files import Files
from cicada.window.state.jobs import Jobs
from cicada.window.state.notices import Notices
from cicada.window.widgets.asking import Asking
from cicada.window.words.quantities import count


class GoingBack(QObject):
    """What the start offers, and what the Project menu does with versions and leftovers."""

    def __init__(
        self,
        files: Files,
        jobs: Jobs,
        asking: Asking,
        notices: Notices,
        picture: Callable[[], QPixmap],
    ) -> None:
        """``picture`` draws what a version is known by."""
        super().__init__()
        self.files, self.document, self.jobs = files, files.document, jobs
        self.asking, self.notices, self._picture = asking, notices, picture

    # -- unfinished work -----------------------------------------------------------------------

    def look(self) -> None:
        """At the start: offer what was left unfinished, and remove what is needless."""
        if self._there():
            self.jobs.run(
                unfinished, self.document.journals, done=self._offer, failed=self.notices.say
            )
        if folders(self.document.recovery):
            self.jobs.run(
                leftovers, self.document.recovery, self.document.journals,
                done=self._clear_needless, failed=lambda _: None,
            )  # fmt: skip

    def _there(self) -> bool:
        with suppress(OSError):
            return any(not is_open(path) for path in self.document.journals.glob(f"*{SUFFIX}"))
        return False

    def show_unfinished(self) -> None:
        """Offer again what was left for later."""

        def offer(found: list[Unfinished]) -> None:
            if found:
                self._offer(found)
            else:
                self.notices.say("Nothing was left unfinished.")

        self.jobs.run(unfinished, self.document.journals, done=offer, failed=self.notices.say)

    def _offer(self, found: list[Unfinished]) -> None:
        from cicada.window.frame.unfinished_dialog import UnfinishedDialog

        # Another window may have taken one meanwhile.
        found = [each for each in found if not is_open(each.path)]
        if not found:
            return
        dialog = UnfinishedDialog(
            self.asking.parent, found, frozenset(each.path for each in found if _file_changed(each))
        )
        agreed = dialog.exec()
        wanted, chosen = dialog.wanted if agreed else "", dialog.chosen
        dialog.deleteLater()
        if wanted == "back":
            self.bring_back(chosen)
        elif wanted == "file":
            self.files.open_file(Path(chosen.base.file))
        elif wanted == "away":
            self._throw_away(chosen)

    def bring_back(self, found: Unfinished) -> None:
        """Go on with it where it was left."""
        if not self.files.may_leave():
            return
        # Read here: what has come from a worker has texts of its own, see ``copied_beside``.
        here = read(found.path)
        if here is None:
            self.notices.tell("it cannot be read any more; another window may have taken it")
            return
        found = here
        self.files.leaving.emit()
        self.document.let_go()
        self.document.bring_back(found)
        done = found.history.titles()[1]
        self.notices.say(
            f"{found.name} is back, with {count(done, 'step')}. Save it to keep it.", lasting=True
        )

    def _throw_away(self, found: Unfinished) -> None:
        text = f"What was done to “{found.name}” and not saved would be gone for good."
        if self.asking.choose(text, ["Throw it away", "Keep it"], safe=1) == 0:
            with suppress(OSError):
                found.path.unlink()

    # -- versions ------------------------------------------------------------------------------

    def keep_version(self) -> None:
        """Keep what was just saved, with a picture of the sheet."""
        from cicada.window.frame.versions_dialog import TALL, WIDE

        kept = self.document.versions.keep_what_is_there(self.document.file)
        if kept is not None:
            picture = self._picture().scaled(
                WIDE, TALL, Qt.AspectRatioMode.KeepAspectRatio,
                Qt.TransformationMode.SmoothTransformation,
            )  # fmt: skip
            picture.save(str(kept.with_suffix(".png")))

    def show_versions(self) -> None:
        """Show the project as it was saved before, to be opened as a copy."""
        from cicada.window.frame.versions_dialog import VersionsDialog

        document = self.document
        versions = [] if document.path is None else document.versions.of(document.path)
        if not versions:
            self.notices.say("It has not been saved here yet, so there is no earlier version.")
            return
        dialog = VersionsDialog(self.asking.parent, document.name, versions)
        agreed, chosen = dialog.exec(), dialog.chosen
        dialog.deleteLater()
        if agreed:
            self.open_copy(chosen.path)

    def open_copy(self, version: Path) -> None:
        """Open a version as a project of its own that is not saved yet."""
        file = self.document.path
        if file is None or not self.files.may_leave():
            return
        try:
            project = load(version)
        except CicadaError as error:
            self.notices.tell(str(error))
            return
        self.notices.say("Getting the copy ready…", lasting=True)
        era, target = self.document.era, self.document.next_working_file()

        def done(copy: bytes) -> None:
            if self.document.era != era:
                return
            self.files.leaving.emit()
            self.document.let_go()
            self.document.new(loads(copy), begun_at=target)
            self.notices.say("This is a copy: save it under a name to keep it.", lasting=True)

        self.jobs.run(copied_beside, project, file, target, done=done, failed=self.notices.say)

    # -- what unsaved projects left ------------------------------------------------------------

    def after_save(self, unsaved: Path | None) -> None:
        """Keep what was saved; what was not saved before has its files beside the project now."""
        self.keep_version()
        if unsaved is not None and is_folder(unsaved):
            saved = sounds_folder(self.document.file)
            self.jobs.run(
                remove_needless, [unsaved], [saved], done=lambda _: None, failed=lambda _: None
            )

    def _clear_needless(self, found: list[Leftover]) -> None:
        if found:
            beside = [sounds_folder(Path(name)) for name in self.files.recent_files()]
            self.jobs.run(
                remove_needless, [each.path for each in found], beside,
                done=lambda _: None, failed=lambda _: None,
            )  # fmt: skip

    def show_leftovers(self) -> None:
        """List what unsaved projects left behind, and remove it if told to."""

        def show(found: list[Leftover]) -> None:
            if not found:
                self.notices.say("Nothing was left behind.")
                return
            size = sum(each.size for each in found)
            files = sum(each.files for each in found)
            listed = "\n".join(
                f"{count(each.files, 'file')}, {size_text(each.size)}: {each.path}"
                for each in found[:12]
            )
            chosen = self.asking.choose(
                f"{count(len(found), 'project')} that was never saved left "
                f"{count(files, 'file')}, {size_text(size)}.",
                ["Remove them", "Keep them"],
                safe=1,
                detail=listed,
            )
            if chosen == 0:
                for each in found:
                    remove(each.path)
                self.notices.say(f"{size_text(size)} freed.")

        self.jobs.run(
            leftovers,
            self.document.recovery,
            self.document.journals,
            done=show,
            failed=self.notices.say,
        )


def _file_changed(found: Unfinished) -> bool:
    """Whether the file is another than when the journal was begun."""
    if found.unsaved:
        return False
    try:
        return content_hash(read_bytes(Path(found.base.file))) != found.base.content
    except BadProject:
        return True
