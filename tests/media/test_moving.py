"""Videos and animated images at any moment, and what becomes of files that are none."""

import random
from contextlib import suppress
from fractions import Fraction

import numpy as np
import pytest
from PySide6.QtCore import QSize
from PySide6.QtGui import QImage

from cicada.errors import BadPicture
from cicada.media.composing import Composer
from cicada.media.moving import open_moving
from cicada.media.pictures import read_picture, write_picture
from cicada.media.wanted import FramePart, Wanted
from tests.picture_files import CODERS, grey, number_of, write_moving
from tests.sound_files import write_container

FIT = QSize(640, 360)
MOTH = '<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 160 90">{}</svg>'


def along(moving, order):
    return [number_of(moving.at(Fraction(k, 24), FIT)) for k in order]


@pytest.mark.parametrize("suffix", CODERS)
def test_every_kind_shows_the_picture_due_whatever_the_order_it_is_asked_in(suffix, tmp_path):
    moving = open_moving(write_moving(tmp_path / f"a{suffix}"))
    assert moving.info[:2] == (64, 36)
    assert moving.info.seconds == pytest.approx(10 / 12, abs=0.05)
    exact = suffix not in (".gif", ".webp")  # these count hundredths and thousandths
    orders = [range(20), range(19, -1, -1), random.Random(1).sample(range(20), 20)]
    for order in orders if exact else [range(1, 20, 2), range(19, 0, -2)]:
        assert along(moving, order) == [k // 2 for k in order]
    moving.close()


def test_after_its_end_the_last_picture_stays(tmp_path):
    moving = open_moving(write_moving(tmp_path / "a.mp4"))
    assert along(moving, [40, 4000, 3]) == [9, 9, 1]


def test_a_long_way_is_gone_by_seeking_and_back_again(tmp_path):
    path = write_moving(tmp_path / "a.mp4", fps=1, count=10, g=3)
    moving = open_moving(path)
    seen = [number_of(moving.at(Fraction(second), FIT)) for second in (0, 9, 1, 7, 6, 5, 8, 0)]
    assert seen == [0, 9, 1, 7, 6, 5, 8, 0]


def test_a_turned_and_squeezed_video_is_shown_as_it_is_meant(tmp_path):
    import av

    path = tmp_path / "a.mp4"
    with av.open(str(path), "w") as file:
        track = file.add_stream("libx264", rate=24)
        track.width, track.height, track.pix_fmt = 64, 36, "yuv444p"
        track.codec_context.sample_aspect_ratio = Fraction(2)
        for _ in range(3):
            file.mux(track.encode(av.VideoFrame.from_ndarray(grey(3), "rgb24")))
        file.mux(track.encode())
    moving = open_moving(path)
    image = moving.at(Fraction(0), FIT)
    assert (moving.info.width, image.width(), image.height()) == (128, 128, 36)


@pytest.mark.parametrize("suffix", [".mp4", ".webm", ".gif", ".apng", ".webp"])
@pytest.mark.parametrize("kept", [0.0, 0.02, 0.5, 0.9])
def test_a_file_cut_short_is_one_sentence_or_shows_what_is_there(suffix, kept, tmp_path):
    path = write_moving(tmp_path / f"a{suffix}")
    whole = path.read_bytes()
    path.write_bytes(whole[: int(len(whole) * kept)])
    composer = Composer()
    part = FramePart("video", path, moment=Fraction(1, 2))
    with suppress(BadPicture):
        assert composer.image(Wanted(part, (part,), 36))[0].height() == 36


@pytest.mark.parametrize("name", ["words.mp4", "words.png", "words.svg", "nothing.gif"])
def test_what_is_no_picture_is_refused_with_its_name(name, tmp_path):
    path = tmp_path / name
    if name.startswith("words"):
        path.write_text("no picture at all")
    with pytest.raises(BadPicture, match=name):
        Composer().look_at(path)


def test_a_file_of_sound_alone_has_no_picture(tmp_path):
    path = write_container(tmp_path / "a.mp4", np.zeros(48000, np.float32))
    with pytest.raises(BadPicture, match="no moving picture"):
        Composer().look_at(path)


def test_a_list_of_addresses_is_not_followed(tmp_path):
    path = tmp_path / "a.mp4"
    path.write_text("#EXTM3U\n#EXT-X-TARGETDURATION:5\n#EXTINF:5,\nhttp://localhost:1/a.ts\n")
    with pytest.raises(BadPicture):
        Composer().look_at(path)


def test_what_a_file_is_goes_by_its_content(tmp_path):
    write_moving(tmp_path / "a.apng")
    moving = (tmp_path / "a.apng").rename(tmp_path / "a.png")
    write_picture(grey(2), tmp_path / "b.png")
    (tmp_path / "c.svg").write_text(MOTH.format(""))
    composer = Composer()
    assert [composer.look_at(p).kind for p in (moving, tmp_path / "b.png", tmp_path / "c.svg")] == [
        "video", "still", "still",
    ]  # fmt: skip
    assert composer.look_at(tmp_path / "c.svg")[1:3] == (160, 90)


# -- putting together ----------------------------------------------------------------------------


def still(tmp_path, number, name="a", size=(64, 36)):
    path = tmp_path / f"{name}{number}.png"
    write_picture(grey(number, size), path)
    return FramePart("still", path)


def test_parts_cover_each_other_in_order_and_as_much_as_they_are_there(tmp_path):
    low, high = still(tmp_path, 0), still(tmp_path, 8)
    half = high._replace(opacity=0.5)
    composer = Composer()
    images = [composer.image(Wanted(low, (low, top), 36))[0] for top in (high, half)]
    assert [number_of(image) for image in images] == [8, 4]


def test_a_part_stands_where_it_is_put_and_the_lowest_gives_the_proportions(tmp_path):
    low, high = still(tmp_path, 1), still(tmp_path, 9, size=(30, 30))
    wanted = Wanted(low, (low, high._replace(place=(0.25, 0.5, 0.5))), 180)
    image, _ = Composer().image(wanted)
    assert (image.width(), image.height()) == (320, 180)
    lit = [x for x in range(320) if image.pixelColor(x, 90).red() > 150]
    assert (lit[0], lit[-1]) == (35, 124)


def test_a_drawing_is_sharp_at_any_size(tmp_path):
    path = tmp_path / "edge.svg"
    path.write_text(MOTH.format('<rect x="80" width="80" height="90" fill="white"/>'))
    large = FramePart("still", path, place=(0.5, 0.5, 1.0), largest=4.0)
    image, _ = Composer().image(Wanted(large, (large._replace(place=(0.5, 0.5, 4.0)),), 1080))
    row = [image.pixelColor(x, 540).red() for x in range(image.width())]
    assert sum(3 < value < 252 for value in row) <= 2


def test_a_part_that_is_missing_is_said_and_the_others_are_shown(tmp_path):
    low, gone = still(tmp_path, 5), FramePart("still", tmp_path / "gone.png")
    image, wrong = Composer().image(Wanted(low, (low, gone), 36))
    assert number_of(image) == 5
    assert "gone.png" in str(wrong[0])


def test_a_file_exported_again_is_read_again_when_asked(tmp_path):
    part, composer = still(tmp_path, 2), Composer()
    assert number_of(composer.image(Wanted(part, (part,), 36))[0]) == 2
    write_picture(grey(7), part.source)
    composer.forget()
    assert number_of(composer.image(Wanted(part, (part,), 36))[0]) == 7


def test_a_turned_photograph_stands_upright(tmp_path):
    image = QImage(40, 20, QImage.Format.Format_RGB32)
    image.fill(0)
    path = tmp_path / "a.jpg"
    image.save(str(path))
    data = path.read_bytes()
    turned = bytes.fromhex("ffe1002245786966000049492a00080000000100120103000100000006000000")
    path.write_bytes(data[:2] + turned + bytes(4) + data[2:])
    assert Composer().look_at(path)[1:3] == (20, 40)
    assert read_picture(path, QSize(20, 20)).size() == QSize(10, 20)
