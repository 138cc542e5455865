"""What can be done with the sounds on the shelf: the Shelf menu and the shelf's own."""

from collections.abc import Callable
from pathlib import Path
from typing import TYPE_CHECKING, Any

from PySide6.QtGui import QAction
from PySide6.QtWidgets import QAbstractItemView, QApplication, QDialog

from cicada.core.editing import Cell
from cicada.core.model import Clip, Sound
from cicada.core.shelf_edits import ChangeSounds, RemoveSounds, ReplaceSound, TagSounds
from cicada.deliver.work import Heard, hear_file
from cicada.errors import CicadaError
from cicada.media.cache import LIMIT
from cicada.store.sounds_folder import remove_unused, sounds_folder, unused
from cicada.window.shelf.importing import Importing, Keeping
from cicada.window.shelf.shelf_search import Uses
from cicada.window.shelf.sound_details import size_text
from cicada.window.widgets.asking import any_words, ask, choose, some_words
from cicada.window.words.numbers import shown
from cicada.window.words.quantities import count, parse_gigabytes

if TYPE_CHECKING:
    from cicada.window.frame.main_window import MainWindow

Action = tuple[str, str, str, Callable[[], Any]]
NAMED = 4


FIRST = "Choose a sound on the shelf first."


class ShelfCommands:
    """The commands for the chosen sounds, and for bringing more in."""

    def __init__(self, window: "MainWindow") -> None:
        self.window, self.document, self.session = window, window.document, window.session
        self.importing: Importing | None = None
        self.summary: QDialog | None = None

    def entries(self) -> list[Action | None]:
        """The entries of the Shelf menu: name, text, key, what they do."""
        window, keeping = self.window, self.window.keeping
        return [
            ("import", "Import sounds…", "Ctrl+I", self.import_sounds),
            ("find", "Search the shelf", "Ctrl+F", self.find),
            None,
            ("listen", "Listen to the sound", "L", self.listen),
            ("try", "Try it here, against the picture", "T", self.try_here),
            ("details", "Details of the sound", "D", self.show_details),
            ("rename_sound", "Rename the sound", "Ctrl+Shift+E", self.rename),
            ("folder", "Put into a folder…", "Ctrl+Shift+F", self.put_into_folder),
            ("tag", "Tag…", "Ctrl+T", self.tag),
            None,
            ("used", "Show where it is used", "U", self.show_used),
            ("replace_sound", "Replace it everywhere…", "Ctrl+Shift+R", self.replace_everywhere),
            ("keep", "Keep inside, or link…", "Ctrl+K", keeping.keep_or_link),
            ("take", "Another file as a take…", "Ctrl+Shift+T", keeping.other_take),
            ("work_on", "Work on a copy in another program…", "Ctrl+Shift+W", keeping.work_on_copy),
            ("remove_sound", "Remove from the shelf…", "Ctrl+Del", self.remove),
            None,
            ("find_missing", "Find missing sounds…", "Ctrl+Shift+M", window.keeping.find_missing),
            ("tidy", "Tidy the sounds folder…", "Ctrl+Shift+Y", self.tidy),
            ("cache", "Limit the cache of decoded sounds…", "Ctrl+Shift+K", self.limit_cache),
        ]

    def menu(self) -> list[QAction]:
        """What the menu on a sound offers."""
        names = (
            "listen", "try", "place", "details", "rename_sound", "folder", "tag", "used",
            "replace_sound", "keep", "take", "work_on", "remove_sound",
        )  # fmt: skip
        return [self.window.commands.actions[name] for name in names]

    def follow_choice(self) -> None:
        """Switch off what cannot be done with what is chosen."""
        number = len(self.window.shelf.chosen())
        actions = self.window.commands.actions
        for name in ("details", "folder", "tag", "used", "keep", "remove_sound"):
            actions[name].setEnabled(number > 0)
        for name in ("rename_sound", "replace_sound", "take", "work_on"):
            actions[name].setEnabled(number == 1)

    def chosen(self) -> list[Sound]:
        """The chosen sounds."""
        ids = frozenset(self.window.shelf.chosen())
        return [sound for sound in self.document.project.sounds if sound.id in ids]

    # -- bringing in ---------------------------------------------------------------------------

    def _some(self) -> list[Sound]:
        """The sounds that are chosen; that there are none is said."""
        sounds = self.chosen()
        if not sounds:
            self.window.say(FIRST)
        return sounds

    def import_sounds(self) -> None:
        """Ask for sounds and folders and put them on the shelf."""
        from cicada.window.shelf.import_dialog import ImportDialog

        settings, window = self.window.settings, self.window
        last = Path(str(settings.value("import/folder", "")) or Path.home())
        beside = None if self.document.path is None else self.document.path.parent
        dialog = ImportDialog(window, window.listening, window.jobs, last, beside)
        if dialog.exec() and dialog.paths:
            settings.setValue("import/folder", str(dialog.folder))
            self.import_files(dialog.paths, keeping=dialog.keeping)
        dialog.deleteLater()

    def import_files(
        self, paths: list[Path], place_at: Cell | None = None, keeping: Keeping = "size"
    ) -> None:
        """Take in files and what is in folders; the first in is put on ``place_at`` if given."""
        if self.importing is not None and not self.importing.done:
            self.window.say("One import is under way; wait for it or stop it.")
            return
        self.importing = Importing(self.window, paths, place_at, keeping)
        self.importing.over.connect(self._imported)
        self.window.shelf.strip.follow(self.importing)

    def _imported(self) -> None:
        if self.importing is not None:
            refused = bool(self.importing.of("refused"))
            self.window.say(self.importing.sentence() if refused else "", lasting=refused)

    def show_summary(self) -> None:
        """Show what became of every file of the last import."""
        from cicada.window.shelf.import_summary import ImportSummary

        if self.importing is not None:
            self.summary = ImportSummary(self.window, self.importing)
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
            self.window.say("There are no files to paste; copy some in a file manager first.")

    # -- finding and hearing -------------------------------------------------------------------

    def find(self) -> None:
        """Type words to look for."""
        if not self.document.project.sounds:
            self.window.say("There is nothing on the shelf yet: import sounds with Ctrl+I.")
            return
        if self.window.side.isHidden():
            self.window.widen(None)
        self.window.shelf.find_words()

    def listen(self) -> None:
        """Hear the chosen sound by itself, or stop that."""
        if self.session.sound is not None:
            self.window.listening.toggle(self.session.sound)
        else:
            self.window.say("Choose a sound on the shelf to listen to it.")

    def try_here(self) -> None:
        """Hear the chosen sound against the picture, as if it were on the playhead."""
        sound = self.session.sound
        if sound is None:
            self.window.say("Choose a sound on the shelf to try it.")
            return
        self.window.listening.stop()
        cache, project = self.window.sounds.cache, self.document.project
        content = project.sound(sound).hash
        path = self.window.presence.standing.files.get(sound)
        if path is None or cache.has(cache.sound_key(content, project.rate)):
            self.window.trying.try_out(sound)
            return

        def done(_: Heard) -> None:
            self.window.trying.try_out(sound)

        self.window.jobs.run(
            hear_file, path, content, project.rate, cache.folder,
            done=done, failed=self.window.say, watched=True,
        )  # fmt: skip

    # -- knowing and ordering ------------------------------------------------------------------

    def show_details(self) -> None:
        """Give the shelf the whole lower half, where the details have room."""
        shelf = self.window.shelf
        alone = self.window.picture.isHidden() and self.window.card.isHidden()
        self.window.widen(None if alone and not self.window.side.isHidden() else shelf)

    def rename(self) -> None:
        """Type another name for the chosen sound."""
        shelf = self.window.shelf
        if not shelf.list.currentIndex().isValid():
            self.window.say(FIRST)
            return
        if self.window.side.isHidden():
            self.window.widen(None)
        if shelf.list.state() != QAbstractItemView.State.EditingState:
            shelf.list.edit(shelf.list.currentIndex())

    def put_into_folder(self) -> None:
        """Ask for a folder of the shelf and put the chosen sounds into it."""
        folders = sorted({sound.folder for sound in self.document.project.sounds})
        sounds = self._some()
        if not sounds:
            return
        now = folders.index(sounds[0].folder)
        name = ask(
            self.window, "Folder", "The folder of the shelf, one of these or a new one:",
            folders[now], "Put them there", any_words, folders,
        )  # fmt: skip
        if name is not None:
            ids = tuple(sound.id for sound in sounds)
            self.document.do(ChangeSounds(sounds=ids, changes={"folder": name}))

    def tag(self) -> None:
        """Ask for a tag and put it on the chosen sounds; one they all have comes off."""
        sounds = self._some()
        if not sounds:
            return
        known = sorted({tag for sound in self.document.project.sounds for tag in sound.tags})
        name = ask(
            self.window, "Tag", "A tag for them; one they all have is taken off:",
            known[0] if known else "", "Tag them", some_words, known,
        )  # fmt: skip
        if name is not None:
            off = all(name in sound.tags for sound in sounds)
            ids = tuple(sound.id for sound in sounds)
            self.document.do(TagSounds(sounds=ids, tagged=name, off=off))

    def uses(self, sounds: list[Sound]) -> list[tuple[str, Cell]]:
        """Where these sounds are placed: scene and cell."""
        ids = {sound.id for sound in sounds}
        return [
            (scene.id, Cell(layer.id, keyframe.frame))
            for scene, layer in self.document.project.all_layers()
            for keyframe in sorted(layer.keyframes, key=lambda keyframe: keyframe.frame)
            if isinstance(keyframe, Clip) and keyframe.sound in ids
        ]

    def show_used(self) -> None:
        """Let its clips stand out on the sheet and choose the next of them."""
        sounds = self.chosen()
        uses = self.uses(sounds)
        if not uses:
            self.window.say("It is not used anywhere yet.")
            return
        now = (self.session.scene_id, self.session.cell)
        places = [(scene, cell) for scene, cell in uses]
        following = places.index(now) + 1 if now in places else self._first_in_scene(places)
        scene, cell = places[following % len(places)]
        if self.window.sheet.isHidden():
            self.window.widen(None)
        self.session.show_scene(scene)
        self.session.move_playhead(cell.frame)
        self.session.choose(cell)
        self.session.show_uses(sounds[0].id)
        self.window.sheet.show_frame(cell.frame)
        number = following % len(places) + 1
        self.window.say(f"{number} of {count(len(places), 'clip')}; U goes to the next.")

    def _first_in_scene(self, places: list[tuple[str, Cell]]) -> int:
        shown = [i for i, (scene, _) in enumerate(places) if scene == self.session.scene_id]
        return shown[0] if shown else 0

    def replace_everywhere(self) -> None:
        """Ask for another sound and let all clips of the chosen one be of that."""
        from cicada.window.shelf.choose_sound import ChooseSound

        sounds = self._some()
        if len(sounds) != 1:
            return
        number = len(self.uses(sounds))
        if not number:
            self.window.say("It is not used anywhere, so there is nothing to replace.")
            return
        others = [other for other in self.document.project.sounds if other.id != sounds[0].id]
        dialog = ChooseSound(
            self.window,
            f"{sounds[0].name} is in {count(number, 'clip')}. They keep their settings and "
            "become clips of:",
            others,
            f"Replace in {count(number, 'clip')}",
        )
        if dialog.exec() and dialog.chosen is not None:
            self.document.do(ReplaceSound(sound=sounds[0].id, by=dialog.chosen))
        dialog.deleteLater()

    def remove(self) -> None:
        """Take the chosen sounds off the shelf; if they are used, only after a question."""
        sounds = self._some()
        if sounds and self._may_remove(sounds):
            self.document.do(RemoveSounds(sounds=tuple(sound.id for sound in sounds)))
            self.window.say(
                f"Removed {count(len(sounds), 'sound')}; Ctrl+Z brings them back, and their files "
                "stay until they are tidied away."
            )

    def _may_remove(self, sounds: list[Sound]) -> bool:
        uses = self.uses(sounds)
        if not uses:
            return True
        names = {scene.id: scene.name or scene.id for scene in self.document.project.scenes}
        first = self.document.project.first_frame
        places = [f"{names[scene]}, frame {cell.frame + first}" for scene, cell in uses[:NAMED]]
        more = f" and {len(uses) - NAMED} more" if len(uses) > NAMED else ""
        number = Uses().of(self.document.project)
        used = [sound.name for sound in sounds if number[sound.id]]
        who = used[0] if len(used) == 1 else f"{len(used)} of these sounds"
        chosen = choose(
            self.window,
            f"{who} {'is' if len(used) == 1 else 'are'} in {count(len(uses), 'clip')}.",
            ["Remove", "Keep on the shelf"],
            safe=1,
            detail=f"{'; '.join(places)}{more}. If removed, these become rests; undo brings all "
            "back.",
        )
        return chosen == 0

    # -- looking after the files ---------------------------------------------------------------

    def tidy(self) -> None:
        """List what nothing needs in the sounds folder, and remove it if told to."""
        from cicada.window.shelf.tidy_dialog import TidyDialog

        if self.importing is not None and not self.importing.done:
            self.window.say("An import is under way; tidy when it is over.")
            return
        needed = [*self.document.steps(), *self.window.going_back.needed()]
        files = unused(self.document.file, needed)
        folder = sounds_folder(self.document.file)
        if not files:
            self.window.say(f"Everything in {folder.name} is needed.")
            return
        dialog = TidyDialog(self.window, folder.name, files)
        if dialog.exec():
            try:
                freed = remove_unused(files)
            except CicadaError as error:
                self.window.tell(str(error))
            else:
                self.window.say(f"Removed {count(len(files), 'file')}, {size_text(freed)} freed.")
        dialog.deleteLater()

    def limit_cache(self) -> None:
        """Ask how large the cache of decoded sounds may grow."""
        settings = self.window.settings
        now = float(str(settings.value("cache/limit", LIMIT))) / 1e9
        value = ask(
            self.window, "Cache of decoded sounds",
            f"Sounds are kept decoded in {self.window.sounds.cache.folder}, "
            "so that they play at once.\nWhat was used longest ago goes first. Limit in GB:",
            shown(now), "Set the limit", parse_gigabytes,
        )  # fmt: skip
        if value is not None:
            settings.setValue("cache/limit", round(value * 1e9))
            self.window.keeping.keep_cache()
