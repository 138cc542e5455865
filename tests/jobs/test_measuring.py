"""The jobs that measure and mix the demo, done here instead of in a worker."""

import numpy as np
import pytest
from msgspec.structs import replace

from cicada.core.model import Clip, Run
from cicada.core.planner import plan
from cicada.errors import BadSound, Cancelled
from cicada.jobs import slowest, worker
from cicada.jobs.measuring import (
    film_levels,
    find_hits,
    find_tempo,
    fitting_overlap,
    hear_together,
    loudnesses,
)
from cicada.jobs.mixing import mix_down, mixed_peaks, prove
from cicada.jobs.slowest import find_slowest
from cicada.media.cache import user_cache
from cicada.store.projectfile import load
from cicada.store.sounds_folder import sound_files


@pytest.fixture(scope="module")
def film(whole_demo):
    project = load(whole_demo)
    return project, sound_files(project, whole_demo), user_cache().folder


@pytest.fixture
def stopped(monkeypatch):
    monkeypatch.setattr(worker._Here, "shared", [0.0, 0.0, 1.0])


def test_the_films_levels_are_those_of_its_mixdown(film, tmp_path):
    project, files, cache = film
    prove(project, files, cache)
    found = film_levels(project, files, cache)
    made = plan(project)
    mixed = mix_down(made, project, files, cache, tmp_path / "mix.wav", "FLOAT")
    assert found.peak == pytest.approx(10 ** (mixed.levels.peak_db / 20), rel=1e-4)
    assert found.true_peak >= found.peak
    assert found.loudest > found.loudness
    (first, far) = mixed_peaks(made, project, files, cache, frozenset(), [0, 10_000])
    assert np.abs(first).max() > 0
    assert far.shape == first.shape


def test_measuring_a_film_can_be_stopped(film, stopped, monkeypatch):
    with pytest.raises(Cancelled):
        film_levels(*film)
    monkeypatch.setattr(slowest, "slowest", lambda *_: None)
    with pytest.raises(Cancelled):
        find_slowest(film[0], Run(), 1)


def test_a_clip_twice_as_loud_measures_six_lu_more(film):
    clip = Clip(frame=0, sound="s7")
    quiet, loud, silent = loudnesses(
        *film, [(clip, 0.25), (replace(clip, level=2.0), 0.25), (replace(clip, level=0.0), 1.0)]
    )
    assert loud - quiet == pytest.approx(6.02, abs=0.05)
    assert silent is None


def test_hits_tempos_and_overlaps_are_found_in_what_is_decoded_and_nowhere_else(film):
    project, files, cache = film
    key = user_cache().sound_key(project.sound("s4").hash, project.rate)
    assert find_hits(key, project.rate, cache).hits
    assert find_hits("none", project.rate, cache) is None
    assert find_tempo(project, files, cache, "s4") is not None
    assert fitting_overlap(project, files, cache, Clip(frame=0, sound="s4", loops=2)) > 0
    gone = replace(project, sounds=(replace(project.sounds[0], hash="blake2b:" + 40 * "0"),))
    assert fitting_overlap(gone, {}, cache, Clip(frame=0, sound="s1", loops=2)) is None


def test_what_is_heard_together_is_as_long_as_the_shortest(film):
    project, files, cache = film
    found = hear_together(project, files, cache, ("s12", "q1"))
    assert (len(found.keys), found.samples) == (2, 3 * project.rate)
    gone = replace(project, sounds=(replace(project.sounds[0], hash="blake2b:" + 40 * "0"),))
    with pytest.raises(BadSound, match="cannot be heard"):
        hear_together(gone, {}, cache, ("s1",))
