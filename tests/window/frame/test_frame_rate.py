"""Another frame rate: seen before it happens, done in one step; and what is copied between two."""

import pytest
from msgspec.structs import replace
from PySide6.QtCore import QPoint, QPointF, Qt, QTimer
from PySide6.QtGui import QWheelEvent
from PySide6.QtWidgets import QApplication

from cicada.core.frame_rate import keep_seconds
from cicada.core.model import empty_project
from cicada.window.frame.frame_rate_dialog import FrameRateDialog
from tests.by_hand import CONTROL, LEFT, key
from tests.window.clip.opened import BELL

KEYS = Qt.KeyboardModifier.ControlModifier | Qt.KeyboardModifier.AltModifier


def asked(window, qtbot, what):
    """Open the dialog by its key, do something with it, and say what it said at last."""
    said, failed = [], []

    def drive():
        dialog = window.findChild(FrameRateDialog)
        try:
            qtbot.waitUntil(dialog.isVisible, timeout=5000)
            what(dialog)
            said.append(dialog.says.text())
        except BaseException as error:  # noqa: BLE001 - raised again outside of the dialog
            failed.append(error)
        if dialog.isVisible():
            dialog.reject()

    QTimer.singleShot(0, drive)
    qtbot.keyClick(window.sheet, Qt.Key.Key_F, KEYS)
    if failed:
        raise failed[0]
    return said[0]


def drawn(dialog, qtbot):
    qtbot.waitUntil(lambda: dialog._after is not None, timeout=5000)


def type_rate(dialog, qtbot, text):
    field = dialog.fps_field.lineEdit()
    field.selectAll()
    qtbot.keyClicks(field, text)


def test_keeping_seconds_is_listed_drawn_and_done_in_one_step(harbour, qtbot, settled):
    before = harbour.document.project
    wanted = keep_seconds(before, (25, 1))

    def drive(dialog):
        type_rate(dialog, qtbot, "25")
        qtbot.mouseClick(dialog.keep.buttons["seconds"], LEFT)
        drawn(dialog, qtbot)
        assert dialog.list.count() == len(wanted.shifts)
        dialog.list.setCurrentRow(1)
        colours = dialog.drawn.grab().toImage()
        assert len({colours.pixelColor(x, 60).name() for x in range(170, 900, 3)}) > 3
        qtbot.mouseClick(dialog.verb, LEFT)

    said = asked(harbour, qtbot, drive)
    assert "come at another moment" in said
    settled(harbour)
    assert harbour.document.project == wanted.project
    harbour.menus.do("undo")
    assert harbour.document.project == before


def test_free_clips_keep_their_moment_where_that_is_wanted(harbour, qtbot, settled):
    wanted = keep_seconds(harbour.document.project, (25, 1), by_delay=True).project

    def drive(dialog):
        type_rate(dialog, qtbot, "25")
        qtbot.mouseClick(dialog.keep.buttons["seconds"], LEFT)
        dialog.by_delay.click()
        drawn(dialog, qtbot)
        qtbot.mouseClick(dialog.verb, LEFT)

    assert "kept by a delay" in asked(harbour, qtbot, drive)
    settled(harbour)
    assert harbour.document.project == wanted


def test_frames_are_kept_unless_seconds_are_chosen(harbour, qtbot, settled):
    before = harbour.document.project

    def drive(dialog):
        type_rate(dialog, qtbot, "30000/1001")
        drawn(dialog, qtbot)
        qtbot.mouseClick(dialog.verb, LEFT)

    asked(harbour, qtbot, drive)
    settled(harbour)
    assert harbour.document.project == replace(before, fps=(30000, 1001))


@pytest.mark.parametrize(
    ("typed", "said"), [("0", "above 0"), ("fast", "no frame rate"), ("240", "")]
)
def test_what_cannot_be_done_is_said_and_not_done(harbour, qtbot, settled, typed, said):
    before = harbour.document.project

    def drive(dialog):
        type_rate(dialog, qtbot, typed)
        assert dialog.verb.isEnabled() == (not said)

    assert said in asked(harbour, qtbot, drive)
    assert harbour.document.project is before


def test_the_wheel_zooms_and_an_empty_scene_is_drawn(window, qtbot, settled):
    project = empty_project("Ours")
    scene = replace(project.scenes[0], layers=())
    window.document.new(replace(project, scenes=(scene,)))
    settled(window)

    def drive(dialog):
        type_rate(dialog, qtbot, "25")
        drawn(dialog, qtbot)
        shown = []
        for turn in (120, 120, -120, -480):
            at = QPointF(500, 40)
            event = QWheelEvent(
                at, dialog.drawn.mapToGlobal(at), QPoint(), QPoint(0, turn),
                Qt.MouseButton.NoButton, Qt.KeyboardModifier.NoModifier,
                Qt.ScrollPhase.NoScrollPhase, False,
            )  # fmt: skip
            QApplication.sendEvent(dialog.drawn, event)
            shown.append(dialog.drawn._shown)
        dialog.grab()
        # Closer, closer, back, and the whole scene again.
        assert shown[1] < shown[0] < 10
        assert shown[2:] == [pytest.approx(shown[0]), 0.0]

    asked(window, qtbot, drive)


@pytest.mark.parametrize(("answer", "frame"), [(1, 6), (2, 8), (0, None)])
def test_what_was_copied_at_another_rate_is_pasted_by_frames_or_by_seconds(
    harbour, qtbot, settled, monkeypatch, answer, frame
):
    harbour.session.choose_all((BELL, BELL._replace(frame=0)), BELL)
    layer = harbour.session.scene.layer(BELL.layer)
    first, second = sorted(k.frame for k in layer.keyframes)[:2]
    harbour.session.choose_all([BELL._replace(frame=f) for f in (first, second)])
    key(qtbot, harbour, "C", CONTROL)
    other = replace(empty_project("Ours"), fps=(30, 1))
    harbour.document.new(other)
    settled(harbour)
    asked = []

    def choose(text, verbs, *, safe, detail):
        asked.append(detail)
        return answer

    monkeypatch.setattr(harbour.clipboard, "_choose", choose)
    key(qtbot, harbour, "V", CONTROL)
    settled(harbour)
    assert "frames in:" in asked[0] or "Everything keeps its moment" in asked[0]
    put = [k.frame for layer in harbour.session.scene.layers for k in layer.keyframes]
    if frame is None:
        assert put == []
        return
    ratio = 1 if answer == 1 else 30 / 24
    assert put == [0, int((second - first) * ratio + 0.5)]
