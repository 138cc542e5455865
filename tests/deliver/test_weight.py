"""What a player must fetch: as many bytes as are delivered, and there when it is said to be."""

import pytest
from msgspec.structs import replace

from cicada.core.recipe_edits import PutRecipe
from cicada.core.recipes import BundleRecipe, Encoding, TrimmedRecipe
from cicada.deliver.delivery import deliver
from cicada.deliver.earlier import Earlier
from cicada.deliver.ready import prepared
from cicada.deliver.weight import LINES, weigh
from cicada.media.cache import user_cache
from cicada.media.sources import SoundSources
from cicada.store.projectfile import load
from cicada.store.sounds_folder import sound_files


@pytest.fixture(scope="module")
def film(demo):
    project = load(demo)
    # One scene of them says as much as three.
    project = replace(project, scenes=project.scenes[2:])
    return project, SoundSources(project, sound_files(project, demo), user_cache()), demo


WAV = TrimmedRecipe(id="r", name="Pieces", encoding=Encoding(bits=16))
OPUS = TrimmedRecipe(id="r", name="Pieces", encoding=Encoding(kind="opus"))


BUNDLE = BundleRecipe(id="r", name="Page", encoding=Encoding(kind="opus"), picture=False)


@pytest.mark.parametrize("recipe", [WAV, OPUS, replace(WAV, share=True), BUNDLE])
def test_it_weighs_what_is_delivered(film, tmp_path, recipe):
    project, sources, file = film
    weight = weigh(project, recipe, sources, LINES[1], 0)
    done = deliver(
        project, file, prepared(project, recipe), tmp_path, sources,
        earlier=Earlier(tmp_path / "earlier.json"),
    )  # fmt: skip
    sizes = {each.name: each.size for each in done.files if each.frames}
    names = {name.removeprefix("Page/") for name in sizes} if recipe is BUNDLE else set(sizes)
    assert {each.name for each in weight.files} == names
    assert weight.total == pytest.approx(sum(sizes.values()), rel=0.02)


@pytest.mark.parametrize("line", LINES)
def test_after_the_wait_every_sound_is_there_when_it_is_needed(film, line):
    project, sources, _ = film
    weight = weigh(project, WAV, sources, line, 0)
    fetched = 0
    for file in weight.files:
        fetched += file.size
        needed = file.needed.sample / project.rate
        assert file.there == pytest.approx(8 * fetched / line, abs=1e-3)
        assert file.there <= needed + weight.wait + 2e-3
    moments = [file.needed.sample for file in weight.files]
    assert moments == sorted(moments)
    # And it is waited no longer than that takes.
    if weight.wait:
        assert any(
            abs(file.there - file.needed.sample / project.rate - weight.wait) < 2e-3
            for file in weight.files
        )


@pytest.mark.parametrize("recipe", [WAV, OPUS])
def test_what_saves_does_so_in_the_recipe_and_nowhere_else(film, recipe):
    project, sources, _ = film
    project = PutRecipe(recipe=recipe).apply(project)
    weight = weigh(project, recipe, sources, LINES[1], 0)
    assert weight.savings
    for saving in weight.savings:
        changed = PutRecipe(recipe=saving.recipe).apply(project)
        assert replace(changed, recipes=()) == replace(project, recipes=())
        now = weigh(changed, saving.recipe, sources, LINES[1], 0)
        assert now.total == weight.total - saving.saves


def test_a_film_without_sounds_weighs_nothing(film):
    project, sources, _ = film
    scenes = tuple(replace(scene, layers=()) for scene in project.scenes)
    weight = weigh(replace(project, scenes=scenes), WAV, sources, LINES[0], 5)
    assert (weight.files, weight.total, weight.wait, weight.picture) == ((), 0, 0.0, 5)
    assert not weight.savings
