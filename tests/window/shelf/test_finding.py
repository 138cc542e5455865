"""The shelf finds and orders sounds as one types."""

from PySide6.QtCore import Qt

from tests.window.shelf.by_hand import choose, sounds


def test_words_filters_and_order_find_sounds_as_one_types(harbour, settled, qtbot):
    shelf = harbour.shelf
    names = lambda: [sound.name for sound in shelf.model.sounds]  # noqa: E731
    qtbot.keyClick(harbour, Qt.Key.Key_F, Qt.KeyboardModifier.ControlModifier)
    qtbot.keyClicks(shelf.search, "bell wat")
    assert names() == ["Buoy bell", "Distant bell"]
    qtbot.keyClick(shelf.search, Qt.Key.Key_Escape)
    assert len(names()) == 11
    shelf.order.setCurrentIndex(shelf.order.findData("length"))
    shelf.order.activated.emit(0)
    lengths = [sound.frames / sound.rate for sound in shelf.model.sounds]
    assert lengths == sorted(lengths, reverse=True)
    shelf.only.setCurrentIndex(shelf.only.findData("folder:Water"))
    shelf.only.activated.emit(0)
    assert {sound.folder for sound in shelf.model.sounds} == {"Water"}
    shelf.only.setCurrentIndex(shelf.only.findData("unused"))
    shelf.only.activated.emit(0)
    assert names() == []
    assert "No sound" in shelf._empty.text()


def test_what_is_chosen_stays_chosen_while_words_are_typed(harbour, qtbot):
    choose(harbour, "Foghorn")
    qtbot.keyClicks(harbour.shelf.search, "o")
    assert harbour.session.sound == sounds(harbour)["Foghorn"].id
    assert harbour.shelf.chosen() == (sounds(harbour)["Foghorn"].id,)
