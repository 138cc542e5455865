"""The window: the sheet on top, the rail below it, then picture, clip card and shelf."""

from functools import partial
from pathlib import Path

from PySide6.QtCore import QByteArray, QEvent, QObject, QPoint, QSettings, Qt, QTimer
from PySide6.QtGui import QAction, QCloseEvent, QDragEnterEvent, QDropEvent, QKeyEvent
from PySide6.QtWidgets import (
    QDialog,
    QFrame,
    QHBoxLayout,
    QLabel,
    QMainWindow,
    QMenu,
    QMenuBar,
    QPushButton,
    QSizePolicy,
    QSplitter,
    QStackedWidget,
    QVBoxLayout,
    QWidget,
)
from typing_extensions import override

from cicada.core.editing import Cell
from cicada.media.cache import SoundCache
from cicada.store.log import Log
from cicada.window.clip.card import Card
from cicada.window.drawing import theme
from cicada.window.frame.files import SUFFIX, Files
from cicada.window.frame.going_back import GoingBack
from cicada.window.frame.menus import Commands
from cicada.window.frame.trouble import TroubleStrip
from cicada.window.picture.view import PictureView
from cicada.window.playing.listening import Listening
from cicada.window.playing.now_sounding import NowSounding
from cicada.window.playing.rail import Rail
from cicada.window.playing.transport import PlayerMaker, Transport
from cicada.window.playing.trying import Trying
from cicada.window.sheet.mix_row import MixRow
from cicada.window.sheet.overview import Overview
from cicada.window.sheet.scene_tabs import SceneTabs
from cicada.window.sheet.sheet import Sheet
from cicada.window.sheet.snapping import Snapping
from cicada.window.shelf.shelf import Shelf
from cicada.window.shelf.sound_files import Keeping
from cicada.window.state.arranging import Arranging
from cicada.window.state.collecting import Collecting
from cicada.window.state.conditions import Conditions
from cicada.window.state.document import Document
from cicada.window.state.frames import Frames
from cicada.window.state.guard import Caught, guard
from cicada.window.state.hits import Hits
from cicada.window.state.jobs import Jobs
from cicada.window.state.measuring import Measuring
from cicada.window.state.planning import Planning
from cicada.window.state.presence import Presence
from cicada.window.state.session import Session
from cicada.window.state.sounds import Sounds
from cicada.window.widgets.asking import tell
from cicada.window.widgets.drag import dragged_files
from cicada.window.widgets.fields import TypedField
from cicada.window.words.quantities import begun, count, waits_text

NOTE_SECONDS = 8


