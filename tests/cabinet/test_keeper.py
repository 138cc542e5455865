"""The index is what is in the folders, whatever was done to them; nothing is written there."""

import os
import shutil
import time
from pathlib import Path
from random import Random

import numpy as np
import pytest
import soundfile

from cicada.cabinet.catalogue import Catalogue
from cicada.cabinet.index import BROKEN, MEASURED, BadIndex, Content, Index, Own, news_of, opened
from cicada.cabinet.keeper import Keeper
from cicada.cabinet.measuring import measured
from cicada.cabinet.messages import AddFolder, Pause, RemoveFolder, Say
from cicada.cabinet.process import KeeperProcess
from cicada.media.ingest import content_hash
from cicada.media.measures import loudness
from cicada.store.importing import is_sound_name
from tests.sound_files import ring, write_sound


class Kept:
    """A keeper in this process, with a clock of its own."""

    def __init__(self, folder):
        self.file, self.now, self.said = folder / "cabinet.sqlite", 100.0, []
        self.index = Index(self.file)
        self.keeper = Keeper(self.index, self.said.append, lambda: self.now)
        self.catalogue = Catalogue()

    def settle(self):
        self.now += 2.0
        while self.keeper.step():
            self.now += 0.1
        self.catalogue.take(news_of(self.file, self.catalogue.stamp))

    def rows(self):
        return {row.file.place: row for row in self.catalogue.find("")}


@pytest.fixture
def sounds(tmp_path):
    folder = tmp_path / "sounds"
    folder.mkdir()
    return folder


@pytest.fixture
def kept(tmp_path, sounds):
    made = Kept(tmp_path / "data")
    made.keeper.do(AddFolder(str(sounds)))
    yield made
    made.index.close()


def test_what_is_found_is_listed_at_once_then_read_then_measured(kept, sounds):
    (sounds / "bells").mkdir()
    write_sound(sounds / "bells" / "Low bell.wav", ring(seconds=1.0, hertz=200))
    write_sound(sounds / "hiss.wav", 0.1 * np.random.default_rng(1).standard_normal(24_000))
    (sounds / "broken.wav").write_bytes(b"RIFF no")
    (sounds / "words.txt").write_text("no sound")
    (sounds / ".hidden.wav").write_bytes(b"")
    assert kept.keeper.step()
    kept.catalogue.take(news_of(kept.file, 0))
    assert set(kept.rows()) == {"bells/Low bell.wav", "hiss.wav", "broken.wav"}
    assert not any(row.measured for row in kept.rows().values())
    assert len(kept.catalogue.find("unmeasured")) == 3
    kept.settle()
    bell = kept.rows()["bells/Low bell.wav"].content
    assert bell.hash == content_hash(sounds / "bells" / "Low bell.wav")
    assert (bell.state, bell.channels, bell.rate) == (MEASURED, 1, 48000)
    assert bell.seconds == pytest.approx(1.0)
    assert bell.loudness == pytest.approx(
        loudness(
            soundfile.read(sounds / "bells" / "Low bell.wav", dtype="float32")[0][None], 48000
        ),
        abs=0.01,
    )
    assert kept.rows()["hiss.wav"].content.brightness > bell.brightness > 150
    assert kept.rows()["broken.wav"].content.state == BROKEN
    assert kept.rows()["broken.wav"].content.why
    assert kept.said[-1].unmeasured == 0
    before = {path: path.stat().st_mtime_ns for path in sounds.rglob("*")}
    kept.settle()
    assert {path: path.stat().st_mtime_ns for path in sounds.rglob("*")} == before


def test_what_was_said_of_a_sound_stays_with_what_it_holds_wherever_that_goes(kept, sounds):
    path = write_sound(sounds / "a.wav", ring(seed=1))
    kept.settle()
    content = kept.rows()["a.wav"].file.hash
    kept.keeper.do(Say((Own(content, "sea\nnight", "from the pier", "ours", True),)))
    shutil.copy(path, sounds / "copy.wav")
    path.rename(sounds / "moved.wav")
    kept.keeper.changed(str(path))
    kept.settle()
    assert set(kept.rows()) == {"copy.wav", "moved.wav"}
    for row in kept.rows().values():
        assert (row.own.note, row.star, row.measured) == ("from the pier", True, True)
    assert [row.file.place for row in kept.catalogue.find("pier starred")] == [
        "copy.wav",
        "moved.wav",
    ]
    kept.keeper.do(RemoveFolder(1))
    kept.settle()
    assert len(kept.catalogue) == 0
    assert kept.catalogue.known(content).terms == "ours"


