"""Where the sounds' files stand: missing ones found, sources watched, takes, inside or linked."""

from collections.abc import Callable
from datetime import datetime
from functools import partial
from pathlib import Path
from typing import TYPE_CHECKING

from PySide6.QtCore import QFileSystemWatcher, QObject, QTimer, QUrl
from PySide6.QtGui import QDesktopServices
from PySide6.QtWidgets import QFileDialog

from cicada.core.editing import Changes, Several
from cicada.core.model import Sound, all_takes
from cicada.core.shelf_edits import AddTake, ChangeSounds, UseTake
from cicada.deliver.work import (
    Source,
    changed_sources,
    copy_to_work_on,
    find_missing,
    keep_cache,
    keep_file,
    take_in,
)
from cicada.media.cache import LIMIT
from cicada.media.ingest import Ingested
from cicada.store.importing import new_take
from cicada.store.sounds_folder import relative
from cicada.window.shelf.sound_details import size_text
from cicada.window.widgets.asking import choose
from cicada.window.words.quantities import count

if TYPE_CHECKING:
    from cicada.window.frame.main_window import MainWindow

# How long a file must be left alone before it is looked at: programs write in several goes.
SETTLED = 800


def open_on_desktop(path: Path) -> bool:
    """Open a file with the program the desktop has for it; whether there is one."""
    return QDesktopServices.openUrl(QUrl.fromLocalFile(str(path)))


