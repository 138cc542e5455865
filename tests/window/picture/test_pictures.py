"""The picture in the real window: bringing in every kind, laying out stills, moving their ends."""

from pathlib import Path

import numpy as np
import pytest
from PySide6.QtCore import QMimeData, QPoint, QPointF, Qt, QUrl
from PySide6.QtGui import QDropEvent

from cicada.core.model import empty_project
from cicada.core.picture_parts import Images, Still, Video
from cicada.core.stack import ends
from cicada.media.pictures import write_picture
from cicada.window.drawing.layout import RULER
from tests.picture_files import CODERS, grey, number_of, write_moving
from tests.sound_files import write_container

LEFT = Qt.MouseButton.LeftButton
STRIP = RULER + 18


def drop(target, paths, at=None):
    data = QMimeData()
    data.setUrls([QUrl.fromLocalFile(str(path)) for path in paths])
    action, buttons = Qt.DropAction.CopyAction, Qt.MouseButton.LeftButton
    point = QPointF(at or QPoint(20, 20))
    event = QDropEvent(point, action, data, buttons, Qt.KeyboardModifier.NoModifier)
    target.dropEvent(event)


def stills(tmp_path, *numbers):
    paths = [tmp_path / f"board {number}.png" for number in numbers]
    for number, path in zip(numbers, paths, strict=True):
        write_picture(grey(number), path)
    return paths


def shown(window, settled, frame):
    """The number of the grey in the picture on a frame."""
    window.session.move_playhead(frame)
    settled(window)
    image = window.picture.grab().toImage()
    return None if window.picture._image.isNull() else number_of(image)


def parts(window):
    return window.session.scene.picture


@pytest.fixture
def bare(window, settled):
    """The window with a film of 240 frames and no picture."""
    window.document.new(empty_project("Film"))
    settled(window)
    return window


# -- bringing in ---------------------------------------------------------------------------------


@pytest.mark.parametrize("suffix", CODERS)
def test_a_video_or_animation_dropped_on_the_picture_plays_at_its_own_pace(
    suffix, bare, settled, tmp_path
):
    drop(bare.picture, [write_moving(tmp_path / f"a{suffix}")])
    settled(bare)
    (part,) = parts(bare)
    assert part.repeat == (suffix in (".gif", ".apng", ".webp"))
    seen = [shown(bare, settled, frame) for frame in (1, 7, 15, 3, 239)]
    assert seen[:4] == [0, 3, 7, 1]
    assert seen[4] == 9 or part.repeat


def test_a_folder_of_numbered_images_in_every_format_is_one_a_frame(bare, settled, tmp_path):
    (tmp_path / "shot").mkdir()
    for number, suffix in enumerate(("png", "jpg", "webp", "tif", "png")):
        write_picture(grey(number), tmp_path / "shot" / f"s{number:03}.{suffix}")
    drop(bare.picture, [tmp_path / "shot"])
    settled(bare)
    assert isinstance(parts(bare)[0], Images)
    assert [shown(bare, settled, frame) for frame in (0, 1, 2, 3, 4, 100)] == [0, 1, 2, 3, 4, 4]


def test_a_drawing_stands_over_a_video_from_the_playhead_on(bare, settled, tmp_path):
    drop(bare.picture, [write_moving(tmp_path / "a.mp4")])
    settled(bare)
    bare.session.move_playhead(30)
    svg = '<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 16 9"><rect width="16" height="9"/>'
    (tmp_path / "black.svg").write_text(svg + "</svg>")
    drop(bare.picture, [tmp_path / "black.svg"])
    settled(bare)
    assert [shown(bare, settled, frame) for frame in (29, 30)] == [9, None]
    assert [type(part) for part in parts(bare)] == [Video, Still]


def test_a_films_own_sound_comes_onto_the_shelf(bare, settled, qtbot, tmp_path):
    tone = np.sin(np.arange(48000) / 20).astype(np.float32) / 3
    drop(bare.picture, [write_container(tmp_path / "ferry.mov", tone, picture=True)])
    qtbot.waitUntil(lambda: len(bare.document.project.sounds) == 1, timeout=30_000)
    settled(bare)
    assert isinstance(parts(bare)[0], Video)
    assert bare.document.project.sounds[0].name == "Ferry"
    bare.menus.actions["picture_sound"].trigger()
    settled(bare)
    assert len(bare.document.project.sounds) == 1


@pytest.mark.parametrize("name", ["broken.mp4", "broken.png", "broken.gif"])
def test_a_broken_file_is_one_sentence_and_no_part(bare, qtbot, told, tmp_path, name):
    (tmp_path / name).write_bytes(b"\x00\x01broken" * 50)
    drop(bare.picture, [tmp_path / name])
    qtbot.waitUntil(lambda: bool(told), timeout=20_000)
    assert name in told[0]
    assert parts(bare) == ()


# -- an animatic from stills -----------------------------------------------------------------------


