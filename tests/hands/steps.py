"""What the hands do: one random thing at a time, each made from nothing but its own number."""

from pathlib import Path
from random import Random

from PySide6.QtCore import QEvent, QMimeData, QPoint, QPointF, QSize, Qt, QTimer, QUrl
from PySide6.QtGui import (
    QDragEnterEvent,
    QDragLeaveEvent,
    QDragMoveEvent,
    QDropEvent,
    QKeySequence,
    QWheelEvent,
)
from PySide6.QtTest import QTest
from PySide6.QtWidgets import (
    QAbstractButton,
    QApplication,
    QComboBox,
    QFileDialog,
    QLineEdit,
    QMenu,
    QTabBar,
    QWidget,
)

from cicada.window.widgets.drag import sound_mime

LEFT, RIGHT = Qt.MouseButton.LeftButton, Qt.MouseButton.RightButton
NONE = Qt.KeyboardModifier.NoModifier
MODIFIERS = (
    NONE, NONE, NONE, NONE,
    Qt.KeyboardModifier.ShiftModifier, Qt.KeyboardModifier.ControlModifier,
    Qt.KeyboardModifier.AltModifier,
)  # fmt: skip
TYPED = (
    "0", "1", "-1", "12 s", "5 f", "40 %", "-8 dB", "-inf dB", "centre", "L50", "2x", "1e9", "abc",
    "", "99999999999", "3,5", "0:02:12", "endless", "0 s 50 %; 2 s 100 %", "🔔", "2 s + 5 f", "1/0",
)  # fmt: skip
KEYS = (
    Qt.Key.Key_Escape, Qt.Key.Key_Return, Qt.Key.Key_Tab, Qt.Key.Key_Backtab, Qt.Key.Key_Space,
    Qt.Key.Key_Up, Qt.Key.Key_Down, Qt.Key.Key_Left, Qt.Key.Key_Right, Qt.Key.Key_Home,
    Qt.Key.Key_End, Qt.Key.Key_PageUp, Qt.Key.Key_PageDown, Qt.Key.Key_Delete, Qt.Key.Key_F2,
)  # fmt: skip
# Not pressed: it would end the window, or leave this process.
NEVER = {"quit", "edit_copy", "work_on_copy"}
POKES = 12


