"""What recipes ask of a film: its run, where a file begins and ends, and how its end is folded."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from msgspec.structs import replace

from cicada.core.answer_edits import ChangeRun
from cicada.core.answers import Fire, Pad, Pool, PoolPart
from cicada.core.dither import Dither
from cicada.core.mix import Mixer
from cicada.core.model import (
    Clip,
    Hush,
    KeptRun,
    Layer,
    Project,
    Rest,
    Run,
    Scene,
    Sound,
    lowest_version,
)
from cicada.core.naming import file_name, file_names
from cicada.core.passage import Passage
from cicada.core.planner import plan
from cicada.core.recipe_edits import PutRecipe, RemoveRecipe
from cicada.core.recipe_rules import place_of
from cicada.core.recipes import DataRecipe, Encoding, MixRecipe, Scope, StemsRecipe
from cicada.core.scoped import Differs, asked, cut_at_seam, differing
from cicada.core.shapes_used import film_of, shapes_used
from cicada.errors import BadEdit, BadProject
from tests.core.films import projects
from tests.core.live_films import Films
from tests.core.test_mix import Noise

RATE = 8000


def film(*clips, length=20, **more):
    sounds = (Sound(id="s", frames=4000, rate=RATE, channels=1, name="Tap"),)
    scene = Scene(id="sc", length=length, layers=(Layer(id="l", name="One", keyframes=clips),))
    return Project(
        format="cicada-project", version=1, fps=(20, 1), rate=RATE, sounds=sounds, scenes=(scene,),
        **more,
    )  # fmt: skip


def all_of(passage):
    return np.concatenate(
        [passage.block(at, min(777, passage.length - at)) for at in range(0, passage.length, 777)],
        axis=1,
    )


def again_and_again(project, run):
    """The mix laid over itself at every beginning of the film, from the plan alone."""
    planned = plan(project, run)
    once = Mixer(planned, project, Noise()).mix(0, planned.length).astype(np.float64)
    loop = np.zeros((2, planned.end))
    for start in range(0, planned.length, planned.end):
        part = once[:, start : start + planned.end]
        loop[:, : part.shape[1]] += part
    return loop


@settings(max_examples=max(1, settings.default.max_examples // 2))
@given(projects(), st.integers(1, 3))
def test_a_folded_file_is_the_mix_repeated_and_laid_over_itself(project, passes):
    found = asked(project, Scope(tail="fold", passes=passes))
    wanted = again_and_again(project, Run(passes=passes))
    np.testing.assert_allclose(all_of(Passage(found, Noise())), wanted, atol=1e-6)


@pytest.mark.parametrize("seed", range(12))
def test_a_folded_film_that_answers_is_too(seed):
    project = Films(seed, follows=True).project()
    found = asked(project, Scope(tail="fold"))
    wanted = again_and_again(project, Run())
    np.testing.assert_allclose(all_of(Passage(found, Noise())), wanted, atol=1e-5)


@given(projects(), st.data())
def test_a_range_is_the_film_up_to_its_end_and_rings_on(project, data):
    scene = data.draw(st.sampled_from(project.scenes))
    first = data.draw(st.integers(0, scene.length - 1))
    last = data.draw(st.integers(first, scene.length - 1))
    found = asked(project, Scope(scene=scene.id, first=first, last=last))
    whole = plan(project, Run(scene=scene.id, frame=first, only_scene=True))
    end = whole.entered(last + 1, 0) or whole.end
    assert found.plan.end == min(end, whole.end)
    heard = Mixer(whole, project, Noise()).mix(0, found.plan.end)
    made = Passage(found, Noise()).block(0, found.plan.end)
    # What is cut at the end of a range fades over the last 2 ms of it.
    clear = max(0, found.plan.end - RATE // 500)
    np.testing.assert_allclose(made[:, :clear], heard[:, :clear], atol=1e-6)


@pytest.mark.parametrize("following", [None, Rest(frame=18), Hush(frame=18, fade=0.1)])
def test_what_is_locked_fades_no_earlier_in_a_range_than_in_the_film(following):
    clip = Clip(frame=2, sound="s", sync="locked", loops=3, fade_out=0.5)
    project = film(clip, *([following] if following else []))
    (whole,) = plan(project, Run()).voices
    (ranged,) = asked(project, Scope(scene=project.scenes[0].id, last=11)).plan.voices
    assert ranged.end < whole.end
    assert ranged.fade_length == whole.fade_length


@given(projects(), st.sampled_from(["layer", "sound"]))
def test_soundings_apart_sum_to_the_mix(project, by):
    found = asked(project, Scope())
    groups = {getattr(voice, by) for voice in found.plan.voices}
    parts = [
        all_of(Passage(found, Noise(), only=lambda v, g=group: getattr(v, by) == g))
        for group in groups
    ]
    mix = all_of(Passage(found, Noise()))
    near = 1e-6 * max(1.0, float(np.abs(mix).max(initial=0)))
    np.testing.assert_allclose(sum(parts, np.zeros_like(mix)), mix, atol=near)


def test_what_rings_past_the_end_is_cut_left_to_ring_or_folded():
    project = film(Clip(frame=18, sound="s"))
    assert asked(project, Scope(tail="cut")).length == RATE
    assert asked(project, Scope(tail="ring")).length == 18 * 400 + 4000
    assert asked(project, Scope(tail="fold")).length == RATE


def test_the_steady_pass_has_what_rings_into_it():
    project = film(Clip(frame=18, sound="s"))
    found = asked(project, Scope(tail="steady"))
    assert (found.first, found.length, found.loops) == (RATE, RATE, True)
    folded = all_of(Passage(asked(project, Scope(tail="fold")), Noise()))
    np.testing.assert_allclose(all_of(Passage(found, Noise())), folded, atol=1e-6)


def test_a_film_that_never_settles_has_no_steady_pass():
    with pytest.raises(BadProject, match="steady"):
        asked(film(Clip(frame=1, sound="s", loops=0)), Scope(tail="steady"))


def test_endless_soundings_are_said_to_be_cut_at_the_seam():
    found = asked(
        film(Clip(frame=1, sound="s", loops=0), Clip(frame=9, sound="s")), Scope(tail="fold")
    )
    assert [voice.frame for voice in cut_at_seam(found)] == [1]
    assert not cut_at_seam(asked(film(Clip(frame=1, sound="s", loops=0)), Scope()))


@pytest.mark.parametrize(
    ("clip", "differs"),
    [
        (Clip(frame=18, sound="s"), False),
        (Clip(frame=1, sound="s", loops=6, if_sounding="skip"), True),
        (Clip(frame=1, sound="s", loops=6, if_sounding="restart"), True),
        (Clip(frame=12, sound="s", if_sounding="queue"), False),
    ],
)
def test_what_goes_otherwise_when_it_comes_round_again_is_said(clip, differs):
    found = asked(film(clip), Scope(tail="fold"))
    assert differing(found) == ([Differs("sc", "l", clip.frame)] if differs else [])


def test_a_kept_run_is_delivered_with_its_conditions_and_another_seed():
    kept = KeptRun(name="Take one", scene="sc", only_scene=True, limit=0.5)
    project = film(Clip(frame=1, sound="s"), runs=(kept,))
    found = asked(project, Scope(run="Take one", seed=9))
    assert found.run == replace(kept.run(), seed=9, tail="ring")
    assert found.length == RATE // 2


@pytest.mark.parametrize(
    "scope",
    [Scope(run="gone"), Scope(scene="gone"), Scope(scene="sc", first=20), Scope(run="nothing")],
)
def test_what_is_not_there_cannot_be_delivered(scope):
    project = film(Clip(frame=1, sound="s"), runs=(KeptRun(name="nothing", limit=0.0),))
    with pytest.raises(BadProject) as caught:
        asked(project, scope)
    assert caught.value.remedy


# -- whole numbers -------------------------------------------------------------------------------


def test_dither_takes_the_signal_out_of_the_error():
    quiet = np.repeat(np.linspace(-3, 3, 25) / 32768, 40_000)[None].astype(np.float32)
    error = Dither(16, 1).whole(quiet)[:, 0] - quiet[0] * 32768.0
    for part in error.reshape(25, -1)[1:-1]:
        exact = not part.any()
        assert exact or abs(part.mean()) < 0.02
        # TPDF of two steps and the rounding: a quarter of a step squared, whatever the signal.
        assert exact or part.var() == pytest.approx(0.25, rel=0.05)


def test_what_is_whole_already_stays_and_silence_is_silent():
    steps = np.array([[0, 5, -32768, 32767, 0]], np.float32) / 32768
    assert Dither(16, 1).whole(steps)[:, 0].tolist() == [0, 5, -32768, 32767, 0]


def test_dither_is_the_same_however_it_is_cut_up():
    noise = np.random.default_rng(2).uniform(-1, 1, (2, 5000)).astype(np.float32)
    whole, parts = Dither(24, 7), Dither(24, 7)
    cut = [parts.whole(noise[:, at : at + 997]) for at in range(0, 5000, 997)]
    assert np.array_equal(whole.whole(noise), np.concatenate(cut))


def test_what_does_not_fit_is_counted():
    dither = Dither(16, 1)
    loud = dither.whole(np.array([[1.5, -2.0, 0.5]], np.float32))
    assert dither.clipped == 2
    assert loud[:, 0].tolist() == [32767, -32768, 16384]


# -- shapes --------------------------------------------------------------------------------------


def test_each_shape_is_there_once_with_all_its_uses():
    same = {"sound": "s", "trim": (0.1, 0.4), "fade_in": 0.05}
    project = film(
        Clip(frame=0, level=0.5, **same), Clip(frame=5, pan=-1.0, delay=0.1, **same),
        Clip(frame=12, speed=2.0, sound="s"), Clip(frame=15, loops=3, sound="s"),
    )  # fmt: skip
    shapes = shapes_used(project, plan(project))
    assert [[use.frame for use, _ in shape.uses] for shape in shapes] == [[0, 5], [12], [15]]
    assert shapes[2].uses[0][1] == 3
    assert shapes[0].clip.level == 1.0
    assert plan(film_of(project, shapes[0].clip)).voices[0].end == round(0.3 * RATE)


def test_loops_are_in_a_shape_only_where_something_goes_over_all_of_them():
    faded = Clip(frame=0, sound="s", loops=3, fade_out=0.2)
    endless = Clip(frame=0, sound="s", loops=0, fade_in=0.2, level_line=((0.0, 0.5),))
    locked = Clip(frame=0, sound="s", sync="locked", fade_out=0.2)
    found = [shapes_used(film(clip), plan(film(clip)))[0] for clip in (faded, endless, locked)]
    assert [(shape.clip.loops, shape.uses[0][1]) for shape in found] == [(3, 1), (1, 0), (1, 1)]
    assert [shape.left for shape in found] == [(), ("fade_in", "level_line"), ("fade_out",)]


def test_what_pads_fire_and_pools_draw_have_shapes_too():
    pool = Pool(id="p", parts=(PoolPart(sound="s"),))
    pad = Pad(id="pad", at_start=True, does=(Fire(sound="p", speed=2.0),))
    project = film(pools=(pool,), pads=(pad,))
    (shape,) = shapes_used(project, plan(project))
    assert (shape.clip.sound, shape.clip.speed, shape.uses[0][0].fire) == ("s", 2.0, 0)


# -- in the project ------------------------------------------------------------------------------


def test_recipes_raise_the_version_and_taking_them_out_lowers_it():
    project = PutRecipe(recipe=MixRecipe(id="r1", name="Web")).apply(film())
    assert lowest_version(project) == 4
    assert project.recipe("r1").label == "Web"
    assert lowest_version(RemoveRecipe(recipe="r1").apply(project)) == 1
    assert RemoveRecipe(recipe="r1").title == "remove the recipe"
    with pytest.raises(BadEdit):
        RemoveRecipe(recipe="r2").apply(project)
    with pytest.raises(KeyError):
        project.recipe("r2")


def test_a_recipe_is_changed_in_its_place():
    project = film()
    for number in (1, 2):
        project = PutRecipe(recipe=MixRecipe(id=f"r{number}", name=f"{number}")).apply(project)
    changed = StemsRecipe(id="r1", name="Parts", encoding=Encoding(bits=16))
    edit = PutRecipe(recipe=changed, named="write stems")
    assert edit.apply(project).recipes == (changed, project.recipes[1])
    assert edit.title == "write stems"
    assert PutRecipe(recipe=changed).title == "add the recipe Parts"


def test_what_a_kept_run_is_called_its_recipes_call_it():
    kept = KeptRun(name="Take")
    project = film(runs=(kept,))
    for number, run in enumerate(("Take", None)):
        recipe = MixRecipe(id=f"r{number}", name=f"{number}", scope=Scope(run=run))
        project = PutRecipe(recipe=recipe).apply(project)
    renamed = ChangeRun(name="Take", run=replace(kept, name="Other")).apply(project)
    assert [recipe.scope.run for recipe in renamed.recipes] == ["Other", None]


WRONG = {
    "place": [MixRecipe(id="r", place=place) for place in (
        "/mix", "../mix", "a//b", "a/", ".hidden", "C:\\mix", "a\0b", " a", "a/" + "b" * 181,
        "a\ud800",
    )],
    "run": [MixRecipe(id="r", scope=Scope(run="x", scene="sc"))],
    "first": [MixRecipe(id="r", scope=Scope(first=3))],
    "last": [MixRecipe(id="r", scope=Scope(scene="sc", first=3, last=2))],
    "passes": [MixRecipe(id="r", scope=Scope(scene="sc", last=2, passes=2))],
    "tail": [
        MixRecipe(id="r", scope=Scope(passes=2, tail="steady")),
        DataRecipe(id="r", scope=Scope(tail="steady")),
    ],
}  # fmt: skip


@pytest.mark.parametrize(
    ("where", "recipe"), [(where, recipe) for where, all_of in WRONG.items() for recipe in all_of]
)
def test_a_wrong_recipe_is_refused_with_what_is_wrong_with_it(where, recipe):
    with pytest.raises(BadEdit, match=f"^{where} ") as caught:
        PutRecipe(recipe=recipe).apply(film())
    assert caught.value.remedy


def test_two_recipes_are_called_differently_and_have_ids_of_their_own():
    project = PutRecipe(recipe=MixRecipe(id="r1", name="Web")).apply(film())
    with pytest.raises(BadEdit, match="called"):
        PutRecipe(recipe=MixRecipe(id="r2", name="Web")).apply(project)
    with pytest.raises(BadEdit, match="in use"):
        PutRecipe(recipe=MixRecipe(id="l", name="Layer")).apply(project)


def test_a_recipe_goes_by_its_name_where_no_place_is_given():
    assert place_of(MixRecipe(id="r", name='Web: "loud"/1 ')) == "Web- -loud--1"
    assert place_of(MixRecipe(id="r", name="Web", place="mix/film")) == "mix/film"


@given(st.lists(st.text(max_size=300), max_size=8))
def test_any_names_become_names_of_files_that_differ(names):
    found = file_names(names)
    assert len({name.casefold() for name in found}) == len(names)
    for name in found:
        assert "/" not in name
        assert name.isprintable()
        assert 0 < len(name.encode()) < 120
        assert not name.startswith(".")


def test_a_name_of_nothing_is_called_so():
    assert file_name(" . ") == "untitled"
    assert file_name("é" * 300) == "é" * 50
