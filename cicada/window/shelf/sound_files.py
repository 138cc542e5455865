"""Where the sounds' files stand: missing ones found, sources watched, takes, inside or linked."""

from collections.abc import Callable
from datetime import datetime
from functools import partial
from pathlib import Path

from PySide6.QtCore import QFileSystemWatcher, QObject, QTimer, QUrl, Signal
from PySide6.QtGui import QDesktopServices

from cicada.core.editing import Changes, Several
from cicada.core.model import Sound, all_takes
from cicada.core.shelf_edits import AddTake, ChangeSounds, UseTake
from cicada.disk.paths import is_there
from cicada.disk.why import size_text
from cicada.jobs.files import (
    Source,
    changed_sources,
    copy_to_work_on,
    find_missing,
    keep_file,
    take_in,
)
from cicada.media.ingest import Ingested
from cicada.store.importing import new_take
from cicada.store.sounds_folder import relative
from cicada.window.state.notices import Notices
from cicada.window.state.presence import Presence
from cicada.window.state.session import Session
from cicada.window.state.sounds import Sounds
from cicada.window.state.work import Work
from cicada.window.widgets.asking import Asking
from cicada.window.words.quantities import count

# How long a file must be left alone before it is looked at: programs write in several goes.
SETTLED = 800


def open_on_desktop(path: Path) -> bool:
    """Open a file with the program the desktop has for it; whether there is one."""
    return QDesktopServices.openUrl(QUrl.fromLocalFile(str(path)))


