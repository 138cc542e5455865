"""What a player must fetch, weighed where it stands on the disk."""

import pytest

from cicada.core.recipes import BundleRecipe, Encoding, Scope, TrimmedRecipe
from cicada.deliver.delivery import deliver
from cicada.deliver.earlier import Earlier
from cicada.deliver.ready import prepared
from cicada.jobs.picturing import Picturing
from cicada.jobs.weighing import weigh_recipe
from cicada.media.cache import user_cache
from cicada.media.picture_process import DecoderHere
from cicada.media.sources import SoundSources
from cicada.store.projectfile import load
from cicada.store.sounds_folder import sound_files

LINE = 1_500_000


@pytest.fixture(scope="module")
def film(whole_demo, qapp):
    project = load(whole_demo)
    return project, sound_files(project, whole_demo), whole_demo


def weighed(film, recipe):
    project, files, file = film
    return weigh_recipe(project, files, user_cache().folder, file, recipe, LINE)


def test_the_images_of_a_bundle_weigh_about_what_is_delivered(film, tmp_path):
    project, files, file = film
    recipe = BundleRecipe(
        id="r", name="Page", height=90, encoding=Encoding(kind="opus"), scope=Scope(scene="sc3")
    )
    weight = weighed(film, recipe)
    pictures = Picturing(project, file, lambda _: True, DecoderHere())
    done = deliver(
        project, file, prepared(project, recipe), tmp_path,
        SoundSources(project, files, user_cache()), earlier=Earlier(tmp_path / "earlier.json"),
        pictures=pictures,
    )  # fmt: skip
    pictures.close()
    sizes = {each.name.rpartition("/")[2]: each.size for each in done.files}
    assert weight.picture == pytest.approx(sizes["pictures"], rel=0.1)
    assert weight.total == pytest.approx(
        sum(each.size for each in done.files if each.frames), rel=0.02
    )


def test_a_page_that_draws_itself_fetches_no_picture(film):
    assert weighed(film, BundleRecipe(id="r", picture=False, scope=Scope(scene="sc3"))).picture == 0


def test_beside_trimmed_sounds_the_picture_is_that_of_its_own_files(film):
    _, _, file = film
    pictures = [path for path in (file.parent / "harbour.pictures").rglob("*") if path.is_file()]
    weight = weighed(film, TrimmedRecipe(id="r", encoding=Encoding(bits=16)))
    assert weight.picture == sum(path.stat().st_size for path in pictures)