class Hands:
    """Does the steps of a seed to a window; ``log`` says what the last one did."""

    def __init__(self, window, start, seed, files, folder):
        self.window, self.files, self.folder = window, files, folder
        self.start, self.seed = start, seed
        self.rng = Random(seed)
        self.log = ""
        self._pokes = 0
        self._closed = False
        self._poke()
        QFileDialog.getOpenFileName = lambda *_, **__: (self._some_file(), "")
        QFileDialog.getOpenFileNames = lambda *_, **__: ([self._some_file()], "")
        QFileDialog.getSaveFileName = lambda *_, **__: (self._new_file(), "")
        QFileDialog.getExistingDirectory = lambda *_, **__: str(self.folder)

    def _some_file(self):
        return str(self.rng.choice((*self.files, "")))

    def _new_file(self):
        name = self.rng.choice(("", "new", "new.cicada", "film.v2", "mix.wav", "run.json"))
        return str(self.folder / "saved" / name) if name else ""

    def do(self, number):
        """Do step ``number``: what it is depends on nothing but that and the seed."""
        self.rng = Random(f"{self.start}-{self.seed}-{number}")
        self._pokes = 0
        kinds = (
            self.click, self.click, self.drag, self.drag, self.drag, self.key, self.key,
            self.command, self.command, self.command, self.drop_sound, self.drop_files, self.type,
            self.wheel, self.press_button, self.choose, self.wait, self.resize, self.double_click,
            self.menu, self.slide,
        )  # fmt: skip
        kind = self.rng.choice(kinds)
        self.log = kind.__name__
        kind()
        for _ in range(3):
            QApplication.processEvents()

    def close(self):
        self._closed = True

    # -- where ---------------------------------------------------------------------------------

    def _part(self):
        window = self.window
        parts = [
            window.sheet.viewport(), window.sheet.viewport(), window.sheet.viewport(),
            window.overview, window.shelf.list.viewport(), window.picture, window.scenes.bar,
            window.rail, window.sounding, window.card, window.pads_panel,
        ]  # fmt: skip
        return self.rng.choice(parts)

    def _point(self, part):
        """A place in a part: on the sheet mostly near where something stands."""
        rng, sheet = self.rng, self.window.sheet
        if part is sheet.viewport() and rng.random() < 0.6:
            rows = list(sheet.place.rows_in_sight())
            frames = [k.frame for x in self.window.session.scene.layers[:20] for k in x.keyframes]
            frames += [m.frame for m in self.window.session.scene.marks]
            frame = rng.choice(frames) if frames else rng.randrange(100)
            x = round(sheet.place.frame_x(frame)) + rng.choice((-6, -2, 0, 1, 3, 8, 30))
            if rows and rng.random() < 0.8:
                _, top, height = rng.choice(rows)
                return QPoint(x, round(top + height * rng.random()))
            return QPoint(x, rng.randrange(80))
        return QPoint(rng.randrange(max(1, part.width())), rng.randrange(max(1, part.height())))

    # -- mouse ---------------------------------------------------------------------------------

    def click(self):
        part = self._part()
        button = RIGHT if self.rng.random() < 0.15 else LEFT
        point, keys = self._point(part), self.rng.choice(MODIFIERS)
        self.log += f" {type(part).__name__} {point.x()},{point.y()} {button.name} {keys.name}"
        QTest.mouseClick(part, button, keys, point)
        if button == RIGHT:
            from PySide6.QtGui import QContextMenuEvent

            reason = QContextMenuEvent.Reason.Mouse
            event = QContextMenuEvent(reason, point, part.mapToGlobal(point))
            QApplication.sendEvent(part, event)

    def double_click(self):
        part = self._part()
        QTest.mouseDClick(part, LEFT, self.rng.choice(MODIFIERS), self._point(part))

    def drag(self):
        part = self._part()
        rng, keys = self.rng, self.rng.choice(MODIFIERS)
        point = self._point(part)
        self.log += f" {type(part).__name__} {point.x()},{point.y()} {keys.name}"
        if part is self.window.shelf.list.viewport():
            # A real drag would wait for a real pointer.
            return
        QTest.mousePress(part, LEFT, keys, point)
        for _ in range(rng.randrange(1, 6)):
            point = point + QPoint(rng.randrange(-120, 120), rng.randrange(-60, 60))
            QTest.mouseMove(part, point)
            QApplication.processEvents()
            if rng.random() < 0.2:
                # In the middle of it something else happens.
                name = rng.choice(("scene_next", "remove_layer", "undo", "redo", "silence",
                                   "remove_scene", "play", "clear", "cut", "zoom"))  # fmt: skip
                self.log += f" {name}"
                if name in self.window.menus.actions:
                    self.window.menus.actions[name].trigger()
            if rng.random() < 0.2:
                QTest.qWait(10)
        QTest.mouseRelease(part, LEFT, keys, point)

    def wheel(self):
        part = self._part()
        point, turn = QPointF(self._point(part)), self.rng.choice((120, -120, 480, -2400, 15))
        angle = QPoint(0, turn) if self.rng.random() < 0.8 else QPoint(turn, 0)
        event = QWheelEvent(
            point, QPointF(part.mapToGlobal(point.toPoint())), QPoint(), angle,
            Qt.MouseButton.NoButton, self.rng.choice(MODIFIERS), Qt.ScrollPhase.NoScrollPhase,
            False,
        )  # fmt: skip
        QApplication.sendEvent(part, event)

    # -- keys and commands ---------------------------------------------------------------------

    def _focus(self):
        return QApplication.focusWidget() or self.window.sheet

    def key(self):
        rng = self.rng
        if rng.random() < 0.5:
            actions = [a for n, a in self.window.menus.actions.items() if n not in NEVER]
            sequence = rng.choice(actions).shortcut()
            self.log += f" {sequence.toString()}"
            if not sequence.isEmpty():
                QTest.keySequence(self._focus(), QKeySequence(sequence))
            return
        key = rng.choice(KEYS)
        self.log += f" {key.name}"
        QTest.keyClick(self._focus(), key, rng.choice(MODIFIERS))

    def command(self):
        names = sorted(set(self.window.menus.actions) - NEVER)
        name = self.rng.choice(names)
        self.log += f" {name}"
        self.window.menus.actions[name].trigger()

    def menu(self):
        """Fill and look through a menu of the bar, and take something out of it."""
        tops = [a.menu() for a in self.window.menu_bar.actions() if a.menu() is not None]
        menu = self.rng.choice(tops)
        inner = [a.menu() for a in menu.actions() if a.menu() is not None]
        if inner:
            menu = self.rng.choice(inner)
        menu.aboutToShow.emit()
        actions = [
            a for a in menu.actions() if a.isEnabled() and not a.isSeparator() and not a.menu()
        ]
        never = {self.window.menus.actions.get(name) for name in NEVER}
        actions = [a for a in actions if a not in never]
        if actions:
            action = self.rng.choice(actions)
            self.log += f" {action.text()}"
            action.hover()
            if self.rng.random() < 0.7:
                action.trigger()
        menu.aboutToHide.emit()

    def type(self):
        fields = [f for f in self.window.findChildren(QLineEdit) if f.isVisible() and f.isEnabled()]
        if not fields:
            return
        field, text = self.rng.choice(fields), self.rng.choice(TYPED)
        self.log += f" {field.accessibleName()}: {text}"
        field.setFocus()
        field.selectAll()
        if text:
            QTest.keyClicks(field, text) if text.isascii() else field.insert(text)
        else:
            QTest.keyClick(field, Qt.Key.Key_Backspace)
        end = self.rng.choice((Qt.Key.Key_Return, Qt.Key.Key_Tab, Qt.Key.Key_Escape, None))
        if end is not None:
            QTest.keyClick(field, end)

    def press_button(self):
        buttons = [
            b
            for b in self.window.findChildren(QAbstractButton)
            if b.isVisible() and b.isEnabled() and b.window() is self.window
        ]
        if buttons:
            button = self.rng.choice(buttons)
            self.log += f" {button.text()}"
            button.setFocus()
            QTest.mouseClick(button, LEFT)

    def choose(self):
        """Choose in a list or among tabs."""
        boxes = [b for b in self.window.findChildren(QComboBox) if b.isVisible() and b.count()]
        tabs = [b for b in self.window.findChildren(QTabBar) if b.isVisible() and b.count()]
        if boxes and self.rng.random() < 0.6:
            box = self.rng.choice(boxes)
            row = self.rng.randrange(box.count())
            box.setCurrentIndex(row)
            box.activated.emit(row)
        elif tabs:
            bar = self.rng.choice(tabs)
            bar.setCurrentIndex(self.rng.randrange(bar.count()))

    def slide(self):
        """Move a value, or press a pad as fast as a hand can."""
        panel, rng = self.window.pads_panel, self.rng
        if panel.sliders and rng.random() < 0.5:
            slider = rng.choice(list(panel.sliders.values()))
            for _ in range(rng.randrange(1, 20)):
                slider.setValue(rng.randrange(1001))
        elif panel.rows:
            for _ in range(rng.randrange(1, 6)):
                pad = rng.choice(list(panel.rows))
                self.log += f" {pad}"
                panel.rows[pad].pressed.emit()
                QApplication.processEvents()

    # -- dropping ------------------------------------------------------------------------------

    def drop_sound(self):
        sounds = list(self.window.document.project.all_placeables())
        name = self.rng.choice(sounds).id if sounds and self.rng.random() < 0.95 else "gone"
        self._drop(self.window.sheet.viewport(), sound_mime(name))

    def drop_files(self):
        data = QMimeData()
        chosen = self.rng.sample(self.files, self.rng.choice((1, 1, 2, 4)))
        self.log += f" {[Path(path).name for path in chosen]}"
        data.setUrls([QUrl.fromLocalFile(str(path)) for path in chosen])
        parts = (
            self.window.sheet.viewport(), self.window.shelf, self.window.shelf.list.viewport(),
            self.window.picture, self.window,
        )  # fmt: skip
        self._drop(self.rng.choice(parts), data)

    def _drop(self, part, data):
        rng, copy = self.rng, Qt.DropAction.CopyAction
        point = self._point(part)
        keys = rng.choice(MODIFIERS)
        enter = QDragEnterEvent(point, copy, data, LEFT, keys)
        QApplication.sendEvent(part, enter)
        for _ in range(rng.randrange(1, 4)):
            point = self._point(part)
            QApplication.sendEvent(part, QDragMoveEvent(point, copy, data, LEFT, keys))
            QApplication.processEvents()
        if rng.random() < 0.2:
            QApplication.sendEvent(part, QDragLeaveEvent())
            return
        drop = QDropEvent(QPointF(point), copy, data, LEFT, keys, QEvent.Type.Drop)
        QApplication.sendEvent(part, drop)

    # -- the rest ------------------------------------------------------------------------------

    def wait(self):
        QTest.qWait(self.rng.choice((1, 20, 80)))

    def resize(self):
        sizes = ((1280, 800), (1024, 700), (940, 500), (1920, 1000), (600, 300))
        self.window.resize(QSize(*self.rng.choice(sizes)))

    def _poke(self):
        """Do something to whatever is open over the window; after a while, close it."""
        if self._closed:
            return
        # What is done here may open something that is to be poked, too.
        QTimer.singleShot(15, self._poke)
        popup = QApplication.activePopupWidget()
        over = popup or QApplication.activeModalWidget()
        if over is None:
            return
        self._pokes += 1
        rng = self.rng
        if self._pokes > POKES:
            over.close()
            return
        if isinstance(over, QMenu):
            actions = [a for a in over.actions() if a.isEnabled() and not a.isSeparator()]
            never = {self.window.menus.actions.get(name) for name in NEVER}
            actions = [a for a in actions if a not in never]
            if actions and rng.random() < 0.7:
                over.setActiveAction(rng.choice(actions))
                QTest.keyClick(over, Qt.Key.Key_Return)
            else:
                QTest.keyClick(over, Qt.Key.Key_Escape)
            return
        parts = [w for w in over.findChildren(QWidget) if w.isVisible() and w.isEnabled()]
        part = rng.choice(parts or [over])
        if isinstance(part, QLineEdit):
            part.selectAll()
            part.insert(rng.choice(TYPED))
        elif isinstance(part, QAbstractButton):
            QTest.mouseClick(part, LEFT)
        else:
            QTest.keyClick(part, rng.choice((Qt.Key.Key_Escape, Qt.Key.Key_Down, Qt.Key.Key_Tab)))