def test_stills_dropped_on_the_strip_share_the_frames_from_there_on(bare, settled, tmp_path):
    at = QPoint(round(bare.sheet.place.frame_x(40)) + 1, STRIP)
    paths = stills(tmp_path, 2, 5, 8)
    data = QMimeData()
    data.setUrls([QUrl.fromLocalFile(str(path)) for path in paths])
    drag(bare.sheet, data, at)
    settled(bare)
    spans = [(p.start, ends(p, 240)) for p in parts(bare)]
    assert spans == [(40, 106), (106, 173), (173, 240)]
    assert [shown(bare, settled, frame) for frame in (39, 40, 106, 239)] == [None, 2, 5, 8]


def drag(sheet, data, at):
    from PySide6.QtGui import QDragEnterEvent

    action, none = Qt.DropAction.CopyAction, Qt.KeyboardModifier.NoModifier
    sheet.dragEnterEvent(QDragEnterEvent(at, action, data, LEFT, none))
    sheet.dropEvent(QDropEvent(QPointF(at), action, data, LEFT, none))


def test_where_one_still_follows_another_is_dragged_on_the_strip_and_undone(
    bare, settled, qtbot, tmp_path
):
    drop(bare.picture, stills(tmp_path, 2, 5))
    settled(bare)
    assert [p.start for p in parts(bare)] == [0, 120]
    port, place = bare.sheet.viewport(), bare.sheet.place
    start, end = (QPoint(round(place.frame_x(frame)), STRIP) for frame in (120, 150))
    qtbot.mousePress(port, LEFT, pos=start)
    qtbot.mouseMove(port, end)
    qtbot.mouseRelease(port, LEFT, pos=end)
    settled(bare)
    assert [(p.start, ends(p, 240)) for p in parts(bare)] == [(0, 150), (150, 240)]
    assert shown(bare, settled, 130) == 2
    bare.document.undo()
    assert [p.start for p in parts(bare)] == [0, 120]


def test_more_stills_than_frames_are_refused_in_words(bare, settled, qtbot, told, tmp_path):
    bare.adding.add(stills(tmp_path, 1, 2, 3), 238)
    qtbot.waitUntil(lambda: bool(told), timeout=20_000)
    assert "only 2 frames" in told[0]
    assert parts(bare) == ()


# -- what the picture is made of -------------------------------------------------------------------


def type_into(qtbot, field, text):
    field.setFocus()
    field.selectAll()
    qtbot.keyClicks(field, text)
    qtbot.keyClick(field, Qt.Key.Key_Return)


def test_every_setting_of_a_part_is_typed_in_the_panel(bare, settled, qtbot, tmp_path):
    drop(bare.picture, [write_moving(tmp_path / "a.gif")])
    settled(bare)
    qtbot.keyClick(bare.sheet, Qt.Key.Key_7, Qt.KeyboardModifier.ControlModifier)
    panel = bare.on_picture.panel
    assert panel.isVisible()
    for name, text in (
        ("from", "11"), ("to", "60"), ("dissolve_in", "6"), ("dissolve_out", "8"), ("skip", "2"),
        ("place.x", "40 %"), ("place.size", "50"),
    ):  # fmt: skip
        type_into(qtbot, panel.fields[name], text)
    qtbot.mouseClick(panel.repeats, LEFT)
    qtbot.mouseClick(panel.moves, LEFT)
    type_into(qtbot, panel.fields["moves_to.y"], "25")
    (part,) = parts(bare)
    assert (part.start, part.shown, part.dissolve_in, part.dissolve_out) == (10, 50, 6, 8)
    assert (part.skip, part.repeat) == (2, False)
    assert (part.place, part.moves_to) == ((0.4, 0.5, 0.5), (0.75, 0.25, 1.0))
    type_into(qtbot, panel.fields["to"], "500")
    assert parts(bare)[0].shown is None


def test_parts_are_put_higher_and_lower_and_taken_out(bare, settled, qtbot, tmp_path):
    for path in stills(tmp_path, 2, 8):
        bare.adding.add([path], 0)
        settled(bare)
    bare.on_picture.show_parts()
    assert shown(bare, settled, 0) == 8
    bare.on_picture.panel.list.setCurrentRow(0)
    qtbot.mouseClick(bare.on_picture.panel.buttons["Down"], LEFT)
    assert shown(bare, settled, 0) == 2
    qtbot.mouseClick(bare.on_picture.panel.buttons["Remove"], LEFT)
    assert [Path(part.file).name for part in parts(bare)] == ["board 2.png"]


