"""Blends, pools and playlists: made of what is chosen, changed in their parts, placed, removed."""

from types import SimpleNamespace

import pytest
from msgspec.structs import replace
from PySide6.QtCore import Qt

from cicada.core.answer_edits import PutPool, PutValue
from cicada.core.answers import Blend, Playlist, Pool, Value
from cicada.core.editing import Cell
from cicada.core.model import Clip

ALONE = ("s4", "s5", "s6")


def choose(window, *sounds):
    window.session.choose_sounds(sounds, sounds[0])


def made_pool(window, settled):
    choose(window, *ALONE)
    window.making.make_pool()
    settled(window)
    return window.document.project.pools[0]


def test_a_pool_is_made_of_what_is_chosen_and_shown_in_its_parts(harbour, settled):
    pool = made_pool(harbour, settled)
    assert [part.sound for part in pool.parts] == list(ALONE)
    assert harbour.session.chosen_sounds == (pool.id,)
    assert harbour.shelf.aside.currentWidget() is harbour.shelf.parts
    assert harbour.shelf.parts.table.rowCount() == 3
    harbour.document.undo()
    assert harbour.document.project.pools == ()


@pytest.mark.parametrize(("answer", "lengths"), [(0, 1), (1, 2)])
def test_parts_of_unequal_length_are_asked_about_when_a_blend_is_made(
    harbour, settled, monkeypatch, answer, lengths
):
    monkeypatch.setattr(harbour.asking, "choose", lambda *_, **__: answer)
    choose(harbour, "s4", "s7")
    harbour.making.make_blend()
    project = harbour.document.project
    (blend,) = project.blends
    assert [part.at for part in blend.parts] == [0.0, 1.0]
    assert project.value(blend.value).label == "Value"
    looped = [part for part in blend.parts if part.sound not in ("s4", "s7")]
    assert len(looped) == lengths - 1
    assert len(project.playlists) == lengths - 1


def test_a_question_left_makes_nothing(harbour, monkeypatch):
    monkeypatch.setattr(harbour.asking, "choose", lambda *_, **__: 2)
    choose(harbour, "s4", "s7")
    before = harbour.document.project
    harbour.making.make_blend()
    assert harbour.document.project is before


def test_parts_are_ordered_taken_out_and_added_and_one_stays(harbour, settled):
    made_pool(harbour, settled)
    parts = harbour.shelf.parts
    parts.table.moved.emit(0, 2)
    parts.table.setCurrentCell(0, 0)
    parts.out.click()
    parts.add_part("s9")

    def now():
        return [part.sound for part in harbour.document.project.pools[0].parts]

    assert now() == ["s6", "s4", "s9"]
    for _ in range(3):
        parts.table.setCurrentCell(0, 0)
        parts.out.click()
    assert now() == ["s9"]


def test_a_pool_cannot_be_a_part_of_a_pool(harbour, settled):
    pool = made_pool(harbour, settled)
    choose(harbour, "s8")
    harbour.making.make_pool()
    said = []
    harbour.notices.said.connect(lambda text, _: said.append(text))
    harbour.shelf.parts.add_part(pool.id)
    assert len(harbour.document.project.pools[1].parts) == 1
    assert said == ["A pool cannot be a part of a pool."]


def test_a_gap_is_seen_in_the_table_and_closed_by_a_click(harbour, settled, qtbot):
    pool = made_pool(harbour, settled)
    value = Value(id="v1", name="Storm")
    harbour.document.do(PutValue(value=value))
    ranges = ((0.0, 0.4), (0.4, 0.6), (0.7, 1.0))
    parts = tuple(
        replace(part, value="v1", range=given)
        for part, given in zip(pool.parts, ranges, strict=True)
    )
    harbour.document.do(PutPool(pool=replace(pool, parts=parts)))
    settled(harbour)
    assert any(finding.kind == "pool-gap" for finding in harbour.planning.findings)
    (button,) = harbour.shelf.parts.coverage.closing
    qtbot.mouseClick(button, Qt.MouseButton.LeftButton)
    assert [part.range for part in harbour.document.project.pools[0].parts] == [
        (0.0, 0.4), (0.4, 0.7), (0.7, 1.0),
    ]  # fmt: skip
    assert harbour.shelf.parts.coverage.closing == []
    harbour.document.undo()


