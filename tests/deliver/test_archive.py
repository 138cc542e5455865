"""Projects handed over in one file: whole when they are honest, and nothing at all when not."""

import random
import stat
import zipfile

import pytest
from msgspec.structs import replace

from cicada.core.model import empty_project
from cicada.core.picture_parts import Images, Still
from cicada.core.planner import plan
from cicada.deliver.packing import pack
from cicada.deliver.unpacking import unpack
from cicada.disk.writing import sweep
from cicada.errors import Cancelled, CannotWrite, CicadaError
from cicada.media.ingest import content_hash
from cicada.store.projectfile import dumps, load, save
from cicada.store.sounds_folder import sound_files
from tests.sound_files import ring, write_sound


def everything(folder):
    return sorted(str(path.relative_to(folder)) for path in folder.rglob("*"))


def test_the_demo_comes_out_as_it_went_in(whole_demo, tmp_path):
    packed = pack(load(whole_demo), whole_demo, tmp_path / "film.zip")
    assert not packed.missing
    with zipfile.ZipFile(tmp_path / "film.zip") as archive:
        assert archive.testzip() is None
        assert {entry.compress_type for entry in archive.infolist()} == {zipfile.ZIP_STORED}
        assert str(whole_demo.parent) not in str(archive.read("harbour.cicada"))
    opened = unpack(tmp_path / "film.zip", tmp_path)
    before, after = load(whole_demo), load(opened)
    assert plan(after) == plan(before)
    for sound, path in sound_files(after, opened).items():
        assert content_hash(path) == before.sound(sound).hash
    again = pack(after, opened, tmp_path / "again.zip")
    assert again.files == packed.files
    assert (tmp_path / "again.zip").read_bytes() == (tmp_path / "film.zip").read_bytes()


def film_with(folder, **sound):
    (folder / "own").mkdir()
    file = folder / "own/film.cicada"
    project = empty_project("film")
    project = replace(project, sounds=(SOUND(**sound),)) if sound else project
    save(project, file)
    return project, file


def SOUND(**fields):
    from cicada.core.model import Sound

    return Sound(id="s1", name="Bell", frames=48000, rate=48000, channels=1, **fields)


def test_what_was_linked_is_kept_inside_and_where_it_stood_is_nobodys_business(tmp_path):
    bell = write_sound(tmp_path / "my bell.wav", ring())
    project, file = film_with(tmp_path, file=str(bell), kept="linked", origin=str(bell))
    pack(project, file, tmp_path / "film.zip")
    bell.unlink()
    (tmp_path / "there").mkdir()
    opened = unpack(tmp_path / "film.zip", tmp_path / "there")
    (sound,) = load(opened).sounds
    assert (sound.kept, sound.origin) == ("inside", "my bell.wav")
    assert (opened.parent / sound.file).is_file()
    assert str(tmp_path) not in opened.read_text()
    assert "my bell.wav" in (opened.parent / "sounds.txt").read_text()


def test_what_is_missing_is_said_and_the_rest_packed(tmp_path):
    project, file = film_with(tmp_path, file="gone.wav", kept="linked")
    scene = replace(project.scenes[0], picture=(Still(file="gone.png"), Images(folder="none")))
    project = replace(project, scenes=(scene,))
    packed = pack(project, file, tmp_path / "film.zip")
    assert packed.missing == ("Bell", "gone.png", "none")
    assert load(unpack(tmp_path / "film.zip", tmp_path)).scenes[0].picture


def test_a_folder_of_thousands_of_images_passes_with_any_names(tmp_path):
    project, file = film_with(tmp_path)
    images = tmp_path / "images"
    images.mkdir()
    for number in range(2000):
        (images / f"frame {number:05}.png").write_bytes(b"png%d" % number)
    (images / "frame: 02000.png").write_bytes(b"odd")
    (images / "letter.txt").write_text("none of the picture")
    scene = replace(project.scenes[0], picture=(Images(folder=str(images)),))
    pack(replace(project, scenes=(scene,)), file, tmp_path / "film.zip")
    opened = unpack(tmp_path / "film.zip", tmp_path)
    (part,) = load(opened).scenes[0].picture
    assert len(list((opened.parent / part.folder).iterdir())) == 2001
    assert (opened.parent / part.folder / "frame- 02000.png").read_bytes() == b"odd"


@pytest.mark.parametrize("share", [0.0, 0.5])
def test_what_is_stopped_leaves_nothing(whole_demo, tmp_path, share):
    with pytest.raises(Cancelled):
        pack(load(whole_demo), whole_demo, tmp_path / "film.zip", lambda done: done < share)
    assert not everything(tmp_path)
    pack(load(whole_demo), whole_demo, tmp_path / "film.zip")
    with pytest.raises(Cancelled):
        unpack(tmp_path / "film.zip", tmp_path, lambda done: done < share)
    assert everything(tmp_path) == ["film.zip"]


def test_what_a_process_that_is_gone_was_unpacking_is_swept(tmp_path):
    half = tmp_path / ".999999999-0a1b2c3d.part"
    (half / "film.sounds").mkdir(parents=True)
    (half / "film.sounds/a.wav").touch()
    (tmp_path / "film.zip").touch()
    sweep(tmp_path)
    assert everything(tmp_path) == ["film.zip"]


# -- archives that mean harm ---------------------------------------------------------------------

PROJECT = dumps(replace(
    empty_project("film"), sounds=(SOUND(file="film.sounds/a.wav"), ),
    scenes=(replace(empty_project("x").scenes[0], picture=(Images(folder="film.pictures/1"),)),),
))  # fmt: skip


