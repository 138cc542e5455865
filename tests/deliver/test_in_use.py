"""A mixdown writes over nothing that the project or the command mentions, under whatever name."""

import os
import shutil

import pytest
from msgspec.structs import replace

from cicada.cli.main import main
from cicada.core.model import Take
from cicada.store.projectfile import load, save
from tests.sound_files import ring, write_sound


@pytest.fixture
def film(demo, tmp_path):
    """A copy of the demo whose first sound has a take, a linked sound, and a run file."""
    file = tmp_path / "film" / "harbour.cicada"
    shutil.copytree(demo.parent, file.parent)
    project = load(file)
    first, second, *others = project.sounds
    take = write_sound(file.parent / "older take.wav", ring())
    linked = write_sound(tmp_path / "elsewhere.wav", ring(seed=2))
    write_sound(tmp_path / "original.wav", ring(seed=3))
    first = replace(
        first,
        origin=str(tmp_path / "original.wav"),
        takes=(Take(name="older", file=take.name, frames=5, rate=5, channels=1),),
    )
    second = replace(second, file="../elsewhere.wav", kept="linked")
    save(replace(project, sounds=(first, second, *others)), file)
    (tmp_path / "run.wav").write_text('{"limit": 0.1}')
    assert linked.is_file()
    return file


def mentioned(film, tmp_path):
    images = load(film).scenes[1].picture[0]
    kept = next((film.parent / "harbour.sounds").iterdir())
    return {
        "the project": film,
        "a sound": kept,
        "another take": film.parent / "older take.wav",
        "a linked sound": tmp_path / "elsewhere.wav",
        "what a sound came from": tmp_path / "original.wav",
        "an image": next((film.parent / images.folder).iterdir()),
        "a new file among the images": film.parent / images.folder / "mix.wav",
        "the run": tmp_path / "run.wav",
    }


WHAT = (
    "the project", "a sound", "another take", "a linked sound", "what a sound came from",
    "an image", "a new file among the images", "the run",
)  # fmt: skip


@pytest.mark.parametrize("way", ["named", "by a link", "by another name"])
@pytest.mark.parametrize("what", WHAT)
def test_what_is_mentioned_is_never_an_output(film, tmp_path, capsys, what, way):
    target = mentioned(film, tmp_path)[what]
    output = target
    if way == "by a link":
        output = tmp_path / "link.wav"
        output.symlink_to(target)
    elif way == "by another name":
        if not target.exists():
            pytest.skip("what is not there has no other name")
        output = tmp_path / "same.wav"
        os.link(target, output)
    before = target.read_bytes() if target.exists() else None
    code = main(["render", str(film), "-o", str(output), "--run", str(tmp_path / "run.wav")])
    assert code == 2
    assert "choose another name" in capsys.readouterr().err
    assert (target.read_bytes() if target.exists() else None) == before


def test_an_earlier_mix_is_written_over(film, tmp_path):
    output = tmp_path / "mix.wav"
    for _ in range(2):
        run = ["--run", str(tmp_path / "run.wav")]
        assert main(["render", str(film), "-o", str(output), *run]) == 0
