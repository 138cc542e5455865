"""A project of one's own: the window around it, small and large, and what it says."""

import re
from pathlib import Path

from PySide6.QtCore import QPoint
from PySide6.QtWidgets import QApplication, QMenu

import cicada.window
from cicada.core.editing import Cell
from cicada.core.model import empty_project
from cicada.core.scene_edits import ChangeScene
from tests.by_hand import key


def test_the_sheet_stays_where_it_is_looked_at_when_something_is_put_there(own, qtbot, settled):
    own.document.do(ChangeScene(scene="sc1", changes={"length": 4000}))
    settled(own)
    own.session.choose(Cell("l1", 0))
    key(qtbot, own, "End")
    left = own.sheet.place.left
    assert left > 3000
    for letter in "MRWX":
        key(qtbot, own, letter)
        settled(own)
        assert own.sheet.place.left == left


def test_the_whole_scene_stays_whole_after_an_edit_and_another_size(own, qtbot, settled):
    own.document.do(ChangeScene(scene="sc1", changes={"length": 4000}))
    settled(own)
    key(qtbot, own, "0")
    scale = own.sheet.place.scale
    key(qtbot, own, "M")
    settled(own)
    assert own.sheet.place.scale == scale
    own.resize(1000, 700)
    settled(own)
    assert own.sheet.place.frame_x(4000) <= own.sheet.viewport().width()


def test_a_new_project_is_fitted_and_begins_at_its_first_frame(harbour, settled):
    harbour.session.show_scene("sc1")
    harbour.sheet.zoom(20)
    harbour.session.move_playhead(30)
    harbour.document.new(empty_project("New", length=48))
    settled(harbour)
    assert (harbour.session.playhead, harbour.sheet.place.left) == (0, 0)
    width = harbour.sheet.viewport().width()
    assert 0.9 * width < harbour.sheet.place.frame_x(48) <= width


def test_the_rails_menu_leaves_no_menus_behind(own, qtbot):
    menu = own.rail.what.menu()
    menu.aboutToShow.emit()
    QApplication.sendPostedEvents(None, 52)
    before = len(own.findChildren(QMenu))
    for _ in range(3):
        menu.aboutToShow.emit()
        QApplication.sendPostedEvents(None, 52)
    assert len(own.findChildren(QMenu)) == before


def test_the_window_becomes_as_small_as_promised(harbour, settled):
    harbour.resize(940, 500)
    settled(harbour)
    assert (harbour.width(), harbour.height()) == (940, 500)


def test_a_long_message_makes_no_window_wider(harbour, settled):
    harbour.resize(1024, 700)
    harbour.notices.say("a long message " * 60)
    settled(harbour)
    assert harbour.width() == 1024


def test_at_1024_by_700_no_control_is_cut_off(harbour, settled):
    from PySide6.QtWidgets import QPushButton

    harbour.resize(1024, 700)
    harbour.session.choose(Cell("l6", 6))
    settled(harbour)
    for part in (harbour.rail, harbour.card, harbour.shelf):
        for button in part.findChildren(QPushButton):
            if button.isVisible() and button.text():
                place = button.mapTo(harbour, QPoint(0, 0))
                wide = button.fontMetrics().horizontalAdvance(button.text())
                assert button.width() >= wide, button.text()
                assert place.x() + button.width() <= harbour.width()


def test_rows_use_a_tall_window(own, settled):
    usual = own.sheet.place.rows[0]
    own.resize(1280, 1100)
    settled(own)
    assert own.sheet.place.rows[0] >= usual
    assert own.sheet.place.rows[0] > 60


def test_the_empty_card_offers_what_can_be_done(own, settled):
    own.session.choose(None)
    own.session.move_playhead(12)
    button = next(
        b for b in own.card.nothing.findChildren(type(own.top.checks)) if b.text() == "Mark it"
    )
    assert button.isVisible()
    button.click()
    assert [mark.frame for mark in own.session.scene.marks] == [12]
    assert "frame 13" in own.card.words.text()


def test_what_is_said_goes_when_the_next_edit_makes_it_old(window, qtbot):
    window.notices.say("placed")
    window.menus.actions["mark"].trigger()
    assert window.foot.note.text() != "Placed"
    window.notices.say("save it to keep it", lasting=True)
    window.menus.actions["undo"].trigger()
    assert window.foot.note.text() == "Save it to keep it"
    window.document.new(empty_project("another"))
    assert not window.foot.note.text()


def test_no_question_is_the_toolkits_own():
    for path in Path(cicada.window.__file__).parent.rglob("*.py"):
        text = path.read_text()
        assert not re.search(r"QMessageBox|QInputDialog|QDialogButtonBox", text), path.name