def entry(name, data=b"x", mode=stat.S_IFREG | 0o644, method=zipfile.ZIP_STORED):
    info = zipfile.ZipInfo(name)
    info.external_attr = mode << 16
    info.compress_type = method
    return info, data


HONEST = [entry("film.cicada", PROJECT), entry("film.sounds/a.wav", b"sound")]
HOSTILE = {
    "a path out": [entry("../out.wav")],
    "a path from the root": [entry("/out.wav")],
    "a path out on the way": [entry("film.sounds/../../out.wav")],
    "a path of another system": [entry("..\\out.wav")],
    "a drive": [entry("C:out.wav")],
    "a link": [entry("film.pictures/1/a.png", b"/etc", stat.S_IFLNK | 0o777)],
    "a device": [entry("film.pictures/1/a.png", b"", stat.S_IFCHR | 0o666)],
    "a pipe": [entry("film.pictures/1/a.png", b"", stat.S_IFIFO | 0o666)],
    "a folder": [entry("film.pictures/1/", b"", stat.S_IFDIR | 0o755)],
    "a bomb": [entry("film.pictures/1/a.png", b"0" * 10_000_000, method=zipfile.ZIP_DEFLATED)],
    "a name twice": [entry("film.sounds/a.wav", b"other")],
    "names alike": [entry("film.sounds/A.WAV", b"other")],
    "names alike by their letters": [
        entry("film.pictures/1/é.png"), entry("film.pictures/1/é.png"),
    ],
    "a file as a folder": [entry("film.sounds/a.wav/b.png")],
    "what the project does not name": [entry("film.sounds/b.wav")],
    "what runs by itself": [entry("film.desktop", b"[Desktop Entry]")],
    "deeper than it names": [entry("film.pictures/1/deep/a.png")],
    "a hidden file": [entry(".bashrc")],
    "a name that steers a terminal": [entry("film.pictures/1/\x1b[31m.png")],
    "a name too long": [entry(f"film.pictures/1/{'a' * 300}.png")],
    "two projects": [entry("other.cicada", PROJECT)],
}  # fmt: skip


def written(path, entries):
    with zipfile.ZipFile(path, "w") as archive:
        for info, data in entries:
            archive.writestr(info, data)
    return path


def refused(path, folder):
    """What is said of an archive; nothing has come out of it."""
    folder.mkdir(exist_ok=True)
    around = everything(folder.parent)
    with pytest.raises(CicadaError) as caught:
        unpack(path, folder)
    assert everything(folder.parent) == around
    assert "\n" not in str(caught.value)
    return str(caught.value)


@pytest.mark.filterwarnings("ignore:Duplicate name")
@pytest.mark.parametrize("what", HOSTILE)
def test_a_hostile_archive_is_refused_and_nothing_comes_out(what, tmp_path):
    path = written(tmp_path / "film.zip", [*HONEST, *HOSTILE[what]])
    assert "film.zip" in refused(path, tmp_path / "in")


def test_without_what_is_wrong_it_comes_out(tmp_path):
    opened = unpack(written(tmp_path / "film.zip", HONEST), tmp_path)
    assert everything(opened.parent) == ["film.cicada", "film.sounds", "film.sounds/a.wav"]


def test_a_zip_without_a_project_or_with_a_broken_one_is_refused(tmp_path):
    assert "no project" in refused(written(tmp_path / "a.zip", HONEST[1:]), tmp_path / "in")
    broken = written(tmp_path / "b.zip", [entry("film.cicada", b"{")])
    assert "JSON" in refused(broken, tmp_path / "in")


def test_an_encrypted_entry_is_refused(tmp_path):
    path = written(tmp_path / "film.zip", HONEST)
    data = bytearray(path.read_bytes())
    for magic, flags in ((b"PK\x03\x04", 6), (b"PK\x01\x02", 8)):
        data[data.rindex(magic) + flags] |= 1
    path.write_bytes(data)
    assert "encrypted" in refused(path, tmp_path / "in")


def test_entries_that_share_their_bytes_are_refused(tmp_path):
    path = written(tmp_path / "film.zip", [*HONEST, entry("film.pictures/1/a.png", b"0" * 60_000)])
    with zipfile.ZipFile(path, "a") as archive:
        one = archive.getinfo("film.pictures/1/a.png")
        for number in range(40):
            shared = zipfile.ZipInfo(f"film.pictures/1/b{number}.png")
            shared.file_size = shared.compress_size = one.file_size
            shared.header_offset, shared.CRC = one.header_offset, one.CRC
            shared.external_attr = one.external_attr
            archive.filelist.append(shared)
            archive.NameToInfo[shared.filename] = shared
        archive._didModify = True
    assert "larger than it is" in refused(path, tmp_path / "in")


def test_a_damaged_archive_is_refused_wherever_it_is_damaged(tmp_path):
    path = written(tmp_path / "film.zip", HONEST)
    whole, r = path.read_bytes(), random.Random(5)
    for number in range(400):
        data = bytearray(whole)
        if number % 4 == 0:
            data = data[: r.randrange(len(data))]
        for _ in range(r.randrange(1, 4)):
            if data:
                data[r.randrange(len(data))] = r.randrange(256)
        path.write_bytes(data)
        folder = tmp_path / f"in{number}"
        folder.mkdir()
        try:
            unpack(path, folder)
        except CicadaError:
            assert not everything(folder)
        assert {each.split("/")[0] for each in everything(folder)} <= {"film"}
    assert not [path for path in tmp_path.iterdir() if path.suffix == ".part"]


def test_what_is_there_already_stays(tmp_path):
    path = written(tmp_path / "film.zip", HONEST)
    (tmp_path / "film").mkdir()
    with pytest.raises(CannotWrite, match="already"):
        unpack(path, tmp_path)
    assert not everything(tmp_path / "film")
