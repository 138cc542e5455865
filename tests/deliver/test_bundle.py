"""A player bundle: what its page names is there, and nothing else is needed."""

import json
from pathlib import Path
from urllib.parse import unquote

import jsonschema
import numpy as np
import pytest
import soundfile
from msgspec.structs import replace
from PIL import Image

from cicada.core.answers import Fire, Pad
from cicada.core.model import (
    FORMAT,
    Clip,
    KeptRun,
    Layer,
    Project,
    Scene,
    Sound,
    empty_project,
)
from cicada.core.picture_parts import Images
from cicada.core.recipes import BundleRecipe, Encoding, Scope
from cicada.core.tone import InMemory
from cicada.deliver.bundle import player_script
from cicada.deliver.delivery import deliver
from cicada.deliver.earlier import Earlier
from cicada.deliver.ready import prepared
from cicada.errors import BadProject, BadSound, CannotWrite
from cicada.store.projectfile import dumps, loads

DOCS = Path(__file__).parents[2] / "docs" / "format"


class Loud:
    """A sound that goes above full scale, and one of both sides."""

    def source(self, sound, first, last, speed):
        made = np.linspace(-3, 2, round((last - first) / speed), dtype=np.float32)
        return InMemory(np.stack((made, -made)) if sound == "s1" else made[None])

    def why_silent(self, _):
        return ""


class Painted:
    """A picture of its own for each frame."""

    def height(self, _):
        return 90

    def draw(self, scene, frame, height):
        return np.full((height, 2 * height, 4), 10 * frame % 256, np.uint8)


def film(*keyframes, **fields):
    sounds = tuple(
        Sound(id=each, name=name, frames=4000, rate=8000, channels=1)
        for each, name in (("s0", "50 % #1? ü"), ("s1", "Both sides"))
    )
    layer = Layer(id="l1", keyframes=keyframes)
    scene = Scene(id="sc", length=24, layers=(layer, *fields.pop("more", ())))
    return Project(
        format=FORMAT, version=4, fps=(24, 1), rate=8000, sounds=sounds, scenes=(scene,), **fields
    )


BUNDLE = BundleRecipe(id="r", name="Page", picture=False)


def made(project, recipe, folder, **how):
    deliver(
        project, folder / "film.cicada", prepared(project, recipe), folder, Loud(),
        earlier=Earlier(folder / "earlier.json"), **how,
    )  # fmt: skip
    return json.loads((folder / "Page/film.json").read_text()), folder / "Page"


TWICE = (
    Clip(frame=0, sound="s0"), Clip(frame=5, sound="s0", trim=(0.1, 0.2), level=0.5),
    Clip(frame=9, sound="s1", speed=2.0), Clip(frame=15, sound="s0", loops=3),
)  # fmt: skip


