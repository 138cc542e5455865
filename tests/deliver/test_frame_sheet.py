"""The sheet on paper, read back by another reader of printed pages."""

import io
import re
from itertools import pairwise

import pypdf
import pytest
from hypothesis import given, settings
from msgspec.structs import replace

from cicada.core.model import Clip, Layer, Mark, PressPoint, Project, Scene, Sound
from cicada.core.picture_parts import Still
from cicada.core.recipes import Scope
from cicada.core.scoped import asked
from cicada.deliver.frame_sheet import (
    EDGE,
    HEAD,
    HIGHEST,
    LOWEST,
    PAPERS,
    columns_of,
    frame_sheet,
    rows_of,
    stands,
)
from cicada.errors import CannotWrite
from tests.core.films import projects
from tests.deliver.test_video import Numbered


def film(*layers, length=60, **more):
    sound = Sound(id="s", name="Bell", frames=48_000, rate=48_000, channels=1)
    scene = Scene(id="sc", name="Night", length=length, layers=layers, **more)
    return Project(
        format="cicada-project", version=1, name="Harbour", fps=(24, 1), rate=48_000,
        sounds=(sound,), scenes=(scene,),
    )  # fmt: skip


def read(project, scope=Scope(), paper="a4", pictures=None):  # noqa: B008 - frozen
    data = frame_sheet(asked(project, scope), paper, pictures, lambda share: True)
    return pypdf.PdfReader(io.BytesIO(data))


def words(page):
    return page.extract_text().split()


def test_a_page_has_each_frame_each_layer_and_what_sounds_on_it():
    clip = Clip(frame=4, sound="s", level=0.5, loops=2)
    layers = (
        Layer(id="a", name="Buoy", keyframes=(clip,)),
        Layer(id="b", name="Rain", keyframes=()),
    )
    reader = read(film(*layers, marks=(Mark(frame=7, text="beam"),)))
    first = reader.pages[0]
    text = first.extract_text()
    assert len(reader.pages) == 2
    for word in ("Harbour", "Night,", "Buoy", "Rain", "Bell", "beam", "notes", "2.00", "-6.0"):
        assert word in text
    numbers = {int(word) for word in words(first) if re.fullmatch(r"\d+", word)}
    assert set(range(1, 49)) <= numbers
    assert {f"{n}" for n in range(49, 61)} <= set(words(reader.pages[1]))
    assert float(first.mediabox.width) == pytest.approx(595, abs=1)


@settings(max_examples=15)
@given(projects())
def test_every_sounding_stands_in_a_column_from_its_frame_to_its_end(project):
    found = asked(project, Scope())
    planned = found.plan
    for number, visit in enumerate(planned.visits):
        scene = project.scene(visit.scene)
        columns = columns_of(project, planned, scene, number)
        here = [
            v for v in planned.voices
            if max(v.start, 0, visit.start) < min(v.end, visit.end)
        ]  # fmt: skip
        assert sum(len(column.bars) for column in columns) == len(here)
        for bar in (bar for column in columns for bar in column.bars):
            assert 0 <= bar.start < bar.end <= scene.length + 0.2
            assert 0 <= bar.lane < bar.lanes
            if bar.voice.start >= max(0, visit.start):
                assert int(bar.start) == planned.frame_at(bar.voice.start)[1]
        for column in columns:
            for lane in {bar.lane for bar in column.bars}:
                bars = sorted((b.start, b.end) for b in column.bars if b.lane == lane)
                assert all(a[1] <= b[0] + 0.2 for a, b in pairwise(bars))


def test_where_the_picture_stands_is_said_with_its_length():
    hold = Layer(id="a", keyframes=(Clip(frame=3, sound="s", sync="hold"),))
    project = film(hold, press_points=(PressPoint(frame=9, label="lamp"),))
    assert stands(asked(project, Scope()).plan, "sc", 0) == {3: 1.0}
    text = read(project).pages[0].extract_text()
    assert "stands 1.00 s" in text
    assert "press: lamp" in text


def test_many_layers_go_onto_several_pages_with_all_their_names():
    layers = tuple(Layer(id=f"l{n}", name=f"L{n}", keyframes=()) for n in range(20))
    reader = read(film(*layers, length=10))
    found = {word for page in reader.pages for word in words(page)}
    assert {f"L{n}" for n in range(20)} <= found
    assert len(reader.pages) > 1


def test_the_same_film_makes_the_same_pages_with_its_pictures():
    project = film(Layer(id="a", keyframes=()), picture=(Still(file="x.png"),))
    made = [
        frame_sheet(asked(project, Scope()), "letter", Numbered(), lambda share: True)
        for _ in range(2)
    ]
    assert made[0] == made[1]
    assert len(pypdf.PdfReader(io.BytesIO(made[0])).pages[0].images) == 5


@pytest.mark.parametrize("length", [1, 49])
def test_one_frame_no_layers_and_names_of_any_letters_go_too(length):
    odd = Layer(id="a", name="Gruß\x00 \U0001f9f7 и 海" * 9, keyframes=(Clip(frame=0, sound="s"),))
    for layers in ((), (odd,)):
        project = replace(film(*layers, length=length), name="🎞 Film")
        assert len(read(project).pages) == (1 if length == 1 else 2)


@pytest.mark.parametrize("fps", [1.0, 12.0, 23.976, 25.0, 30.0, 50.0, 60.0, 240.0])
@pytest.mark.parametrize("paper", PAPERS.values())
def test_a_page_is_used_to_its_foot_in_rows_that_can_be_written_in(paper, fps):
    rows, row = rows_of(paper[1], fps)
    assert LOWEST <= row <= HIGHEST
    assert paper[1] - rows * row < 2 * EDGE + HEAD + HIGHEST
    assert rows % round(fps) == 0 or fps > 60


def test_frames_that_are_asked_for_are_the_only_ones():
    reader = read(film(Layer(id="a", keyframes=())), Scope(scene="sc", first=10, last=20))
    (page,) = reader.pages
    assert "frames 11 to 21" in page.extract_text()


def test_a_film_of_thousands_of_pages_is_refused_and_one_can_be_stopped():
    long = film(Layer(id="a", keyframes=()), length=200_000)
    with pytest.raises(CannotWrite, match="pages"):
        read(long)
    found = asked(film(Layer(id="a", keyframes=())), Scope())
    assert frame_sheet(found, "a4", None, lambda share: False) is None
