"""The Play menu: what is played, how often, how fast, and to which device."""

from collections.abc import Callable
from functools import partial
from pathlib import Path

import msgspec
from PySide6.QtCore import QObject, Qt, Signal
from PySide6.QtGui import QAction, QActionGroup, QShortcut
from PySide6.QtWidgets import QApplication, QLineEdit, QMenu, QWidget

from cicada.core.draw_times import with_spikes
from cicada.core.model import DrawTime
from cicada.errors import CicadaError
from cicada.store.draw_log import read_draw_log
from cicada.store.projectfile import load_run, write_atomically
from cicada.window.playing.rail import Rail
from cicada.window.playing.together import TogetherDialog
from cicada.window.playing.transport import PACES, Transport
from cicada.window.state.conditions import ENDLESSLY, Conditions, Range, Scope
from cicada.window.state.drawing_time import DrawingTime
from cicada.window.state.notices import Notices
from cicada.window.state.session import Session
from cicada.window.widgets.actions import Action
from cicada.window.widgets.asking import Asking
from cicada.window.widgets.dialogs import show_beside
from cicada.window.words.draw_times import draw_time_of, draw_time_text, spikes_of
from cicada.window.words.quantities import count, times_text

WHOLE: tuple[tuple[str, Scope], ...] = (("All scenes", "film"), ("This scene", "scene"))
TIMES = (1, 2, 3, 5, 10)
PACE_WORDS = {1.0: "At full speed", 0.5: "At half speed", 0.25: "At a quarter of the speed"}
# Menus of their own also in the rail's.
INNER = ("Draw time", "At its end and on its way")
# Picture rates that are offered.
REACHED = (24, 15, 12, 8, 4)
# Pixels: as high as a picture is usually shown.
MEASURED_HEIGHT = 720
DRAW_LOGS = "Logs (*.csv *.json *.jsonl *.log *.txt);;All files (*)"
RUN_FILES = "Runs (*.json)"