class Keeping(QObject):
    """What is done with the files behind the sounds. Sources are read, never written to."""

    def __init__(self, window: "MainWindow") -> None:
        super().__init__(window)
        self.window, self.document = window, window.document
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

    @property
    def _cache(self) -> Path:
        return self.window.sounds.cache.folder

    # -- sources that have changed -------------------------------------------------------------

    def look_at_sources(self) -> None:
        """See which sounds' sources are not as they were taken in."""
        self.window.presence.look()
        sources = self._sources()
        if self._looking or not sources:
            if not sources:
                self.window.shelf.know_changed({})
            return
        self._looking = True

        def done(changed: dict[str, Path]) -> None:
            self._looking = False
            self.window.shelf.know_changed(changed)
            if changed:
                names = [s.name for s in self.document.project.sounds if s.id in changed]
                what = names[0] if len(names) == 1 else count(len(names), "sound")
                self.window.say(
                    f"The source of {what} has changed on disk; its details offer it as a take."
                )

        def failed(_: str) -> None:
            self._looking = False

        self.window.jobs.run(changed_sources, sources, self._cache, done=done, failed=failed)

    def _sources(self) -> list[Source]:
        sources = []
        files = self.window.presence.standing.files
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
        path = None if sound is None else self.window.shelf.changed_sources.get(sound.id)
        if sound is not None and path is not None:
            self._take(sound, path)

    # -- takes ---------------------------------------------------------------------------------

    def _one(self) -> Sound | None:
        chosen = self.window.shelf.chosen()
        sounds = {sound.id: sound for sound in self.document.project.sounds}
        if len(chosen) != 1:
            self.window.say("Choose one sound on the shelf first.")
            return None
        return sounds.get(chosen[0])

    def other_take(self) -> None:
        """Ask for a file and use it as a take of the chosen sound."""
        sound = self._one()
        if sound is None:
            return
        name, _ = QFileDialog.getOpenFileName(
            self.window, f"A take of {sound.name}", self.window.files.folder()
        )
        if name:
            self._take(sound, Path(name))

    def use_take(self, index: int) -> None:
        """Use another take of the chosen sound."""
        sound = self._one()
        if sound is not None and self.document.do(UseTake(sound=sound.id, index=index)):
            self.window.say(f"{sound.name} is {sound.takes[index].name or 'another take'} now.")

    def _take(self, sound: Sound, path: Path) -> None:
        """Take a file in and let the sound be that from now on; clips keep their trims."""
        window = self.window
        window.say(f"Taking in {path.name}…", lasting=True)
        linked = sound.kept == "linked" and path != self.copies.get(sound.id)
        file = self.document.file

        def put(taken: Ingested, kept: str) -> None:
            take = new_take(path.name, taken, kept, linked=linked)
            if self.document.do(AddTake(sound=sound.id, take=take)):
                when = f"{datetime.now():%H:%M}"
                window.say(f"{sound.name} is {path.name} as of {when}; its clips keep their trims.")
                window.sounds.refresh()
                self.look_at_sources()

        def taken_in(taken: Ingested) -> None:
            if linked:
                put(taken, relative(path, file.parent))
                return
            window.jobs.run(
                keep_file, path, taken.hash, file,
                done=lambda kept: put(taken, kept), failed=window.say,
            )  # fmt: skip

        window.jobs.run(
            take_in, path, self.document.project.rate, self._cache,
            done=taken_in, failed=window.say, watched=True,
        )  # fmt: skip

    def work_on_copy(self) -> None:
        """Open a copy of the chosen sound's file with the desktop's program for it."""
        sound = self._one()
        path = None if sound is None else self.window.presence.standing.files.get(sound.id)
        if sound is None or path is None:
            return

        def done(copy: Path) -> None:
            self.copies[sound.id] = copy
            self._watcher.addPaths([str(copy), str(copy.parent)])
            if self.open_copy(copy):
                self.window.say(
                    f"{copy.name} is open in another program. Save it there, and it is offered "
                    "here as a take.",
                    lasting=True,
                )
            else:
                self.window.tell(f"no program opens {copy.suffix} here; the copy stands at {copy}")

        self.window.jobs.run(
            copy_to_work_on, path, self.document.copies_folder, sound.name,
            done=done, failed=self.window.say,
        )  # fmt: skip

    # -- missing -------------------------------------------------------------------------------

    def find_missing(self) -> None:
        """Ask for a folder and look there for the missing sounds, by what is in the files."""
        if not self.window.presence.missing:
            self.window.say("No sound is missing.")
            return
        name = QFileDialog.getExistingDirectory(
            self.window, "Look for the missing sounds in", self.window.files.folder()
        )
        if name:
            self.find_in(Path(name))

    def find_in(self, folder: Path) -> None:
        """Look for the missing sounds in a folder and all below it."""
        missing = self.window.presence.missing
        wanted = [sound for sound in self.document.project.sounds if sound.id in missing]
        self.window.say(f"Looking for {count(len(wanted), 'sound')} in {folder}…", lasting=True)

        def done(found: dict[str, Changes]) -> None:
            edits = tuple(
                ChangeSounds(sounds=(sound,), changes=changes) for sound, changes in found.items()
            )
            if edits:
                title = f"find {count(len(edits), 'missing sound')}"
                self.document.do(Several(named=title, edits=edits))
            self.window.presence.look()
            left = len(wanted) - len(found)
            rest = f"; {count(left, 'sound')} still missing" if left else ""
            self.window.say(f"Found {count(len(found), 'sound')}{rest}.", lasting=bool(left))

        self.window.jobs.run(
            find_missing, wanted, folder, self.document.project.rate, self._cache,
            self.document.file, done=done, failed=self.window.say,
        )  # fmt: skip

    # -- inside or linked ----------------------------------------------------------------------

    def keep_or_link(self) -> None:
        """Keep the chosen sounds inside if they are linked, link them if they are inside."""
        chosen = frozenset(self.window.shelf.chosen())
        sounds = [sound for sound in self.document.project.sounds if sound.id in chosen]
        if not sounds:
            self.window.say("Choose a sound on the shelf first.")
        elif all(sound.kept == "linked" for sound in sounds):
            self._keep_inside(sounds)
        else:
            self._link([sound for sound in sounds if sound.kept == "inside"])

    def _asks(self, text: str, yes: str) -> bool:
        return choose(self.window, text, [yes, "Leave it as it is"], safe=1) == 0

    def _keep_inside(self, sounds: list[Sound]) -> None:
        files = self.window.presence.standing.files
        there = [s for s in sounds if s.id in files and files[s.id].exists()]
        size = sum(files[sound.id].stat().st_size for sound in there)
        if not there:
            self.window.say("Their files are missing; find them first.")
            return
        if not self._asks(
            f"{count(len(there), 'file')} will be copied into the project: {size_text(size)}.",
            "Keep inside",
        ):
            return
        for sound in there:
            self.window.jobs.run(
                keep_file,
                files[sound.id],
                sound.hash,
                self.document.file,
                done=partial(self._is_inside, sound.id),
                failed=self.window.say,
            )

    def _is_inside(self, sound: str, file: str) -> None:
        changes = {"file": file, "kept": "inside"}
        self.document.do(ChangeSounds(sounds=(sound,), changes=changes))

    def _link(self, sounds: list[Sound]) -> None:
        """Link each to where it came from, if what stands there is still the same."""
        origins = [Source(s.id, Path(s.origin), (s.hash,)) for s in sounds]
        origins = [each for each in origins if each.path.is_absolute() and each.path.exists()]
        if not origins:
            self.window.tell(
                "the file it came from is not there any more, so it can only stay inside"
            )
            return

        def done(changed: dict[str, Path]) -> None:
            same = [each for each in origins if each.sound not in changed]
            if not same:
                self.window.tell("the file it came from has changed, so it can only stay inside")
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

        self.window.jobs.run(
            changed_sources, origins, self._cache, done=done, failed=self.window.say
        )

    # -- the cache -----------------------------------------------------------------------------

    def keep_cache(self) -> None:
        """Bring the cache down to its limit; what the plan needs stays."""
        project = self.document.project
        used = {voice.sound for voice in self.window.planning.plan.voices}
        keys = [
            self.window.sounds.cache.sound_key(sound.hash, project.rate)
            for sound in project.sounds
            if sound.hash and sound.id in used
        ]
        limit = int(str(self.window.settings.value("cache/limit", LIMIT)))
        self.window.jobs.run(
            keep_cache, self._cache, limit, keys, done=lambda _: None, failed=lambda _: None
        )
