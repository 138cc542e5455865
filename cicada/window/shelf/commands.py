"""What can be done with the sounds on the shelf: the Shelf menu and the shelf's own."""

from PySide6.QtCore import QObject, Signal
from PySide6.QtWidgets import QAbstractItemView

from cicada.core.editing import Cell
from cicada.core.model import Placeable, Sound
from cicada.core.needs import parts_of
from cicada.core.shelf_edits import (
    ChangeSounds,
    RemoveSounds,
    ReplaceSound,
    TagSounds,
    played_by,
    uses_of,
)
from cicada.disk.why import size_text
from cicada.errors import CicadaError
from cicada.jobs.measuring import hear_file
from cicada.store.sounds_folder import remove_unused, sounds_folder, unused
from cicada.window.playing.listening import Listening
from cicada.window.playing.trying import Trying
from cicada.window.shelf.import_commands import ImportCommands
from cicada.window.shelf.making import Making
from cicada.window.shelf.shelf import Shelf
from cicada.window.shelf.shelf_search import Uses
from cicada.window.shelf.sound_files import SoundFiles
from cicada.window.state.decoding import Decoding
from cicada.window.state.notices import Notices
from cicada.window.state.session import Session
from cicada.window.state.work import Work
from cicada.window.widgets.actions import Action
from cicada.window.widgets.asking import Asking, any_words, some_words
from cicada.window.words.numbers import shown
from cicada.window.words.quantities import count, parse_gigabytes

NAMED = 4
FIRST = "Choose a sound on the shelf first."