class PlayCommands(QObject):
    """What can be set about playing, for the menu and the rail.

    ``silence_wanted`` comes when all is to be silent that sounds anywhere.
    """

    silence_wanted = Signal()

    def __init__(
        self,
        session: Session,
        conditions: Conditions,
        transport: Transport,
        rail: Rail,
        drawing_time: DrawingTime,
        asking: Asking,
        notices: Notices,
    ) -> None:
        super().__init__()
        self.session, self.conditions, self.transport = session, conditions, transport
        self._rail, self._asking, self._notices = rail, asking, notices
        self._drawing_time = drawing_time
        rail.what.setMenu(self.menu(rail.what))
        rail.draws.setMenu(self._draws(rail.draws))
        self._enter: list[QShortcut] = []
        for key in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            shortcut = QShortcut(key, rail)
            shortcut.activated.connect(self.transport.press)
            self._enter.append(shortcut)
        self.transport.waiting_changed.connect(self._lend_enter)
        application = QApplication.instance()
        if isinstance(application, QApplication):
            application.focusChanged.connect(self._lend_enter)
        self._lend_enter()

    def entries(self) -> list[Action | None]:
        """The menu's entries but for those that move about."""
        transport = self.transport
        return [
            ("play", "Play from here, or stop", "Space", transport.toggle),
            ("start", "Play from the start", "Shift+Space", transport.play_from_start),
            ("silence", "Silence everything", "Esc", self.silence_wanted.emit),
            ("repeat", "Again and again, or not", "Ctrl+R", self.repeat),
            ("slower", "Full, half or quarter speed", "Ctrl+Alt+R", self.slower),
            ("draw_time", "Pretend a slower machine…", "Ctrl+Alt+D", self.ask_draw_time),
            None,
            ("range_begin", "The range begins here", "7", lambda: self.range_edge(first=True)),
            ("range_end", "The range ends here", "8", lambda: self.range_edge(first=False)),
            ("range", "Play the range, or the film again", "K", self.switch_range),
            None,
        ]

    def menus(self) -> list[tuple[str, Callable[[QMenu], None]]]:
        """The menus in the menu, filled when they are opened."""
        return [
            ("What is played", self.what_menu),
            ("How often", self.often_menu),
            ("How fast", self.fast_menu),
            ("Draw time", self.draw_menu),
            ("At its end and on its way", self.ways_menu),
            ("Sound device", self.device_menu),
        ]

    def menu(self, parent: QWidget) -> QMenu:
        """All of them in one menu, for the rail."""
        menu = QMenu(parent)

        def fill() -> None:
            for inner in menu.findChildren(QMenu):
                inner.deleteLater()
            menu.clear()
            for number, (words, part) in enumerate(self.menus()):
                if number == len(self.menus()) - 1 or words in INNER:
                    part(menu.addMenu(words))
                    continue
                part(menu)
                menu.addSeparator()

        menu.aboutToShow.connect(fill)
        return menu

    def _lend_enter(self, *_: QWidget | None) -> None:
        """Enter is a press while the picture waits for one, except where text is typed."""
        typing = isinstance(QApplication.focusWidget(), QLineEdit)
        for shortcut in self._enter:
            shortcut.setEnabled(self.transport.waiting is not None and not typing)

    # -- what, how often, how fast -------------------------------------------------------------

    def what_menu(self, menu: QMenu) -> None:
        """All scenes, this one, or the range."""
        conditions = self.conditions
        chosen = conditions.scope
        group = QActionGroup(menu)
        for words, scope in WHOLE:
            self._choice(menu, group, words, chosen == scope, partial(conditions.play_what, scope))
        words = f"The range, {self.range_text()}" if conditions.range else "The range: none marked"
        action = self._choice(
            menu, group, words, chosen == "range", lambda: conditions.play_what("range")
        )
        action.setEnabled(conditions.range is not None)
        if conditions.range is not None:
            menu.addSeparator()
            menu.addAction("Forget the range").triggered.connect(
                lambda: conditions.mark_range(None)
            )

    def often_menu(self, menu: QMenu) -> None:
        """How many times over."""
        group, now = QActionGroup(menu), self.conditions.passes
        for times in sorted({*TIMES, now} - {ENDLESSLY}):
            words = times_text(times).capitalize()
            self._choice(
                menu, group, words, now == times, partial(self.conditions.play_times, times)
            )
        self._choice(
            menu, group, "Again and again", now == ENDLESSLY,
            lambda: self.conditions.play_times(ENDLESSLY),
        )  # fmt: skip

    def fast_menu(self, menu: QMenu) -> None:
        """At which speed, and whether slower sounds deeper."""
        group, transport = QActionGroup(menu), self.transport
        for pace in PACES:
            self._choice(
                menu, group, PACE_WORDS[pace], transport.pace == pace,
                partial(transport.set_pace, pace),
            )  # fmt: skip
        menu.addSeparator()
        self._switch(
            menu, "Keep the pitch when slower", transport.at_pitch,
            lambda on: transport.keep_pitch(on=on),
        )  # fmt: skip

    def _draws(self, parent: QWidget) -> QMenu:
        menu = QMenu(parent)

        def fill() -> None:
            menu.clear()
            self.draw_menu(menu)

        menu.aboutToShow.connect(fill)
        return menu

    def draw_menu(self, menu: QMenu) -> None:
        """How long drawing a picture is taken to take."""
        group, conditions = QActionGroup(menu), self.conditions
        project = self.session.document.project
        now, rate = conditions.draw_time, project.rate
        self._choice(
            menu, group, "Off: every picture is there in time", now == 0.0,
            lambda: conditions.draw_in(0.0),
        )  # fmt: skip
        offered = [
            draw_time_of(f"{reached}/s", rate)
            for reached in REACHED
            if reached < project.fps[0] / project.fps[1]
        ]
        if now != 0.0 and now not in offered:
            words = f"As now: {draw_time_text(now, rate)}"
            self._choice(menu, group, words, True, lambda: None)
        for seconds in offered:
            words = f"As on a machine that reaches {draw_time_text(seconds, rate)}"
            self._choice(menu, group, words, now == seconds, partial(conditions.draw_in, seconds))
        menu.addSeparator()
        menu.addAction("Another…").triggered.connect(self.ask_draw_time)
        by_hand = menu.addAction("Draw it over the frames of the sheet")
        by_hand.setCheckable(True)
        by_hand.setChecked(conditions.drawing)
        by_hand.triggered.connect(lambda on: conditions.draw_by_hand(on=on))
        menu.addAction("With spikes…").triggered.connect(self.ask_spikes)
        menu.addAction("As measured on this machine").triggered.connect(self.measure_drawing)
        menu.addAction("As a player has logged it…").triggered.connect(self.open_draw_log)

    def ask_draw_time(self) -> None:
        """Ask how long drawing takes."""
        rate, now = self.session.document.project.rate, self.conditions.draw_time
        seconds = self._asking.ask(
            "Draw time",
            "How long drawing one picture takes on the audience's machine, as 120 ms,\n"
            "or the pictures a second that it reaches, as 8/s. 0 ms is off.",
            draw_time_text(now, rate) if now else "8/s", "Pretend so",
            lambda text: draw_time_of(text, rate),
        )  # fmt: skip
        if seconds is not None:
            self.conditions.draw_in(seconds)

    def ask_spikes(self) -> None:
        """Ask for a machine that is slow now and then."""
        rate = self.session.document.project.rate
        spikes = self._asking.ask(
            "Draw time with spikes",
            "How long pictures take, how long some take, one in how many, and a seed: another\n"
            "seed chooses other pictures.",
            "30 ms, 300 ms, one in 24, seed 1", "Pretend so",
            lambda text: spikes_of(text, rate),
        )  # fmt: skip
        if spikes is not None:
            scenes = self.session.document.project.scenes
            self.conditions.draw_in(
                {
                    scene.id: with_spikes(scene.length, *spikes._replace(seed=spikes.seed + number))
                    for number, scene in enumerate(scenes)
                }
            )

    def measure_drawing(self) -> None:
        """Pretend that drawing takes as long as decoding the picture takes here, now."""
        self._notices.say("Drawing each picture to take the time…", lasting=True)
        project = self.session.document.project

        def done(times: dict[str, DrawTime], count_: int) -> None:
            if project is not self.session.document.project:
                self._notices.say("The film was changed meanwhile: measure it again.")
                return
            self.conditions.draw_in(times)
            longest = max(max(each) for each in times.values() if isinstance(each, tuple))
            self._notices.say(
                f"On this machine: {count(count_, 'picture')} drawn, the slowest took "
                f"{round(1000 * longest)} ms. That stays, whatever it does from now on."
            )

        self._drawing_time.measure(MEASURED_HEIGHT, done)

    def open_draw_log(self) -> None:
        """Ask for a log of how long drawing took somewhere."""
        path = self._asking.file_to_open("Open a log of drawing", DRAW_LOGS)
        if path is not None:
            self.use_draw_log(path)

    def use_draw_log(self, path: Path) -> None:
        """Pretend the machine that has written a log."""
        try:
            log = read_draw_log(path, self.session.document.project)
        except CicadaError as error:
            self._notices.tell(str(error))
            return
        self.conditions.draw_in(log.times)
        words = [f"{path.name}: {count(log.logged, 'frame')} logged"]
        if log.repeated:
            words.append(f"{log.repeated} more than once, of which the slowest counts")
        if log.missing:
            words.append(f"{log.missing} not, for which the median counts")
        if log.elsewhere:
            words.append(f"{count(log.elsewhere, 'line')} of frames that are not there")
        self._notices.say("; ".join(words) + ".")

    def ways_menu(self, menu: QMenu) -> None:
        """Press points, and where the playhead is afterwards."""
        conditions, transport = self.conditions, self.transport
        self._switch(
            menu, "Go back to where it began when it is over", transport.returns,
            lambda on: transport.set_returning(on=on),
        )  # fmt: skip
        self._switch(
            menu, "Wait at press points", conditions.waits,
            lambda on: conditions.wait_at_points(on=on),
        )  # fmt: skip
        menu.addSeparator()
        made = conditions.live is not None and bool(conditions.live.presses)
        keep = self._switch(
            menu, "Keep the presses of this run and play it again with them",
            conditions.keeps_presses, lambda on: conditions.keep_presses(on=on),
        )  # fmt: skip
        keep.setEnabled(made or conditions.keeps_presses)
        save = menu.addAction("Save this run…")
        save.setEnabled(made)
        save.triggered.connect(self.save_run)
        menu.addAction("Open a run…").triggered.connect(self.open_run)

    def device_menu(self, menu: QMenu) -> None:
        """The devices there are, and what is known of the one in use."""
        transport, group = self.transport, QActionGroup(menu)
        wanted, devices = transport.devices.wanted, transport.devices.known
        self._choice(
            menu, group, "The system's own choice", not wanted, lambda: transport.devices.use("")
        )
        for device in devices.there:
            words = device.title + (", in use" if device.name == devices.used else "")
            self._choice(
                menu, group, words, device.name == wanted,
                partial(transport.devices.use, device.name),
            )  # fmt: skip
        if wanted and wanted not in {device.name for device in devices.there}:
            self._choice(menu, group, f"{wanted}: not there now", True, lambda: None)
        if not devices.there:
            menu.addAction("No sound server lists its devices").setEnabled(False)
        menu.addSeparator()
        menu.addAction("Are sound and picture together?…").triggered.connect(self.show_together)

    def show_together(self) -> None:
        """Hold a flash against a beep, and correct the device."""
        show_beside(TogetherDialog(self._rail, self.transport))

    def _choice(
        self, menu: QMenu, group: QActionGroup, words: str, now: object, do: Callable[[], None]
    ) -> QAction:
        """One of several; ``now`` says whether it is the one."""
        action = self._switch(menu, words, now, lambda _: do())
        group.addAction(action)
        return action

    def _switch(self, menu: QMenu, words: str, now: object, do: Callable[[bool], None]) -> QAction:
        action = menu.addAction(words)
        action.setCheckable(True)
        action.setChecked(bool(now))
        action.triggered.connect(do)
        return action

    def repeat(self) -> None:
        """Again and again, or not."""
        self.transport.play_again_and_again(on=self.conditions.passes != ENDLESSLY)

    def slower(self) -> None:
        """The next speed."""
        now = PACES.index(self.transport.pace)
        self.transport.set_pace(PACES[(now + 1) % len(PACES)])
        self._notices.say(PACE_WORDS[self.transport.pace])

    # -- the range -----------------------------------------------------------------------------

    def range_text(self) -> str:
        """The range's frames in words."""
        marked = self.conditions.range
        if marked is None:
            return ""
        shown = self.session.document.project.shown
        return f"frames {shown(marked.first)} to {shown(marked.last)}"

    def range_edge(self, *, first: bool) -> None:
        """Let the range begin or end on the playhead's frame."""
        scene, frame = self.session.scene, self.session.playhead
        marked = self.conditions.range
        if marked is None or marked.scene != scene.id:
            marked = Range(scene.id, 0, scene.length - 1)
        if first:
            marked = Range(scene.id, frame, max(frame, marked.last))
        else:
            marked = Range(scene.id, min(frame, marked.first), frame)
        self.mark_range(marked.first, marked.last)

    def mark_range(self, first: int, last: int) -> None:
        """Mark frames of the scene shown, which are then what is played."""
        self.conditions.mark_range(Range(self.session.scene_id, first, last))
        self._notices.say(f"Space plays {self.range_text()}. K plays the film again.")

    def switch_range(self) -> None:
        """Play the range, or the film again."""
        if self.conditions.range is None:
            self._notices.say(
                "No range is marked: drag on the rulers with Shift, or press 7 and 8."
            )
            return
        on = self.conditions.scope != "range"
        self.conditions.play_what("range" if on else "film")

    # -- runs ----------------------------------------------------------------------------------

    def save_run(self) -> None:
        """Save the last run with its presses, as ``cicada render --run`` takes it."""
        live = self.conditions.live
        path = self._asking.file_to_write("Save this run", RUN_FILES, ".json")
        if path is not None and live is not None:
            try:
                write_atomically(path, msgspec.json.format(msgspec.json.encode(live)) + b"\n")
            except CicadaError as error:
                self._notices.tell(str(error))
                return
            self._notices.say(f"Saved {path.name}: render it with --run.")

    def open_run(self) -> None:
        """Draw and play a run that was saved."""
        path = self._asking.file_to_open("Open a run", RUN_FILES)
        if path is not None:
            self.use_run(path)

    def use_run(self, path: Path) -> None:
        """Draw and play the run of a file."""
        project = self.session.document.project
        try:
            run = load_run(path)
            scene = project.scene(run.scene or project.scenes[0].id)
        except CicadaError as error:
            self._notices.tell(str(error))
        except KeyError:
            self._notices.tell(f"{path}: begins in a scene that this project does not have")
        else:
            if run.frame >= scene.length:
                self._notices.tell(f"{path}: begins past the end of its scene")
                return
            self.session.show_scene(scene.id)
            self.session.move_playhead(run.frame)
            self.conditions.replay(run)
            self._notices.say(f"{path.name}: Space plays it with its presses.")