def test_a_part_is_moved_and_sized_in_the_picture(bare, settled, qtbot, tmp_path):
    drop(bare.picture, stills(tmp_path, 4))
    settled(bare)
    bare.on_picture.show_parts()
    settled(bare)
    view = bare.picture
    box = view._box()
    middle, aside = box.center().toPoint(), QPoint(round(box.width() * 0.1), 0)
    qtbot.mousePress(view, LEFT, pos=middle)
    qtbot.mouseMove(view, middle + aside)
    qtbot.mouseRelease(view, LEFT, pos=middle + aside)
    assert parts(bare)[0].place == pytest.approx((0.6, 0.5, 1.0), abs=0.01)
    bare.document.undo()
    corner = box.topLeft().toPoint() + QPoint(2, 2)
    qtbot.mousePress(view, LEFT, pos=corner)
    qtbot.mouseMove(view, (corner + middle) / 2)
    qtbot.mouseRelease(view, LEFT, pos=(corner + middle) / 2)
    assert parts(bare)[0].place == pytest.approx((0.5, 0.5, 0.5), abs=0.02)
    bare.on_picture.show_parts()
    assert view.outline.part is None


def test_a_part_becomes_another_file_with_its_frames_kept(bare, settled, tmp_path):
    first, second = stills(tmp_path, 2, 7)
    bare.adding.add([first], 30)
    settled(bare)
    bare.adding.exchange(0, second)
    settled(bare)
    assert parts(bare)[0].start == 30
    assert shown(bare, settled, 30) == 7


def test_a_file_of_another_kind_is_not_exchanged(bare, settled, qtbot, told, tmp_path):
    bare.adding.add(stills(tmp_path, 2), 0)
    settled(bare)
    before = parts(bare)
    bare.adding.exchange(0, write_moving(tmp_path / "a.mp4"))
    qtbot.waitUntil(lambda: bool(told), timeout=20_000)
    assert "not of the kind" in told[0]
    assert parts(bare) == before


# -- files ---------------------------------------------------------------------------------------


def test_a_picture_is_found_again_after_saving_elsewhere_and_reopening(bare, settled, tmp_path):
    drop(bare.picture, [write_moving(tmp_path / "a.mp4")])
    settled(bare)
    (tmp_path / "far" / "away").mkdir(parents=True)
    file = tmp_path / "far" / "away" / "film.cicada"
    bare.document.save(file)
    assert parts(bare)[0].file == "../../a.mp4"
    bare.files.open_file(file)
    settled(bare)
    assert shown(bare, settled, 7) == 3


def test_a_missing_file_is_named_and_seen_again_when_it_is_back(bare, settled, tmp_path):
    (path,) = stills(tmp_path, 6)
    drop(bare.picture, [path])
    settled(bare)
    path.rename(tmp_path / "elsewhere.png")
    bare.menus.actions["look_again"].trigger()
    assert shown(bare, settled, 0) is None
    (tmp_path / "elsewhere.png").rename(path)
    bare.menus.actions["look_again"].trigger()
    assert shown(bare, settled, 0) == 6


def test_the_picture_window_shows_the_same_frame_and_fills_the_screen(bare, settled, tmp_path):
    drop(bare.picture, [write_moving(tmp_path / "a.mp4")])
    settled(bare)
    bare.on_picture.show_window()
    own = bare.on_picture.own
    bare.session.move_playhead(9)
    settled(bare)
    assert (own.view.shown_frame, number_of(own.view.grab().toImage())) == (9, 4)
    bare.on_picture.fill_screen()
    assert own.isFullScreen()
    bare.on_picture.show_window()


def test_close_up_every_frame_has_its_own_picture_on_the_strip(bare, settled, tmp_path):
    drop(bare.picture, [write_moving(tmp_path / "a.mp4", fps=24)])
    settled(bare)
    bare.sheet.show_places(0, 5)
    bare.sheet.viewport().grab()  # what is painted is asked for
    settled(bare)
    image = bare.sheet.viewport().grab().toImage()
    places = [QPoint(round(bare.sheet.place.frame_x(frame)) + 10, STRIP) for frame in range(5)]
    assert [round((image.pixelColor(p).red() - 8) / 24) for p in places] == [0, 1, 2, 3, 4]


def test_the_picture_stands_over_the_sheet_below_its_rulers_and_is_there_again_next_time(
    bare, settled, qtbot, tmp_path
):
    drop(bare.picture, [write_moving(tmp_path / "a.mp4")])
    settled(bare)
    qtbot.keyClick(bare.sheet, Qt.Key.Key_8, Qt.KeyboardModifier.ControlModifier)
    large = bare.on_picture.over_sheet
    place = QPoint(round(bare.sheet.place.frame_x(9)) + 1, RULER // 2)
    qtbot.mouseClick(bare.sheet.viewport(), LEFT, pos=place)
    settled(bare)
    assert bare.session.playhead == 9
    assert large.isVisible()
    assert number_of(large.grab().toImage()) == 4
    assert large.geometry().top() > RULER
    bare.resize(1400, 900)
    assert large.width() == bare.upper.width()
    assert bare.settings.value("picture/over_sheet") in (True, "true")
    qtbot.keyClick(bare.sheet, Qt.Key.Key_8, Qt.KeyboardModifier.ControlModifier)
    assert not large.isVisible()
