"""What is typed is found: words, numbers, and sounds that are like one."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from cicada.cabinet.catalogue import WORDS, Catalogue, understood
from cicada.cabinet.features import SIZE, features, likeness, nearest
from cicada.cabinet.index import MEASURED, Content, Filed, Folder, News, Own
from tests.cabinet.families import RATE, families


def catalogue(*rows):
    """Rows of place, seconds, channels, LUFS, hertz and whether it loops."""
    made = Catalogue()
    files, contents = [], []
    for number, (place, seconds, channels, lufs, hertz, loops) in enumerate(rows):
        files.append(Filed(number, 1, place, f"h{number}", gone=False))
        contents.append(
            Content(f"h{number}", MEASURED, "", seconds, 48000, channels, "WAV 16 bit", lufs, 0.5,
                    hertz, loops)
        )  # fmt: skip
    folders = [Folder(1, "/home/me/Sounds", away=False)]
    own = [Own("h0", "sea\nstorm", "by the pier", "ours", star=True)]
    made.take(News(1, files, contents, own, folders))
    return made


SHELF = (
    ("water/Wave.wav", 4.0, 2, -20.0, 900.0, False),
    ("water/Drop.wav", 0.3, 1, -31.0, 3000.0, False),
    ("wind.flac", 60.0, 2, -27.0, 400.0, True), ("Ärger.ogg", 1.0, 1, None, 700.0, False),
)  # fmt: skip


@pytest.mark.parametrize(
    ("text", "names"),
    [
        ("", ["Drop", "Wave", "wind", "Ärger"]), ("WAV", ["Drop", "Wave"]), ("wave sea", ["Wave"]),
        ("pier", ["Wave"]), ("ärger", ["Ärger"]), ("sounds water", ["Drop", "Wave"]),
        ("< 1 s", ["Drop"]), ("<1s", ["Drop"]), ("<= 1 s", ["Drop", "Ärger"]),
        ("> 500 ms mono", ["Ärger"]),
        ("1 min", ["wind"]), ("4.2 s", ["Wave"]), ("-20 LUFS", ["Wave"]),
        ("< -25 lufs", ["Drop", "wind"]),
        ("stereo", ["Wave", "wind"]), ("loops", ["wind"]), ("starred", ["Wave"]),
        ("bright", ["Drop"]),
        ("dark", ["wind"]), ("unmeasured", []), ("nothing of the kind", []),
        ("water stereo > 1 s", ["Wave"]), ("−20 lufs", ["Wave"]), ("0,3 s", ["Drop"]),
    ],
)  # fmt: skip
def test_words_and_numbers_find_what_they_say(text, names):
    assert [row.name for row in catalogue(*SHELF).find(text)] == names


@given(st.text(max_size=30))
def test_whatever_is_typed_is_understood_somehow(text):
    words, conditions = understood(text)
    assert len(words) + len(conditions) <= len(text)
    catalogue(*SHELF).find(text)


def test_what_is_gone_is_found_no_more_and_what_is_news_is():
    made = catalogue(*SHELF)
    folder = [Folder(1, "/home/me/Sounds", away=True)]
    made.take(News(2, [Filed(0, 1, "water/Wave.wav", "h0", gone=True)], [], [], folder))
    assert [row.name for row in made.find("wav")] == ["Drop"]
    made.take(News(3, [Filed(9, 1, "new.wav", "h0", gone=False)], [], [Own("h0", "calm")], folder))
    (row,) = made.find("calm")
    assert (row.name, row.measured, made.away(row)) == ("new", True, True)
    assert str(made.path(row)) == "/home/me/Sounds/new.wav"
    assert made.known("h0").tags == "calm"
    made.take(News(4, [], [], [], []))
    assert made.path(row) is None
    assert made.away(row)
    assert "mono" in WORDS


def test_of_a_family_the_nearest_five_are_its_own_for_95_of_100():
    made = families(0.1)
    vectors = np.array([features(samples[None], RATE) for _, samples in made])
    families_of = np.array([family for family, _ in made])
    whole = 0
    for number, family in enumerate(families_of):
        near = [n for n in nearest(vectors, vectors[number], 6) if n != number][:5]
        whole += all(families_of[n] == family for n in near)
    assert whole / len(made) >= 0.95


def test_like_one_puts_itself_first_and_a_level_does_not_count():
    samples = families(0.1)[0][1]
    quiet, loud = features(samples[None], RATE), features(4 * samples[None], RATE)
    np.testing.assert_allclose(quiet, loud, atol=1e-3)
    assert not features(np.zeros((1, 100), np.float32), RATE).any()
    assert likeness(np.zeros((2, 100), np.float32), RATE).brightness == 0
    made = Catalogue()
    vectors = [features(x[None], RATE) for _, x in families(0.1)[:30:5]]
    contents = [Content(f"h{n}", MEASURED, features=v.tobytes()) for n, v in enumerate(vectors)]
    contents.append(Content("h6", MEASURED, features=b"short"))
    files = [Filed(n, 1, f"{n}.wav", f"h{n}", gone=False) for n in range(7)]
    made.take(News(1, files, contents, [], [Folder(1, "/s", away=False)]))
    rows = {row.name: row for row in made.find("")}
    assert made.like(rows["3"])[0].name == "3"
    assert sorted(row.name for row in made.like(rows["3"], 3)[:2]) == ["2", "3"]
    assert made.like(rows["6"], 3)[0].name == "6"
    assert len(vectors[0]) == SIZE
    nothing = Catalogue()
    assert nothing.find("x") == []
