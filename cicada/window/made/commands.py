"""Making sounds here: each stands on the shelf at once, and is set beside it."""

from functools import partial

from PySide6.QtCore import QObject, Signal
from PySide6.QtWidgets import QMenu

from cicada.core.editing import Several
from cicada.core.made import Countdown, Making, Noise, RoomTone, Silence, SyncBeep, Tone
from cicada.core.made_edits import made_sound
from cicada.core.model import Sound
from cicada.core.naming import code_name, free_id, free_name
from cicada.core.patterns import Pattern, PatternPart
from cicada.core.shelf_edits import AddSounds
from cicada.window.playing.listening import Listening
from cicada.window.state.notices import Notices
from cicada.window.state.session import Session
from cicada.window.state.work import Work
from cicada.window.widgets.actions import Action
from cicada.window.widgets.asking import Asking
from cicada.window.widgets.dialogs import show_beside
from cicada.window.words.made import TITLES


class _Step:
    """What is made and set until the dialog is closed is one step."""

    def __init__(self, title: str) -> None:
        self.title = title


class MadeCommands(QObject):
    """``to_be_seen`` comes when the shelf must be in sight."""

    to_be_seen = Signal()

    def __init__(
        self,
        session: Session,
        listening: Listening,
        work: Work,
        asking: Asking,
        notices: Notices,
    ) -> None:
        super().__init__()
        self._session, self._document = session, session.document
        self._listening, self._work = listening, work
        self._asking, self._notices = asking, notices

    def entries(self) -> list[Action | None]:
        """The entries of the Shelf menu."""
        return [
            ("make_pattern", "Write a pattern…", "Ctrl+Alt+4", self.make_pattern),
            ("change_making", "Change how it is made…", "Ctrl+Alt+5", self.change),
        ]

    def menu(self, menu: QMenu) -> None:
        """What can be made on the spot."""
        menu.clear()
        for making in (Silence(), RoomTone(), SyncBeep(), Countdown(), Tone(), Noise()):
            action = menu.addAction(f"{TITLES[type(making)]}…")
            action.triggered.connect(partial(self._make_plain, making))

    def _make_plain(self, making: Making, *_: object) -> None:
        if isinstance(making, SyncBeep):
            making = SyncBeep(seconds=1 / self._document.project.timebase.fps)
        self.make(making)

    def make_pattern(self) -> None:
        """Begin a pattern: four beats of drums, at the tempo of the scene that is shown."""
        scene = self._session.scene
        follows = scene.id if scene.tempo else None
        self.make(Pattern(follows=follows, parts=(PatternPart(voice="drums"),)))

    def make(self, making: Making) -> None:
        """Put a sound made so on the shelf, and show how it is made."""
        project = self._document.project
        title = TITLES[type(making)]
        name = free_name(title, {sound.name for sound in project.sounds})
        blank = Sound(
            id=free_id("s", project), name=name, frames=1, rate=project.rate, channels=1,
            code_name=code_name(name, {sound.code_name for sound in project.sounds}),
        )  # fmt: skip
        sound = made_sound(blank, making, project)
        step = _Step(f"make {name}")
        edit = Several(named=step.title, edits=(AddSounds(sounds=(sound,)),))
        if not self._document.do(edit, joins=step):
            return
        self._session.choose_sounds((sound.id,), sound.id)
        self.to_be_seen.emit()
        self._show(sound.id, making, step)

    def change(self) -> None:
        """Show how the chosen sound is made, to be changed."""
        chosen = self._session.sound
        sounds = self._document.project.sounds
        sound = next((each for each in sounds if each.id == chosen), None)
        if sound is None or sound.making is None:
            self._notices.say("Choose a sound that was made here; others came from files.")
            return
        self._show(sound.id, sound.making, _Step(f"change how {sound.label} is made"))

    def _show(self, sound: str, making: Making, step: _Step) -> None:
        if isinstance(making, Pattern):
            # Loaded when they are wanted, and not as a window begins.
            from cicada.window.made.pattern_dialog import PatternDialog

            dialog = PatternDialog(
                self._asking.parent, self._session, self._listening, self._asking, sound
            )
            show_beside(dialog)
            return
        from cicada.window.made.plain_dialog import MadeDialog

        show_beside(
            MadeDialog(self._asking.parent, self._session, self._work, self._listening, sound, step)
        )