@pytest.mark.parametrize("encoding", [
    Encoding(kind="flac"), Encoding(bits=32), Encoding(kind="vorbis"), Encoding(kind="opus"),
    Encoding(kind="mp3"), Encoding(kind="flac", mono=True), Encoding(kind="flac", rate=16000),
])  # fmt: skip
def test_each_trim_and_speed_is_a_file_of_its_own_as_the_film_says(tmp_path, encoding):
    told, folder = made(film(*TWICE), replace(BUNDLE, encoding=encoding), tmp_path)
    stretches = [(each["sound"], each["first"], each["last"], each["speed"]) for each in
                 told["sounds"]]  # fmt: skip
    assert stretches == [("s0", 0, 4000, "1.0"), ("s0", 800, 1600, "1.0"), ("s1", 0, 4000, "2.0")]
    for each in told["sounds"]:
        file = folder / unquote(each["file"])
        samples, rate = soundfile.read(file, always_2d=True)
        assert file.stat().st_size == each["bytes"]
        assert (rate, samples.shape) == (
            encoding.rate or 8000,
            (each["samples"] * rate // 8000, each["channels"]),
        )
        assert each["channels"] == (2 if each["sound"] == "s1" and not encoding.mono else 1)
    assert {path.name for path in folder.iterdir()} == {
        "index.html", "cicada-player.js", "film.json", "sounds",
    }  # fmt: skip


def test_what_goes_above_full_scale_comes_back_by_its_gain(tmp_path):
    told, folder = made(film(*TWICE), BUNDLE, tmp_path)
    each = told["sounds"][0]
    samples, _ = soundfile.read(folder / unquote(each["file"]))
    assert each["gain"] == pytest.approx(3.0, rel=0.01)
    assert samples * each["gain"] == pytest.approx(np.linspace(-3, 2, 4000), abs=2e-6)


def test_what_is_not_heard_is_not_fetched(tmp_path):
    off = Layer(id="l2", off=True, keyframes=(Clip(frame=0, sound="s1"),))
    mute = Layer(id="l3", mute=True, keyframes=(Clip(frame=0, sound="s1", speed=0.5),))
    past = (Clip(frame=0, sound="s0"), Clip(frame=24, sound="s1"), Clip(frame=3, off=True,
            sound="s1", speed=3.0))  # fmt: skip
    told, _ = made(film(*past, more=(off, mute)), BUNDLE, tmp_path)
    assert [each["sound"] for each in told["sounds"]] == ["s0"]


def test_a_film_with_nothing_in_it_is_a_page_too(tmp_path):
    told, folder = made(empty_project(""), replace(BUNDLE, picture=True), tmp_path)
    assert (told["sounds"], told["picture"], told["name"]) == ([], None, "Page")
    assert (folder / "index.html").is_file()


@pytest.mark.parametrize(("height", "size"), [(None, (180, 90)), (45, (90, 45)), (4000, (180, 90))])
def test_pictures_are_numbered_images_of_the_size_that_is_asked_for(tmp_path, demo, height, size):
    from cicada.store.projectfile import load

    project = replace(load(demo), recipes=())
    recipe = replace(
        BUNDLE, picture=True, height=height, scope=Scope(scene="sc1"), encoding=Encoding(bits=32)
    )
    told, folder = made(project, recipe, tmp_path, pictures=Painted())
    assert (told["picture"]["width"], told["picture"]["height"]) == size
    shown = told["picture"]["scenes"]
    assert list(shown) == ["sc1"]
    assert [frame for frame, _ in shown["sc1"]] == list(range(project.scenes[0].length))
    for frame, name in shown["sc1"]:
        with Image.open(folder / unquote(name)) as image:
            assert image.size == size
            assert image.getpixel((3, 3)) == pytest.approx((10 * frame % 256,) * 3, abs=4)
        if frame > 20:
            break


def test_the_run_waits_and_goes_on_as_its_recipe_says(tmp_path):
    kept = KeptRun(name="Evening", press_points="pass", passes=2)
    project = film(*TWICE, runs=(kept,))
    wanted = {
        ("wait", 1): BUNDLE,
        ("wait", 0): replace(BUNDLE, endless=True),
        ("wait", 3): replace(BUNDLE, scope=Scope(passes=3)),
        ("pass", 2): replace(BUNDLE, scope=Scope(run="Evening")),
    }
    for number, (run, recipe) in enumerate(wanted.items()):
        folder = tmp_path / str(number)
        folder.mkdir()
        told, _ = made(project, recipe, folder)
        assert (told["run"]["press_points"], told["run"]["passes"]) == run


@pytest.mark.parametrize(("fields", "what"), [
    ({"scope": Scope(tail="fold")}, "is fold"),
    ({"scope": Scope(tail="steady")}, "is steady"),
    ({"scope": Scope(scene="sc", first=2)}, "plays scenes whole"),
    ({"scope": Scope(scene="sc", last=2)}, "plays scenes whole"),
    ({"scope": Scope(passes=2), "endless": True}, "endless"),
])  # fmt: skip
def test_what_a_player_does_not_do_is_refused_on_load(fields, what):
    project = film(*TWICE, recipes=(replace(BUNDLE, **fields),))
    with pytest.raises(BadProject, match=what):
        loads(dumps(project))


@pytest.mark.parametrize("kind", ["aiff", "caf"])
def test_what_browsers_do_not_read_is_refused_beforehand(kind):
    with pytest.raises(CannotWrite, match="browsers do not read"):
        prepared(film(*TWICE), replace(BUNDLE, encoding=Encoding(kind=kind)))


def test_the_player_is_one_readable_script_that_looks_for_nothing_elsewhere():
    script = player_script()
    assert len(script.encode()) < 100_000
    assert max(map(len, script.splitlines())) < 120
    assert "http" not in script
    assert "import" not in script


def test_what_the_player_reads_is_as_its_schema_says(tmp_path, whole_demo):
    from cicada.store.projectfile import load

    project = load(whole_demo)
    project = replace(project, rate=8000)
    told, _ = made(project, replace(BUNDLE, picture=True), tmp_path, pictures=Painted())
    jsonschema.validate(told, json.loads((DOCS / "bundle.schema.json").read_text("utf-8")))


def test_more_files_than_can_be_open_are_refused_before_anything_is_written(tmp_path):
    still = Images(folder="gone")
    scene = replace(film().scenes[0], length=200_000, picture=(still,))
    project = replace(film(), fps=(240, 1), scenes=(scene,))
    with pytest.raises(CannotWrite, match="200,003 files"):
        made(project, replace(BUNDLE, picture=True), tmp_path, pictures=Painted())
    assert not list(tmp_path.iterdir())


def test_what_a_pad_fires_and_cannot_be_had_is_said_and_refused(tmp_path):
    class Gone(Loud):
        def why_silent(self, sound):
            return "is not there" if sound == "s1" else ""

    pad = Pad(id="p1", does=(Fire(sound="s1"),))
    ready = prepared(replace(film(*TWICE[:2]), pads=(pad,)), BUNDLE)

    def delivered(**how):
        return deliver(
            ready.found.project, tmp_path / "film.cicada", ready, tmp_path, Gone(),
            earlier=Earlier(tmp_path / "earlier.json"), **how,
        )  # fmt: skip

    with pytest.raises(BadSound, match="Both sides: is not there"):
        delivered()
    assert any("Both sides" in said for said in delivered(without_missing=True).said)