def test_what_is_typed_in_a_row_is_taken_and_what_cannot_be_read_is_said(harbour, settled):
    made_pool(harbour, settled)
    said = []
    harbour.notices.said.connect(lambda text, _: said.append(text))
    table = harbour.shelf.parts.table
    table.item(1, 1).setText("2,5" if "," in str(1.5) else "2.5")
    assert harbour.document.project.pools[0].parts[1].weight == 2.5
    table.item(1, 1).setText("often")
    table.item(0, 3).setText("0.5")
    assert harbour.document.project.pools[0].parts[1].weight == 2.5
    assert len(said) == 2


def test_a_pool_that_is_placed_has_the_room_of_its_longest_part_and_draws_one(harbour, settled):
    pool = made_pool(harbour, settled)
    harbour.arranging.place(pool.id, Cell("l6", 150))
    settled(harbour)
    voice = next(v for v in harbour.planning.plan.voices if v.sound == pool.id)
    assert voice.picked in ALONE
    clip = harbour.session.keyframe()
    assert isinstance(clip, Clip)
    assert clip.sound == pool.id


def test_what_is_a_part_elsewhere_is_taken_off_the_shelf_only_when_told_so(
    harbour, settled, monkeypatch
):
    made_pool(harbour, settled)
    asked = []

    def answer(text, verbs, **_):
        asked.append(text)
        return 0

    monkeypatch.setattr(harbour.asking, "choose", answer)
    choose(harbour, "s4")
    harbour.on_shelf.remove()
    assert any("part of Pool" in text for text in asked)
    project = harbour.document.project
    assert [part.sound for part in project.pools[0].parts] == ["s5", "s6"]
    assert all(sound.id != "s4" for sound in project.sounds)


def test_a_pool_is_listened_to_a_part_at_a_time_and_a_playlist_as_a_whole(harbour, settled, qtbot):
    pool = made_pool(harbour, settled)
    harbour.listening.listen(pool.id)
    qtbot.waitUntil(lambda: harbour.listening.heard is not None, timeout=20_000)
    names = {harbour.document.project.sound(sound).label for sound in ALONE}
    assert harbour.listening.came_up in names
    harbour.listening.stop()
    choose(harbour, "s4", "s5")
    harbour.making.make_playlist()
    playlist = harbour.document.project.playlists[0]
    harbour.listening.listen(playlist.id)
    qtbot.waitUntil(lambda: harbour.listening.heard is not None, timeout=20_000)
    seconds = sum(
        sound.frames / sound.rate for sound in harbour.document.project.sounds
        if sound.id in ("s4", "s5")
    )  # fmt: skip
    assert harbour.listening.length == pytest.approx(seconds, abs=0.001)
    harbour.listening.stop()


def test_kinds_of_what_is_made(harbour, settled):
    made_pool(harbour, settled)
    choose(harbour, "s4")
    harbour.making.make_playlist()
    project = harbour.document.project
    kinds = {type(made) for made in project.all_placeables()}
    assert {Pool, Playlist} <= kinds
    assert Blend not in kinds


def test_a_row_dragged_out_of_the_list_is_a_part_no_more(harbour, settled):
    made_pool(harbour, settled)
    parts = harbour.shelf.parts
    parts.table.setCurrentCell(1, 0)
    taken = []
    dropped = SimpleNamespace(
        source=lambda: parts.table, setDropAction=taken.append, accept=lambda: None
    )
    parts.dropEvent(dropped)
    assert [part.sound for part in harbour.document.project.pools[0].parts] == ["s4", "s6"]
    from_elsewhere = SimpleNamespace(source=lambda: harbour.shelf.list)
    parts.dropEvent(from_elsewhere)
    assert len(harbour.document.project.pools[0].parts) == 2