def measured_again(*_):
    pytest.fail("measured again")


def test_a_moved_file_is_not_measured_again(kept, sounds, monkeypatch):
    path = write_sound(sounds / "a.wav", ring(seed=1))
    kept.settle()
    monkeypatch.setattr("cicada.cabinet.keeper.measured", measured_again)
    (sounds / "below").mkdir()
    path.rename(sounds / "below" / "b.wav")
    kept.keeper.changed(str(path))
    kept.settle()
    assert kept.rows()["below/b.wav"].measured


def test_a_drive_that_is_away_is_away_and_its_sounds_stay(kept, sounds, tmp_path):
    write_sound(sounds / "a.wav")
    kept.settle()
    sounds.rename(tmp_path / "away")
    kept.keeper.changed(str(sounds))
    kept.settle()
    (row,) = kept.rows().values()
    assert kept.catalogue.away(row)
    # An empty mount point is on another device than its drive was.
    sounds.mkdir()
    kept.index.set_away(1, away=False, device=sounds.stat().st_dev + 1)
    kept.keeper.changed(str(sounds))
    kept.settle()
    assert kept.catalogue.away(*kept.rows().values())
    sounds.rmdir()
    (tmp_path / "away").rename(sounds)
    kept.keeper.changed(str(sounds))
    kept.settle()
    (row,) = kept.rows().values()
    assert not kept.catalogue.away(row)
    # What is emptied where it was is empty.
    (sounds / "a.wav").unlink()
    kept.keeper.changed(str(sounds))
    kept.settle()
    assert not kept.rows()


def test_while_there_is_other_work_nothing_is_measured(kept, sounds):
    kept.keeper.do(Pause(on=True))
    write_sound(sounds / "a.wav")
    kept.settle()
    (row,) = kept.rows().values()
    assert (row.file.hash != "", row.measured) == (True, False)
    kept.keeper.do(Pause(on=False))
    kept.settle()
    assert all(row.measured for row in kept.rows().values())


def test_a_file_that_may_not_be_read_is_not_there_and_one_no_text_names_is_left_out(kept, sounds):
    hidden = write_sound(sounds / "secret.wav")
    with open(os.fsencode(sounds) + b"/\xff\xfe.wav", "wb") as file:  # noqa: PTH123 - no text
        file.write(b"x")
    kept.keeper.step()
    hidden.unlink()
    kept.settle()
    assert kept.rows() == {}


def done_at_random(random, folder):
    """One thing done to a folder: made, changed, moved, removed, broken, changed in secret."""
    files = list(folder.rglob("*.wav"))
    folders = [folder, *(path for path in folder.rglob("*") if path.is_dir())]
    fresh = random.choice(folders) / f"n{random.randrange(10**6)}.wav"
    kind = random.randrange(8)
    if kind == 0 or not files:
        write_sound(fresh, ring(seconds=0.1, seed=random.randrange(10**6)))
    elif kind == 1:
        random.choice(files).unlink()
    elif kind == 2:
        random.choice(files).rename(fresh)
    elif kind == 3:
        write_sound(random.choice(files), ring(seconds=0.1, seed=random.randrange(10**6)))
    elif kind == 4:
        shutil.copy(random.choice(files), fresh)
    elif kind == 5:
        (random.choice(folders) / f"d{random.randrange(10**6)}").mkdir()
    elif kind == 6:
        path = random.choice(files)
        path.write_bytes(path.read_bytes()[:30])
    else:
        # Other bytes of the same length, at the same time.
        path = random.choice(files)
        state, data = path.stat(), bytearray(path.read_bytes())
        data[-1] ^= 1
        path.write_bytes(data)
        os.utime(path, ns=(state.st_atime_ns, state.st_mtime_ns))


def truth(folder):
    return {
        str(path.relative_to(folder)): content_hash(path)
        for path in folder.rglob("*")
        if path.is_file() and is_sound_name(path.name)
    }


