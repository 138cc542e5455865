"""A decoder's process that dies or hangs costs the file that made it, and nothing else."""

import os
import time

import pytest

from cicada.errors import BadPicture
from cicada.media import picture_process
from cicada.media.composing import Composer
from cicada.media.picture_process import PictureDecoder, run_decoder
from cicada.media.pictures import write_picture
from cicada.media.wanted import FramePart, Wanted
from tests.picture_files import grey

real_image = Composer.image


def upset(composer, wanted):
    names = {part.source.stem for part in wanted.parts}
    if "deadly" in names:
        os._exit(3)
    if "endless" in names:
        time.sleep(60)
    return real_image(composer, wanted)


def run_upset_decoder(pipe):
    """Stands in for the decoder in its process."""
    Composer.image = upset
    run_decoder(pipe)


@pytest.fixture
def decoder(monkeypatch):
    monkeypatch.setattr(picture_process, "run_decoder", run_upset_decoder)
    made = PictureDecoder(patience=8.0)
    yield made
    made.close()


def parts(tmp_path, *names):
    for name in names:
        write_picture(grey(4), tmp_path / f"{name}.png")
    return tuple(FramePart("still", tmp_path / f"{name}.png") for name in names)


@pytest.mark.parametrize(("name", "word"), [("deadly", "die"), ("endless", "too long")])
def test_the_file_that_upsets_it_is_named_once_and_the_others_go_on(decoder, tmp_path, name, word):
    bad, good = parts(tmp_path, name, "plain")
    with pytest.raises(BadPicture, match=f"{name}.*{word}"):
        decoder.compose(Wanted(bad, (bad,), 36))
    assert decoder.compose(Wanted(good, (good,), 36)).height == 36
    began = time.monotonic()
    with pytest.raises(BadPicture, match=name):
        decoder.compose(Wanted(bad, (bad,), 36))
    assert time.monotonic() - began < 1


def test_one_of_several_parts_is_found_and_left_out(decoder, tmp_path):
    bad, good, other = parts(tmp_path, "deadly", "plain", "other")
    found = decoder.compose(Wanted(good, (good, bad, other), 36))
    assert (found.width, found.height, len(found.pixels)) == (64, 36, 64 * 36 * 4)
    assert ["deadly" in str(wrong) for wrong in found.wrong] == [True]


def test_giving_up_ends_what_is_waited_for(decoder, tmp_path):
    (bad,) = parts(tmp_path, "endless")
    decoder.give_up()
    began = time.monotonic()
    with pytest.raises(BadPicture):
        decoder.compose(Wanted(bad, (bad,), 36))
    assert time.monotonic() - began < 2