class MainWindow(QMainWindow):
    """One project in one window."""

    def __init__(
        self,
        cache: SoundCache,
        recovery: Path,
        make_player: PlayerMaker,
        settings: QSettings,
    ) -> None:
        super().__init__()
        self.settings = settings
        self.collecting = Collecting()
        self.document = Document(recovery)
        self.session = Session(self.document)
        self.presence = Presence(self.document, cache)
        self.conditions = Conditions(self.session)
        self.planning = Planning(self.document, self.presence, self.conditions)
        self.sounds = Sounds(self.document, self.presence, cache)
        self.frames = Frames(self.document)
        # Before all that follows the playhead, so that the picture is shown first.
        self.picture = PictureView(self.session, self.frames)
        self.jobs = Jobs()
        self.transport = Transport(
            self.session, self.planning, self.presence, self.conditions, make_player, settings
        )
        self.measuring = Measuring(self.document, self.presence, self.jobs, cache)
        self.listening = Listening(
            self.document, self.transport, self.presence, self.measuring, self.jobs, cache, settings
        )
        self.trying = Trying(self.session, self.planning, self.transport)
        self.snapping = Snapping()
        self.mix_row = MixRow(self.planning, self.presence, self.sounds, self.jobs)
        self.hits = Hits(self.document, self.presence, self.jobs, cache)
        self.sheet = Sheet(
            self.session, self.planning, self.sounds, self.frames, self.mix_row, self.hits,
            self.snapping,
        )  # fmt: skip
        self.overview = Overview(self.sheet)
        self.arranging = Arranging(self.session, self.planning, self.sheet)
        self.card = Card(self.session, self.planning, self.arranging, self.sounds)
        self.scenes = SceneTabs(self.session)
        self.shelf = Shelf(self.session, self.sounds, self.presence, self.measuring, self.listening)
        self.rail = Rail(self.session, self.transport, self.conditions, self.planning)
        self.sounding = NowSounding(self.session, self.planning, self.transport)
        self.files = Files(self)
        self.going_back = GoingBack(self)
        self.keeping = Keeping(self)
        self.commands = Commands(self)
        self.setAcceptDrops(True)
        self._build()
        self.rail.what.setMenu(self.commands.playing.menu(self.rail.what))
        self._enter = EnterPresses()
        for button in self.findChildren(QPushButton):
            button.installEventFilter(self._enter)
        theme.use(night=self.settings.value("window/night", "false") in (True, "true"))
        # Last, so that every part is polished once and not at each step of the building.
        self.setStyleSheet(theme.style())
        self._connect()
        self._put_beside(self.shelf)
        self.resize(1280, 800)
        self._restore()
        self._show_title()
        self.sheet.setFocus()

    # -- building ------------------------------------------------------------------------------

    def _build(self) -> None:
        middle = QWidget()
        column = QVBoxLayout(middle)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        column.addWidget(self._top())
        self.halves = QSplitter(Qt.Orientation.Vertical)
        self.halves.setHandleWidth(4)
        self.halves.setChildrenCollapsible(False)
        self.upper = QWidget()
        above = QVBoxLayout(self.upper)
        above.setContentsMargins(0, 0, 0, 0)
        above.setSpacing(0)
        above.addWidget(self.sheet, 1)
        above.addWidget(self.overview)
        self.halves.addWidget(self.upper)
        lower = QWidget()
        below = QVBoxLayout(lower)
        below.setContentsMargins(0, 0, 0, 0)
        below.setSpacing(0)
        below.addWidget(self.rail)
        self.parts = QSplitter(Qt.Orientation.Horizontal)
        self.parts.setHandleWidth(10)
        self.parts.setContentsMargins(14, 4, 14, 0)
        self.side = QStackedWidget()
        self.side.addWidget(self.shelf)
        self.side.addWidget(self.sounding)
        for part in (self.picture, self.card, self.side):
            self.parts.addWidget(part)
        self.parts.setSizes([404, 440, 390])
        # The margins of a splitter are not in what it asks for.
        self.parts.setMinimumHeight(self.card.minimumHeight() + 4)
        self.picture.setMinimumWidth(160)
        below.addWidget(self.parts, 1)
        self.log = Log(self.document.recovery.parent / "cicada.log")
        self.trouble = TroubleStrip(self.log)
        self.trouble.copied.connect(lambda: self.say("Copied: paste it where it is to be sent."))
        below.addWidget(self.trouble)
        below.addWidget(self._bottom())
        self.halves.addWidget(lower)
        self.halves.setSizes([434, 328])
        # The lower half has what it needs; the sheet takes what a larger window gives.
        self.halves.setStretchFactor(0, 1)
        self.halves.setStretchFactor(1, 0)
        column.addWidget(self.halves, 1)
        self.setCentralWidget(middle)

    def _top(self) -> QWidget:
        top = QWidget()
        top.setFixedHeight(38)
        row = QHBoxLayout(top)
        row.setContentsMargins(18, 0, 16, 0)
        row.setSpacing(8)
        self.title = QLabel()
        self.title.setFont(theme.font(15, 600))
        row.addWidget(self.title)
        self.menus = QMenuBar()
        self.menus.setNativeMenuBar(False)
        self.commands.fill(self.menus)
        self.menus.setFixedHeight(28)
        row.addWidget(self.menus, 0, Qt.AlignmentFlag.AlignVCenter)
        row.addSpacing(10)
        row.addWidget(self.scenes, 1, Qt.AlignmentFlag.AlignBottom)
        self.checks = QPushButton()
        self.checks.setObjectName("checks")
        self.checks.clicked.connect(self._show_findings)
        row.addWidget(self.checks)
        return top

    def _bottom(self) -> QWidget:
        bottom = QFrame()
        bottom.setFixedHeight(21)
        row = QHBoxLayout(bottom)
        row.setContentsMargins(18, 0, 18, 2)
        self.note = QLabel()
        self.note.setObjectName("soft")
        self.note.setAccessibleName("Messages")
        self.note.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Preferred)
        row.addWidget(self.note, 1)
        self.unprotected = QLabel()
        self.unprotected.setObjectName("wrong")
        self.unprotected.hide()
        row.addWidget(self.unprotected)
        # Whether what is done is safe depends on a disk, which says nothing by itself.
        self._looks_at_journal = QTimer(self)
        self._looks_at_journal.setInterval(1000)
        self._looks_at_journal.timeout.connect(self._show_protection)
        self._looks_at_journal.start()
        self.beside = [QPushButton("Shelf"), QPushButton("Sounding now")]
        tips = ("The sounds of the project", "What sounds at the playhead (Ctrl+4)")
        for button, part, tip in zip(self.beside, (self.shelf, self.sounding), tips, strict=True):
            button.setObjectName("pair")
            button.setCheckable(True)
            button.setToolTip(f"{tip}, beside the card")
            button.clicked.connect(partial(self._put_beside, part))
            row.addWidget(button)
        self._note_timer = QTimer(self)
        self._note_timer.setSingleShot(True)
        self._note_timer.timeout.connect(self.note.clear)
        self._note_lasts, self._note_era = False, 0
        self._said_missing = ""
        return bottom

    def _connect(self) -> None:
        on_sheet = self.commands.on_sheet
        self.scenes.add_wanted.connect(on_sheet.add_scene)
        self.scenes.menu_wanted.connect(self._scene_menu)
        self.arranging.said.connect(self.say)
        self.sheet.ruler_menu_wanted.connect(self._ruler_menu)
        self.sheet.plays_wanted.connect(self._plays_menu)
        self.sheet.point_menu_wanted.connect(lambda at, actions: self._pop_up(actions, at))
        self.document.changed.connect(self._show_title)
        self.document.changed.connect(self._unsay)
        self.document.changed.connect(guard.try_again)
        self.document.saved_state_changed.connect(self._show_title)
        self.document.refused.connect(self.say)
        self.planning.checked.connect(self._show_checks)
        self.frames.trouble.connect(self.say)
        self.card.hint.connect(self.say)
        self.card.clip.asked.connect(self.commands.shaping.show)
        self.card.clip.looked_at.connect(self.commands.shaping.look_at)
        self.commands.shaping.comparing.changed.connect(self._show_compared)
        self.sheet.scrubbed.connect(self.transport.scrub)
        self.sheet.let_go_of_playhead.connect(self.transport.let_go)
        self.sheet.stepped.connect(self.transport.step)
        self.sheet.range_marked.connect(self.commands.playing.mark_range)
        self.conditions.range_changed.connect(self._show_range)
        self.conditions.changed.connect(self._show_range)
        self.session.scene_changed.connect(self._show_range)
        self.sheet.sound_dropped.connect(self._place_dropped)
        self.sheet.files_dropped.connect(self._import_dropped)
        self.sheet.menu_wanted.connect(self._cell_menu)
        self.shelf.import_wanted.connect(self.commands.on_shelf.import_sounds)
        self.shelf.files_dropped.connect(self._drop_on_shelf)
        self.shelf.menu_wanted.connect(self._shelf_menu)
        self.shelf.details_wanted.connect(self.commands.on_shelf.show_details)
        self.shelf.chosen_changed.connect(self.commands.on_shelf.follow_choice)
        self.shelf.strip.summary_wanted.connect(self.commands.on_shelf.show_summary)
        self.picture.files_dropped.connect(self._drop_on_picture)
        self.sheet.picture_dropped.connect(self._drop_on_picture)
        self.picture.pressed.connect(self.transport.press)
        self.picture.menu_wanted.connect(self._picture_menu)
        self.transport.waiting_changed.connect(self._show_wait)
        self.listening.refused.connect(self.say)
        self.trying.refused.connect(self.say)
        self.trying.changed.connect(self._show_trial)
        self.presence.changed.connect(self.commands.prepare)
        self.presence.missing_changed.connect(self._say_missing)
        details = self.shelf.details
        details.keep_wanted.connect(self.keeping.keep_or_link)
        details.used_wanted.connect(self.commands.on_shelf.show_used)
        details.replace_wanted.connect(self.commands.on_shelf.replace_everywhere)
        details.copy_wanted.connect(self.keeping.work_on_copy)
        details.take_changed_wanted.connect(self.keeping.take_changed)
        details.take_wanted.connect(self.keeping.use_take)
        details.other_take_wanted.connect(self.keeping.other_take)
        self.card.left.connect(self.sheet.setFocus)
        self.scenes.named.connect(self.sheet.setFocus)
        for field in self.findChildren(TypedField):
            field.left.connect(self.sheet.setFocus)
        self._show_checks()

    # -- showing -------------------------------------------------------------------------------

    def say(self, text: str, *, lasting: bool = False) -> None:
        """Say something in one line at the foot of the window."""
        self.note.setText(begun(text))
        self.note.setToolTip(begun(text))
        self._note_lasts, self._note_era = lasting, self.document.era
        self._note_timer.stop()
        if not lasting:
            self._note_timer.start(NOTE_SECONDS * 1000)

    def _unsay(self, *_: object) -> None:
        """The project is another than what was said was about."""
        if not self._note_lasts or self._note_era != self.document.era:
            self.note.clear()

    def tell(self, text: str) -> None:
        """Say something that must not be missed."""
        self.say(text)
        tell(self, text)

    def went_wrong(self, told: list[Caught]) -> None:
        """Something in Cicada itself has failed: have the project as it was, and say so."""
        put_back = self.document.put_back()
        self.sheet.let_go()
        self.planning.try_out(None)
        QTimer.singleShot(0, self, lambda: self._say_what_went_wrong(told, put_back=put_back))

    def _say_what_went_wrong(self, told: list[Caught], *, put_back: bool) -> None:
        self.trouble.say(told, put_back=put_back)
        self.card.refresh()
        for part in self.findChildren(QWidget):
            part.update()

    def _show_protection(self) -> None:
        """Say it, for as long as what is done would not survive a crash."""
        journal = self.document.journal
        if journal.protects:
            self.unprotected.hide()
            return
        why = journal.trouble or "the disk is not answering"
        self.unprotected.setText(f"Not protected: {why}")
        self.unprotected.setToolTip(
            "What you do now is not written down as you do it. Save often, and free some space."
        )
        self.unprotected.show()

    def _show_title(self) -> None:
        self.title.setText(self.document.name)
        changed = " •" if self.document.dirty else ""
        self.setWindowTitle(f"{self.document.name}{changed} – Cicada")
        self.commands.refresh()

    def _show_checks(self) -> None:
        number = len(self.planning.findings)
        self.checks.setText(f"Checks: {number}" if number else "Checks: all well")
        self.checks.setProperty("quiet", number == 0)
        self.checks.style().unpolish(self.checks)
        self.checks.style().polish(self.checks)

    def _show_findings(self) -> None:
        menu = QMenu(self)
        for finding in self.planning.findings:
            action = menu.addAction(finding.sentence)
            action.triggered.connect(lambda _=False, finding=finding: self._go_to(finding))
        if not self.planning.findings:
            menu.addAction("Nothing looks wrong.").setEnabled(False)
        menu.exec(self.checks.mapToGlobal(QPoint(0, self.checks.height())))
        menu.deleteLater()

    def _go_to(self, finding: object) -> None:
        scene, layer = getattr(finding, "scene", ""), getattr(finding, "layer", "")
        frame = getattr(finding, "frame", None)
        if scene and frame is not None:
            self.session.show_scene(scene)
            self.session.choose(Cell(layer, frame))
            self.session.move_playhead(frame)
            self.sheet.show_frame(frame)

    # -- placing and importing -----------------------------------------------------------------

    def _place_dropped(self, sound: str, layer: str, frame: int) -> None:
        self.arranging.place(sound, Cell(layer, frame))

    def _import_dropped(self, files: list[Path], layer: str, frame: int) -> None:
        if not self._opens(files):
            self.commands.on_shelf.import_files(files, Cell(layer, frame))

    def _drop_on_shelf(self, files: list[Path]) -> None:
        if not self._opens(files):
            self.commands.on_shelf.import_files(files)

    def _drop_on_picture(self, files: list[Path], frame: int | None = None) -> None:
        if not self._opens(files):
            self.commands.pictures.drop(files, frame)

    def _opens(self, files: list[Path]) -> bool:
        """A project among what is dropped anywhere is opened, and not taken for a sound."""
        projects = [file for file in files if file.suffix.lower() == SUFFIX]
        if projects:
            # Not inside the drop, which another program waits for.
            QTimer.singleShot(0, self, lambda: self.files.open_file(projects[0]))
        return bool(projects)

    def _show_trial(self) -> None:
        """Say on the sheet and in words what is tried out."""
        self.sheet.trial = self.trying.cell
        self.sheet.redraw()
        if self.trying.cell is None or self.trying.sound is None:
            self.note.clear()
            return
        name = self.document.project.sound(self.trying.sound).name
        layer = self.document.project.layer(self.trying.cell.layer)[1]
        frame = self.trying.cell.frame + self.document.project.first_frame
        where = f"{layer.name or layer.id}, frame {frame}"
        self.say(f"Trying {name} on {where}: P places it, Esc lets it go.", lasting=True)

    def _show_wait(self) -> None:
        """Say what the picture waits for."""
        point = self.transport.waiting
        self.picture.wait_for("" if point is None else begun(waits_text(point)))

    def show_beside(self, part: QWidget | None) -> None:
        """Show a part beside the card, or the shelf again if it is there already."""
        shown = self.side.currentWidget() is part
        self._put_beside(self.shelf if shown or part is None else part)

    def _put_beside(self, part: QWidget, *_: object) -> None:
        self.side.setCurrentWidget(part)
        for button, shown in zip(self.beside, (self.shelf, self.sounding), strict=True):
            button.setChecked(part is shown)

    def _show_range(self) -> None:
        """Draw the marked range, if it is of the scene shown."""
        marked, sheet = self.conditions.range, self.sheet
        here = marked is not None and marked.scene == self.session.scene_id
        shown = (marked.first, marked.last) if marked is not None and here else None
        if (shown, self.conditions.scope == "range") != (sheet.range, sheet.range_is_played):
            sheet.range, sheet.range_is_played = shown, self.conditions.scope == "range"
            sheet.redraw()

    def show_together(self) -> None:
        """Hold a flash against a beep, and correct the device."""
        from cicada.window.playing.together import TogetherDialog

        self._show_list(TogetherDialog(self))

    def _show_compared(self) -> None:
        """Say on the card how the version held differs, and which is heard."""
        comparing = self.commands.shaping.comparing
        heard = ", heard now" if comparing.hearing_held else ""
        said = comparing.sentence()
        self.card.compared = f"{said}{heard}" if said else ""
        self.card.refresh()

    def _say_missing(self) -> None:
        missing = self.presence.missing
        if missing:
            names = [s.name or s.id for s in self.document.project.sounds if s.id in missing]
            shown = ", ".join(names[:4]) + (" …" if len(names) > 4 else "")
            self.say(
                f"{count(len(names), 'sound')} missing: {shown}. "
                "“Find missing sounds” in the Shelf menu looks for them.",
                lasting=True,
            )
            self._said_missing = self.note.text()
        elif self.note.text() == self._said_missing:
            self.note.clear()

    @override
    def changeEvent(self, event: QEvent) -> None:
        super().changeEvent(event)
        shown = self.isVisible() and self.isActiveWindow()
        if event.type() == QEvent.Type.ActivationChange and shown:
            self.keeping.look_at_sources()

    @override
    def dragEnterEvent(self, event: QDragEnterEvent) -> None:
        if dragged_files(event.mimeData()):
            event.acceptProposedAction()

    @override
    def dropEvent(self, event: QDropEvent) -> None:
        event.acceptProposedAction()
        self._drop_on_picture(dragged_files(event.mimeData()))

    def _cell_menu(self, at: QPoint) -> None:
        self._pop_up(self.commands.on_sheet.cell_menu(), at)

    def _picture_menu(self, at: QPoint) -> None:
        names = ("picture", "numbered", "parts", "picture_sound", "look_again",
                 "picture_over_sheet", "picture_window", "picture_full")  # fmt: skip
        menu = QMenu(self)
        menu.addActions([self.commands.actions[name] for name in names])
        self.commands.pictures.over_menu(menu.addMenu("Over the picture"))
        self.show_menu(menu, at)

    def _ruler_menu(self, at: QPoint, frame: int) -> None:
        self._pop_up(self.commands.on_sheet.ruler_menu(frame), at)

    def _scene_menu(self, at: QPoint) -> None:
        names = (
            "rename_scene", "add_scene", "duplicate_scene", "scene_on", "scene_up", "scene_length",
            "remove_scene",
        )  # fmt: skip
        self._pop_up([self.commands.actions[name] for name in names], at)

    def _plays_menu(self, at: QPoint) -> None:
        menu = QMenu(self)
        self.commands.on_sheet.plays_menu(menu)
        self.show_menu(menu, at)

    def _shelf_menu(self, at: QPoint) -> None:
        self._pop_up(self.commands.on_shelf.menu(), at)

    def _pop_up(self, actions: list[QAction], at: QPoint) -> None:
        menu = QMenu(self)
        menu.addActions(actions)
        self.show_menu(menu, at)

    def show_menu(self, menu: QMenu, at: QPoint) -> None:
        """Let something be chosen from a menu that is there for once."""
        menu.exec(at)
        menu.deleteLater()

    # -- further windows -----------------------------------------------------------------------

    def show_history(self) -> None:
        """List every step that can be taken back or done again."""
        from cicada.window.frame.history import HistoryList

        self._show_list(HistoryList(self))

    def show_marks(self) -> None:
        """List the marks of all scenes."""
        from cicada.window.frame.history import MarksList

        self._show_list(MarksList(self))

    def _show_list(self, dialog: QDialog) -> None:
        dialog.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        dialog.setStyleSheet(theme.style())
        dialog.show()

    def show_keys(self) -> None:
        """List all keys."""
        from cicada.window.frame.help_dialogs import KeysDialog

        self._show_list(KeysDialog(self))

    def show_shapes(self) -> None:
        """Draw every shape of the sheet and say what it means."""
        from cicada.window.frame.help_dialogs import ShapesDialog

        self._show_list(ShapesDialog(self))

    def switch_night(self) -> None:
        """Change between warm paper and its night version."""
        theme.use(night=not theme.is_night())
        self.settings.setValue("window/night", theme.is_night())
        self.setStyleSheet(theme.style())
        self.sounds.forget_pictures()
        self.rail.dress()
        self.card.refresh()
        self.sheet.redraw()
        for part in self.findChildren(QWidget):
            part.update()

    # -- keeping -------------------------------------------------------------------------------

    def _restore(self) -> None:
        for name, part in (("halves", self.halves), ("parts", self.parts)):
            state = self.settings.value(f"window/{name}")
            if isinstance(state, QByteArray):
                part.restoreState(state)
        geometry = self.settings.value("window/geometry")
        if isinstance(geometry, QByteArray):
            self.restoreGeometry(geometry)
        self.commands.pictures.restore()

    def _remember(self) -> None:
        self.settings.setValue("window/halves", self.halves.saveState())
        self.settings.setValue("window/parts", self.parts.saveState())
        self.settings.setValue("window/geometry", self.saveGeometry())

    def widen(self, part: QWidget | None) -> None:
        """Give one part the whole lower half, or all three their share again."""
        if part is self.shelf:
            if self.side.currentWidget() is not self.shelf:
                self.show_beside(self.side.currentWidget())
            part = self.side
        parts = (self.picture, self.card, self.side)
        alone = part is not None and all(other is part or other.isHidden() for other in parts)
        for other in parts:
            other.setVisible(part is None or alone or other is part)

    @override
    def closeEvent(self, event: QCloseEvent) -> None:
        if not self.files.may_leave():
            event.ignore()
            return
        self.document.let_go()
        self._remember()
        self.shut_down()
        event.accept()

    def shut_down(self) -> None:
        """End all that runs beside the window."""
        self.commands.pictures.close_window()
        self.transport.close()
        self.mix_row.close()
        self.arranging.close()
        self.jobs.close()
        self.planning.close()
        self.presence.close()
        self.frames.close()
        self.document.close()
        self.collecting.close()


class EnterPresses(QObject):
    """Enter activates the control that has the focus; Qt does that for dialogs only."""

    @override
    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        if (
            event.type() == QEvent.Type.KeyPress
            and isinstance(event, QKeyEvent)
            and event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter)
            and isinstance(watched, QPushButton)
        ):
            watched.click()
            return True
        return False