@pytest.mark.parametrize("seed", range(6))
def test_after_random_things_done_to_a_folder_the_list_is_right(kept, sounds, seed):
    random = Random(seed)
    for _ in range(12):
        for _ in range(random.randint(1, 6)):
            done_at_random(random, sounds)
        kept.keeper.changed(str(sounds))
        kept.settle()
        assert {place: row.file.hash for place, row in kept.rows().items()} == truth(sounds)
        assert all(row.content.state != 0 for row in kept.rows().values())


def test_two_quiet_seconds_after_it_was_changed_the_list_of_the_real_keeper_is_right(
    tmp_path, sounds
):
    file, random = tmp_path / "data" / "cabinet.sqlite", Random(3)
    write_sound(sounds / "first.wav")
    process, catalogue = KeeperProcess(file), Catalogue()
    try:
        process.send(AddFolder(str(sounds)))
        until = time.monotonic() + 30
        while not catalogue.find("") and time.monotonic() < until:
            time.sleep(0.05)
            if file.exists():
                catalogue.take(news_of(file, catalogue.stamp))
        for _ in range(3):
            for _ in range(6):
                done_at_random(random, sounds)
            until, wanted = time.monotonic() + 10, truth(sounds)
            while time.monotonic() < until:
                catalogue.take(news_of(file, catalogue.stamp))
                if {row.file.place: row.file.hash for row in catalogue.find("")} == wanted:
                    break
                time.sleep(0.05)
            # Two seconds on a quiet machine; on one that is kept busy it takes what it takes.
            assert {row.file.place: row.file.hash for row in catalogue.find("")} == wanted
        assert process.progress() is not None
    finally:
        process.close()


def test_a_long_sound_is_measured_as_it_would_be_whole(tmp_path):
    samples = np.concatenate([ring(seconds=5, seed=n, hertz=300 + n) for n in range(6)])
    path = write_sound(tmp_path / "long.wav", np.stack((samples, 0.5 * samples), 1))
    found = measured(path, "blake2b:" + 40 * "0")
    whole = soundfile.read(path, dtype="float32", always_2d=True)[0].T
    assert found.seconds == pytest.approx(30.0)
    assert found.loudness == pytest.approx(loudness(whole, 48000), abs=0.02)
    assert found.peak == pytest.approx(np.abs(whole).max())
    assert len(found.picture) == 2 * 64
    assert isinstance(found, Content)


def test_an_index_that_is_no_database_is_said_and_not_written_over(tmp_path):
    file = tmp_path / "cabinet.sqlite"
    file.write_bytes(b"something else" * 100)
    with pytest.raises(BadIndex, match="move it away"):
        Index(file)
    assert Path(file).read_bytes().startswith(b"something else")


@pytest.mark.parametrize("damage", ["head", "middle", "wrong kind"])
def test_a_damaged_index_is_set_aside_and_begun_anew_with_what_is_left_of_it(tmp_path, damage):
    file, hashes = tmp_path / "cabinet.sqlite", [f"blake2b:{n:040x}" for n in range(400)]
    index = Index(file)
    index.add_folder("/sounds")
    index.begin()
    index.set_contents(Content(each) for each in hashes)
    for each in hashes:
        index.say(Own(each, "sea", "a note", star=True))
    index.end()
    if damage == "wrong kind":
        index._base.execute("update own set tags = x'ff' where hash = ?", (hashes[0],))
    index.close()
    whole = file.read_bytes()
    if damage != "wrong kind":
        at = 0 if damage == "head" else whole.rindex(hashes[7].encode())
        file.write_bytes(whole[:at] + b"\xff" * 3000 + whole[at + 3000 :])
    before = file.read_bytes()
    anew, said = opened(file)
    news = anew.news(-1)
    anew.close()
    assert "made anew" in said
    assert (tmp_path / "cabinet damaged 1.sqlite").read_bytes() == before
    if damage != "head":
        assert [folder.path for folder in news.folders] == ["/sounds"]
        assert 300 < len(news.own) <= 400
        assert all(own.note == "a note" and own.star for own in news.own)
    again, nothing = opened(file)
    again.close()
    assert nothing == ""