class ShelfCommands(QObject):
    """The commands for the chosen sounds.

    ``to_be_seen`` comes when the shelf must be in sight, ``details_wanted`` when all that is known
    of a sound is to be shown, or no more.
    """

    to_be_seen = Signal()
    details_wanted = Signal()

    def __init__(
        self,
        session: Session,
        shelf: Shelf,
        imports: ImportCommands,
        files: SoundFiles,
        making: Making,
        listening: Listening,
        trying: Trying,
        decoding: Decoding,
        work: Work,
        asking: Asking,
        notices: Notices,
    ) -> None:
        super().__init__()
        self.session, self.document, self.shelf = session, session.document, shelf
        self.imports, self.files, self.making = imports, files, making
        self.listening, self.trying = listening, trying
        self.decoding, self.work = decoding, work
        self.asking, self.notices = asking, notices

    def entries(self) -> list[Action | None]:
        """The entries of the Shelf menu: name, text, key, what they do."""
        files = self.files
        return [
            ("import", "Import sounds…", "Ctrl+I", self.imports.import_sounds),
            ("find", "Search the shelf", "Ctrl+F", self.find),
            None,
            ("listen", "Listen to the sound", "L", self.listen),
            ("try", "Try it here, against the picture", "T", self.try_here),
            ("details", "Details of the sound", "D", self.details_wanted.emit),
            ("rename_sound", "Rename the sound", "Ctrl+Shift+E", self.rename),
            ("folder", "Put into a folder…", "Ctrl+Shift+F", self.put_into_folder),
            ("tag", "Tag…", "Ctrl+T", self.tag),
            None,
            ("used", "Show where it is used", "U", self.show_used),
            ("replace_sound", "Replace it everywhere…", "Ctrl+Shift+R", self.replace_everywhere),
            ("keep", "Keep inside, or link…", "Ctrl+K", files.keep_or_link),
            ("collect", "Keep all linked sounds inside…", "Ctrl+Shift+X", files.keep_all_inside),
            ("take", "Another file as a take…", "Ctrl+Shift+T", files.other_take),
            ("work_on", "Work on a copy in another program…", "Ctrl+Shift+W", files.work_on_copy),
            ("remove_sound", "Remove from the shelf…", "Ctrl+Del", self.remove),
            None,
            *self.making.entries(),
            None,
            ("find_missing", "Find missing sounds…", "Ctrl+Shift+M", files.find_missing),
            ("tidy", "Tidy the sounds folder…", "Ctrl+Shift+Y", self.tidy),
            ("cache", "Limit the cache of decoded sounds…", "Ctrl+Shift+K", self.limit_cache),
        ]

    def menu(self) -> list[str]:
        """What the menu on a sound offers."""
        return [
            "listen", "try", "place", "details", "rename_sound", "folder", "tag", "used",
            "replace_sound", "keep", "take", "work_on", "make_pool", "make_blend",
            "make_playlist", "remove_sound",
        ]  # fmt: skip

    def possible(self) -> dict[str, bool]:
        """Which commands can be done with so many sounds as are chosen."""
        number = len(self.session.chosen_sounds)
        some = ("details", "folder", "tag", "used", "remove_sound")
        one = ("rename_sound", "replace_sound")
        sounds = all(isinstance(each, Sound) for each in self.chosen())
        made = ("make_pool", "make_playlist")
        return (
            dict.fromkeys((*some, *made), number > 0)
            | dict.fromkeys(one, number == 1)
            | {"keep": number > 0 and sounds, "make_blend": number > 1}
            | dict.fromkeys(("take", "work_on"), number == 1 and sounds)
        )

    def chosen(self) -> list[Placeable]:
        """What is chosen, sounds and what is made of them."""
        ids = frozenset(self.session.chosen_sounds)
        return [each for each in self.document.project.all_placeables() if each.id in ids]

    def _some(self) -> list[Placeable]:
        """What is chosen; that nothing is is said."""
        sounds = self.chosen()
        if not sounds:
            self.notices.say(FIRST)
        return sounds

    # -- finding and hearing -------------------------------------------------------------------

    def find(self) -> None:
        """Type words to look for."""
        if not self.document.project.sounds:
            self.notices.say("There is nothing on the shelf yet: import sounds with Ctrl+I.")
            return
        self.to_be_seen.emit()
        self.shelf.find_words()

    def listen(self) -> None:
        """Hear the chosen sound by itself, or stop that."""
        if self.session.sound is not None:
            self.listening.toggle(self.session.sound)
        else:
            self.notices.say("Choose a sound on the shelf to listen to it.")

    def try_here(self) -> None:
        """Hear the chosen sound against the picture, as if it were on the playhead."""
        sound = self.session.sound
        if sound is None:
            self.notices.say("Choose a sound on the shelf to try it.")
            return
        self.listening.stop()
        cache, project = self.work.cache, self.document.project
        made = project.placeable(sound)
        if not isinstance(made, Sound):
            self.trying.try_out(sound)
            return
        content, path = made.content, self.work.file_of(sound)
        if path is None or cache.has(cache.sound_key(content, project.rate)):
            self.trying.try_out(sound)
            return
        self.work.jobs.run(
            hear_file, path, content, project.rate, cache.folder,
            done=lambda _: self.trying.try_out(sound), failed=self.notices.say, watched=True,
        )  # fmt: skip

    # -- knowing and ordering ------------------------------------------------------------------

    def rename(self) -> None:
        """Type another name for the chosen sound."""
        shelf = self.shelf
        if not shelf.list.currentIndex().isValid():
            self.notices.say(FIRST)
            return
        self.to_be_seen.emit()
        if shelf.list.state() != QAbstractItemView.State.EditingState:
            shelf.list.edit(shelf.list.currentIndex())

    def put_into_folder(self) -> None:
        """Ask for a folder of the shelf and put the chosen sounds into it."""
        folders = sorted({made.folder for made in self.document.project.all_placeables()})
        sounds = self._some()
        if not sounds:
            return
        now = folders.index(sounds[0].folder)
        name = self.asking.ask(
            "Folder", "The folder of the shelf, one of these or a new one:",
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
        known = sorted({t for made in self.document.project.all_placeables() for t in made.tags})
        name = self.asking.ask(
            "Tag", "A tag for them; one they all have is taken off:",
            known[0] if known else "", "Tag them", some_words, known,
        )  # fmt: skip
        if name is not None:
            off = all(name in sound.tags for sound in sounds)
            ids = tuple(sound.id for sound in sounds)
            self.document.do(TagSounds(sounds=ids, tagged=name, off=off))

    def uses(self, sounds: list[Placeable]) -> list[tuple[str, Cell]]:
        """Where these sounds are placed: scene and cell."""
        return uses_of(self.document.project, [sound.id for sound in sounds])

    def show_used(self) -> None:
        """Let its clips stand out on the sheet and choose the next of them."""
        sounds = self.chosen()
        uses = self.uses(sounds)
        if not uses:
            self.notices.say("It is not used anywhere yet.")
            return
        now = (self.session.scene_id, self.session.cell)
        places = [(scene, cell) for scene, cell in uses]
        following = places.index(now) + 1 if now in places else self._first_in_scene(places)
        scene, cell = places[following % len(places)]
        self.session.go_to(scene, cell)
        self.session.show_uses(sounds[0].id)
        number = following % len(places) + 1
        self.notices.say(f"{number} of {count(len(places), 'clip')}; U goes to the next.")

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
            self.notices.say("It is not used anywhere, so there is nothing to replace.")
            return
        shelf = self.document.project.all_placeables()
        others = [other for other in shelf if other.id != sounds[0].id]
        dialog = ChooseSound(
            self.shelf,
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
        if not sounds or not self._may_remove(sounds):
            return
        ids = tuple(sound.id for sound in sounds)
        parts = self._parts_elsewhere(ids)
        if parts and not self._may_take_out(sounds, parts):
            return
        patterns = [made.label for made in played_by(self.document.project, ids)
                    if made.id not in ids]  # fmt: skip
        if patterns and not self._may_leave_patterns(sounds, patterns):
            return
        if self.document.do(RemoveSounds(sounds=ids, from_parts=bool(parts))):
            self.notices.say(
                f"Removed {count(len(sounds), 'sound')}; Ctrl+Z brings them back, and their files "
                "stay until they are tidied away."
            )

    def _parts_elsewhere(self, gone: tuple[str, ...]) -> list[str]:
        """What has some of these as parts and stays on the shelf itself."""
        return [
            made.label for made in self.document.project.all_placeables()
            if made.id not in gone and not frozenset(gone).isdisjoint(parts_of(made))
        ]  # fmt: skip

    def _may_take_out(self, sounds: list[Placeable], of: list[str]) -> bool:
        it = sounds[0].label if len(sounds) == 1 else "Some of them"
        chosen = self.asking.choose(
            f"{it} {'is' if len(sounds) == 1 else 'are'} part of {', '.join(of[:NAMED])}.",
            ["Take out there as well", "Keep on the shelf"],
            safe=1,
            detail="A blend keeps at least two parts, and a pool or playlist one.",
        )
        return chosen == 0

    def _may_leave_patterns(self, sounds: list[Placeable], patterns: list[str]) -> bool:
        it = sounds[0].label if len(sounds) == 1 else "Some of them"
        more = f" and {len(patterns) - NAMED} more" if len(patterns) > NAMED else ""
        chosen = self.asking.choose(
            f"{it} {'is' if len(sounds) == 1 else 'are'} played in "
            f"{', '.join(patterns[:NAMED])}{more}.",
            ["Remove", "Keep on the shelf"],
            safe=1,
            detail="If removed, those parts are played by the voices they have; undo brings all "
            "back.",
        )
        return chosen == 0

    def _may_remove(self, sounds: list[Placeable]) -> bool:
        uses = self.uses(sounds)
        if not uses:
            return True
        project = self.document.project
        places = [
            f"{project.scene(scene).label}, frame {project.shown(cell.frame)}"
            for scene, cell in uses[:NAMED]
        ]
        more = f" and {len(uses) - NAMED} more" if len(uses) > NAMED else ""
        number = Uses().of(project)
        used = [sound.name for sound in sounds if number[sound.id]]
        who = used[0] if len(used) == 1 else f"{len(used)} of these sounds"
        chosen = self.asking.choose(
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

        if self.imports.under_way:
            self.notices.say("An import is under way; tidy when it is over.")
            return
        files = unused(self.document.file, self.document.needing_sounds())
        folder = sounds_folder(self.document.file)
        if not files:
            self.notices.say(f"Everything in {folder.name} is needed.")
            return
        dialog = TidyDialog(self.shelf, folder.name, files)
        if dialog.exec():
            try:
                freed = remove_unused(files)
            except CicadaError as error:
                self.notices.tell(str(error))
            else:
                self.notices.say(f"Removed {count(len(files), 'file')}, {size_text(freed)} freed.")
        dialog.deleteLater()

    def limit_cache(self) -> None:
        """Ask how large the cache of decoded sounds may grow."""
        value = self.asking.ask(
            "Cache of decoded sounds",
            f"Sounds are kept decoded in {self.work.cache.folder}, "
            "so that they play at once.\nWhat was used longest ago goes first. Limit in GB:",
            shown(self.decoding.limit / 1e9), "Set the limit", parse_gigabytes,
        )  # fmt: skip
        if value is None:
            return
        try:
            self.decoding.set_limit(round(value * 1e9))
        except CicadaError as error:
            self.notices.tell(str(error))