class SoundFiles(QObject):
    """What is done with the files behind the sounds. Sources are read, never written to.

    ``sources_changed`` comes when other sounds than before have a source that is not as it was
    taken in: ``changed_sources`` says where each stands.
    """

    sources_changed = Signal()

    def __init__(
        self,
        session: Session,
        presence: Presence,
        sounds: Sounds,
        work: Work,
        asking: Asking,
        notices: Notices,
    ) -> None:
        super().__init__()
        self.session, self.document = session, session.document
        self.presence, self.sounds, self.work = presence, sounds, work
        self.asking, self.notices = asking, notices
        self.changed_sources: dict[str, Path] = {}
        self.open_copy: Callable[[Path], bool] = open_on_desktop
        # By sound: the copies another program works on.
        self.copies: dict[str, Path] = {}
        self._looking = False
        self._watcher = QFileSystemWatcher(self)
        self._watcher.fileChanged.connect(self._stirred)
        self._watcher.directoryChanged.connect(self._stirred)
        self._settling = QTimer(self)
        self._settling.setSingleShot(True)
        self._settling.setInterval(SETTLED)
        self._settling.timeout.connect(self.look_at_sources)
        presence.missing_changed.connect(self._say_missing)
        self._said_missing = False

    @property
    def _cache(self) -> Path:
        return self.work.cache.folder

    # -- sources that have changed -------------------------------------------------------------

    def look_at_sources(self) -> None:
        """See which sounds' sources are not as they were taken in."""
        self.presence.look()
        sources = self._sources()
        if not sources:
            self._know_changed({})
        if self._looking or not sources:
            return
        self._looking = True

        def done(changed: dict[str, Path]) -> None:
            self._looking = False
            self._know_changed(changed)
            if changed:
                names = [s.name for s in self.document.project.sounds if s.id in changed]
                what = names[0] if len(names) == 1 else count(len(names), "sound")
                self.notices.say(
                    f"The source of {what} has changed on disk; its details offer it as a take."
                )

        def failed(_: str) -> None:
            self._looking = False

        self.work.jobs.run(changed_sources, sources, self._cache, done=done, failed=failed)

    def _know_changed(self, changed: dict[str, Path]) -> None:
        if changed != self.changed_sources:
            self.changed_sources = changed
            self.sources_changed.emit()

    def _sources(self) -> list[Source]:
        sources = []
        files = self.presence.standing.files
        for sound in self.document.project.sounds:
            known = tuple(part.hash for part in all_takes(sound) if part.hash)
            path = files.get(sound.id) if sound.kept == "linked" else Path(sound.origin)
            sources += [
                Source(sound.id, place, known)
                for place in (self.copies.get(sound.id), path)
                if known and place is not None and place.is_absolute()
            ]
        return sources

    def _stirred(self) -> None:
        self._settling.start()

    def take_changed(self) -> None:
        """Use the chosen sound's source as it is now."""
        sound = self._one()
        path = None if sound is None else self.changed_sources.get(sound.id)
        if sound is not None and path is not None:
            self._take(sound, path)

    # -- takes ---------------------------------------------------------------------------------

    def _one(self) -> Sound | None:
        chosen = self.session.chosen_sounds
        if len(chosen) != 1:
            self.notices.say("Choose one sound on the shelf first.")
            return None
        found = [sound for sound in self.document.project.sounds if sound.id == chosen[0]]
        if not found:
            self.notices.say("That is made of sounds; choose one of them.")
            return None
        return found[0]

    def other_take(self) -> None:
        """Ask for a file and use it as a take of the chosen sound."""
        sound = self._one()
        if sound is None:
            return
        path = self.asking.file_to_open(f"A take of {sound.label}")
        if path is not None:
            self._take(sound, path)

    def use_take(self, index: int) -> None:
        """Use another take of the chosen sound."""
        sound = self._one()
        if sound is not None and self.document.do(UseTake(sound=sound.id, index=index)):
            self.notices.say(f"{sound.name} is {sound.takes[index].name or 'another take'} now.")

    def _take(self, sound: Sound, path: Path) -> None:
        """Take a file in and let the sound be that from now on; clips keep their trims."""
        self.notices.say(f"Taking in {path.name}…", lasting=True)
        linked = sound.kept == "linked" and path != self.copies.get(sound.id)
        file = self.document.file

        def put(taken: Ingested, kept: str) -> None:
            take = new_take(path.name, taken, kept, linked=linked)
            if self.document.do(AddTake(sound=sound.id, take=take)):
                when = f"{datetime.now():%H:%M}"
                self.notices.say(
                    f"{sound.label} is {path.name} as of {when}; its clips keep their trims."
                )
                self.sounds.refresh()
                self.look_at_sources()

        def taken_in(taken: Ingested) -> None:
            if linked:
                put(taken, relative(path, file.parent))
                return
            self.work.jobs.run(
                keep_file, path, taken.hash, file,
                done=lambda kept: put(taken, kept), failed=self.notices.say,
            )  # fmt: skip

        self.work.jobs.run(
            take_in, path, self.document.project.rate, self._cache,
            done=taken_in, failed=self.notices.say, watched=True,
        )  # fmt: skip

    def work_on_copy(self) -> None:
        """Open a copy of the chosen sound's file with the desktop's program for it."""
        sound = self._one()
        path = None if sound is None else self.presence.standing.files.get(sound.id)
        if sound is None or path is None:
            return

        def done(copy: Path) -> None:
            self.copies[sound.id] = copy
            self._watcher.addPaths([str(copy), str(copy.parent)])
            if self.open_copy(copy):
                self.notices.say(
                    f"{copy.name} is open in another program. Save it there, and it is offered "
                    "here as a take.",
                    lasting=True,
                )
            else:
                self.notices.tell(f"no program opens {copy.suffix} here; the copy stands at {copy}")

        self.work.jobs.run(
            copy_to_work_on, path, self.document.copies_folder, sound.name,
            done=done, failed=self.notices.say,
        )  # fmt: skip

    # -- missing -------------------------------------------------------------------------------

    def _say_missing(self) -> None:
        missing = self.presence.missing
        if missing:
            names = [s.label for s in self.document.project.sounds if s.id in missing]
            shown = ", ".join(names[:4]) + (" …" if len(names) > 4 else "")
            self.notices.say(
                f"{count(len(names), 'sound')} missing: {shown}. "
                "“Find missing sounds” in the Shelf menu looks for them.",
                lasting=True,
            )
        elif self._said_missing:
            self.notices.say("")
        self._said_missing = bool(missing)

    def find_missing(self) -> None:
        """Ask for a folder and look there for the missing sounds, by what is in the files."""
        if not self.presence.missing:
            self.notices.say("No sound is missing.")
            return
        folder = self.asking.folder_to_open("Look for the missing sounds in")
        if folder is not None:
            self.find_in(folder)

    def find_in(self, folder: Path) -> None:
        """Look for the missing sounds in a folder and all below it."""
        missing = self.presence.missing
        wanted = [sound for sound in self.document.project.sounds if sound.id in missing]
        self.notices.say(f"Looking for {count(len(wanted), 'sound')} in {folder}…", lasting=True)

        def done(found: dict[str, Changes]) -> None:
            edits = tuple(
                ChangeSounds(sounds=(sound,), changes=changes) for sound, changes in found.items()
            )
            if edits:
                title = f"find {count(len(edits), 'missing sound')}"
                self.document.do(Several(named=title, edits=edits))
            self.presence.look()
            left = len(wanted) - len(found)
            rest = f"; {count(left, 'sound')} still missing" if left else ""
            self.notices.say(f"Found {count(len(found), 'sound')}{rest}.", lasting=bool(left))

        self.work.jobs.run(
            find_missing, wanted, folder, self.document.project.rate, self._cache,
            self.document.file, done=done, failed=self.notices.say,
        )  # fmt: skip

    # -- inside or linked ----------------------------------------------------------------------

    def keep_or_link(self) -> None:
        """Keep the chosen sounds inside if they are linked, link them if they are inside."""
        chosen = frozenset(self.session.chosen_sounds)
        sounds = [sound for sound in self.document.project.sounds if sound.id in chosen]
        if not sounds:
            self.notices.say("Choose a sound on the shelf first.")
        elif all(sound.kept == "linked" for sound in sounds):
            self._keep_inside(sounds)
        else:
            self._link([sound for sound in sounds if sound.kept == "inside"])

    def keep_all_inside(self) -> None:
        """Keep all linked sounds inside, so that the project has what it uses."""
        linked = [sound for sound in self.document.project.sounds if sound.kept == "linked"]
        if linked:
            self._keep_inside(linked)
        else:
            self.notices.say("No sound is linked: all are kept inside.")

    def _asks(self, text: str, yes: str) -> bool:
        return self.asking.choose(text, [yes, "Leave it as it is"], safe=1) == 0

    def _keep_inside(self, sounds: list[Sound]) -> None:
        files = self.presence.standing.files
        there = [s for s in sounds if s.id in files and is_there(files[s.id])]
        size = sum(files[sound.id].stat().st_size for sound in there)
        if not there:
            self.notices.say("Their files are missing; find them first.")
            return
        if not self._asks(
            f"{count(len(there), 'file')} will be copied into the project: {size_text(size)}.",
            "Keep inside",
        ):
            return
        for sound in there:
            self.work.jobs.run(
                keep_file,
                files[sound.id],
                sound.hash,
                self.document.file,
                done=partial(self._is_inside, sound.id),
                failed=self.notices.say,
            )

    def _is_inside(self, sound: str, file: str) -> None:
        changes = {"file": file, "kept": "inside"}
        self.document.do(ChangeSounds(sounds=(sound,), changes=changes))

    def _link(self, sounds: list[Sound]) -> None:
        """Link each to where it came from, if what stands there is still the same."""
        origins = [Source(s.id, Path(s.origin), (s.hash,)) for s in sounds]
        origins = [each for each in origins if each.path.is_absolute() and is_there(each.path)]
        if not origins:
            self.notices.tell(
                "the file it came from is not there any more, so it can only stay inside"
            )
            return

        def done(changed: dict[str, Path]) -> None:
            same = [each for each in origins if each.sound not in changed]
            if not same:
                self.notices.tell("the file it came from has changed, so it can only stay inside")
                return
            size = sum(each.path.stat().st_size for each in same)
            if not self._asks(
                f"{count(len(same), 'sound')} will need the file where it came from; "
                f"{size_text(size)} kept inside can then be tidied away.",
                "Link",
            ):
                return
            edits = tuple(
                ChangeSounds(
                    sounds=(each.sound,),
                    changes={
                        "file": relative(each.path, self.document.file.parent),
                        "kept": "linked",
                    },
                )
                for each in same
            )
            self.document.do(Several(named=f"link {count(len(same), 'sound')}", edits=edits))

        self.work.jobs.run(
            changed_sources, origins, self._cache, done=done, failed=self.notices.say
        )
