"""The picture follows what is audible."""

from PySide6.QtWidgets import QMenu


def test_guides_and_the_number_are_drawn_over_the_picture_and_remembered(harbour, qtbot, settled):
    plain = harbour.picture.grab().toImage()
    menu = QMenu()
    harbour.on_picture.over_menu(menu)
    for action in menu.actions():
        action.trigger()
    assert harbour.picture.over == {"safe", "centre", "number"}
    assert harbour.picture.grab().toImage() != plain
    assert sorted(harbour.settings.value("picture/over")) == ["centre", "number", "safe"]
