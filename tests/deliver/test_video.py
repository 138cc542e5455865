"""Videos: every picture and the first sound where the plan has them, decoded again."""

from fractions import Fraction

import av
import numpy as np
import pytest
from msgspec.structs import replace

from cicada.core.model import Clip, Layer, PressPoint, Project, Run, Scene, Sound
from cicada.core.passage import Passage
from cicada.core.planner import plan
from cicada.core.recipes import Loud, Scope, VideoRecipe
from cicada.core.scoped import asked
from cicada.core.tone import InMemory
from cicada.deliver.delivery import deliver
from cicada.deliver.earlier import Earlier
from cicada.deliver.ready import prepared
from cicada.deliver.shown import Screen, shown_in
from cicada.errors import Cancelled, CannotWrite

RATE = 48000


class Click:
    """A sound that begins at once and loud."""

    def source(self, sound, first, last, speed):
        at = np.arange(first, last)
        return InMemory((0.7 * np.cos(at * 0.2) * np.exp(-at / 400))[None].astype(np.float32))

    def why_silent(self, sound):
        return ""


class Numbered:
    """Pictures that say their frame by how bright they are."""

    def __init__(self, size=(36, 64)):
        self.size = size

    def height(self, scene):
        return self.size[0]

    def draw(self, scene, frame, height):
        width = round(height * self.size[1] / self.size[0])
        return np.full((height, width, 4), min(240, 16 + 8 * frame), np.uint8)


def film(*, length=24, hold=5, fps=(24, 1)):
    clips = (Clip(frame=2, sound="s"), Clip(frame=hold, sound="s", sync="hold"))
    scene = Scene(id="sc", length=length, layers=(Layer(id="l", keyframes=clips),))
    sound = Sound(id="s", frames=30_000, rate=RATE, channels=1)
    return Project(
        format="cicada-project", version=1, fps=fps, rate=RATE, sounds=(sound,), scenes=(scene,)
    )


def made(project, recipe, folder, pictures=None, **more):
    return deliver(
        project, folder / "film.cicada", prepared(project, recipe), folder, Click(),
        earlier=Earlier(folder / "earlier.json"), pictures=pictures, **more,
    )  # fmt: skip


def pictures_of(path):
    """When each picture is shown, and which frame it is by how bright it is."""
    with av.open(str(path)) as container:
        for frame in container.decode(video=0):
            bright = frame.to_ndarray(format="gray").mean()
            yield Fraction(frame.pts) * frame.time_base, round((bright - 16) / 8)


@pytest.mark.parametrize("fps", [(24, 1), (30000, 1001)])
@pytest.mark.parametrize("waits", ["true", "even"])
@pytest.mark.parametrize("kind", ["mp4", "webm"])
def test_every_picture_and_the_first_sound_are_where_the_plan_has_them(kind, waits, fps, tmp_path):
    project = film(fps=fps)
    recipe = VideoRecipe(id="r", name="Film", kind=kind, waits=waits)
    done = made(project, recipe, tmp_path, Numbered())
    assert not done.missed
    found = list(pictures_of(tmp_path / f"Film.{kind}"))
    near = Fraction(0) if kind == "mp4" else Fraction(1, 1000)
    planned = list(plan(project, Run()).picture())
    if waits == "true":
        assert [frame for _, frame in found] == [picture.frame for picture in planned]
        assert all(
            abs(at - Fraction(picture.at, RATE)) <= near
            for (at, _), picture in zip(found, planned, strict=True)
        )
    else:
        frame = Fraction(fps[1], fps[0])
        # Each comes first half a frame early or late at most.
        first = {}
        for at, number in found:
            first.setdefault(number, at)
        for picture in planned:
            off = abs(first[picture.frame] - Fraction(picture.at, RATE))
            assert off <= frame / 2 + near + Fraction(1, RATE)
    assert _first_sound(tmp_path / f"Film.{kind}") == pytest.approx(
        planned[2].at / RATE, abs=1.1e-3 if kind == "webm" else 3e-4
    )


def _first_sound(path):
    with av.open(str(path)) as container:
        for frame in container.decode(audio=0):
            loud = np.flatnonzero(np.abs(frame.to_ndarray()).max(axis=0) > 0.3)
            if len(loud):
                return float(frame.pts * frame.time_base) + int(loud[0]) / frame.sample_rate
    return None


def test_the_last_picture_stays_while_the_sound_rings_on(tmp_path):
    project = film(length=6)
    made(project, VideoRecipe(id="r", name="Film"), tmp_path, Numbered())
    with av.open(str(tmp_path / "Film.mp4")) as container:
        length = container.duration / 1_000_000
    assert length == pytest.approx(plan(project, Run()).length / RATE, abs=0.03)


def test_without_a_picture_it_is_the_waveform_with_a_line_where_the_film_is(tmp_path):
    project = film()
    done = made(project, VideoRecipe(id="r", name="Film"), tmp_path)
    assert done.files[0].kind == "MP4 640 × 360"
    found = asked(project, Scope())
    screen = Screen(None, shown_in(found, even=False), Passage(found, Click()), None)
    shown = shown_in(found, even=False)
    moss = [np.flatnonzero(screen.picture(each)[3, :, 0] == 0x58) for each in shown]
    assert all(len(columns) == 2 for columns in moss)
    assert [columns[0] for columns in moss] == sorted(columns[0] for columns in moss)


def test_odd_sizes_are_rounded_down_and_larger_ones_than_the_picture_too(tmp_path):
    odd = made(film(), VideoRecipe(id="r", name="Odd"), tmp_path, Numbered((35, 63)))
    assert odd.files[0].kind == "MP4 60 × 34"
    assert any("even sizes" in said for said in odd.said)
    large = made(film(), VideoRecipe(id="s", name="Large", height=720), tmp_path, Numbered())
    assert large.files[0].kind == "MP4 64 × 36"
    assert any("as its picture is" in said for said in large.said)


def test_how_loud_it_is_aimed_at_and_what_keeps_it_down_is_said(tmp_path):
    loud = Loud(aim="loudness", target=-5.0, ceiling=-6.0)
    done = made(film(), VideoRecipe(id="r", name="Film", loud=loud), tmp_path, Numbered())
    assert done.files[0].true_peak == pytest.approx(-6.0, abs=0.5)
    assert any("ceiling" in said for said in done.said)


def test_a_rate_that_is_not_held_is_refused_with_the_nearest(tmp_path):
    with pytest.raises(CannotWrite, match="48,000"):
        prepared(film(), VideoRecipe(id="r", kind="webm", rate=44100))


@pytest.mark.parametrize("share", [0.0, 0.5])
def test_what_is_stopped_leaves_nothing(tmp_path, share):
    with pytest.raises(Cancelled):
        made(film(), VideoRecipe(id="r", name="Film"), tmp_path, going=lambda done: done < share)
    assert not list(tmp_path.iterdir())


def test_a_loop_and_one_frame_have_their_pictures(tmp_path):
    one = replace(film(length=1).scenes[0], press_points=(PressPoint(frame=0),))
    project = replace(film(), scenes=(one,))
    for tail in ("fold", "ring", "cut"):
        recipe = VideoRecipe(id="r", name=tail, scope=Scope(tail=tail, passes=2))
        assert not made(project, recipe, tmp_path, Numbered()).missed
