"""Folders of numbered images."""

import numpy as np
import pytest

from cicada.errors import BadPicture
from cicada.media.picture_names import numbered_images
from cicada.media.pictures import read_picture, write_picture

GREY = np.full((9, 16, 3), 120, np.uint8)


def test_images_come_in_the_order_of_their_numbers(tmp_path):
    for name in ("a10.png", "a9.png", "a11.png", "notes.txt"):
        write_picture(GREY, tmp_path / name) if name.endswith("png") else (
            tmp_path / name
        ).write_text("no picture")
    assert [path.name for path in numbered_images(tmp_path)] == ["a9.png", "a10.png", "a11.png"]


@pytest.mark.parametrize(
    ("names", "word"),
    [
        (["a1.png", "a3.png"], "number 2 is missing"),
        ([], "no numbered"),
        (["a1.png", "b1.png"], "same"),
    ],
)
def test_a_folder_that_is_no_picture_is_refused_with_the_reason(names, word, tmp_path):
    for name in names:
        write_picture(GREY, tmp_path / name)
    with pytest.raises(BadPicture, match=word):
        numbered_images(tmp_path)


def test_a_broken_image_is_refused(tmp_path):
    (tmp_path / "a1.png").write_bytes(b"\x89PNG broken")
    with pytest.raises(BadPicture, match="cannot be shown"):
        read_picture(tmp_path / "a1.png")
