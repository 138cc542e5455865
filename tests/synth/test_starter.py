"""The starter collection: some forty sounds, each pleasant in level, beds that go round."""

import numpy as np
import pytest
import soundfile

from cicada.media.measures import seam
from cicada.synth.starter import COLLECTION, RATE, make_starter, samples_of

CATEGORIES = {"Impacts", "Moves", "Beds", "Voices", "Signals", "Textures"}


@pytest.mark.parametrize("starter", COLLECTION, ids=lambda s: s.name)
def test_a_sound_of_the_collection_is_heard_and_begins_and_ends_softly(starter):
    samples = samples_of(starter)
    assert np.isfinite(samples).all()
    assert np.abs(samples).max() == pytest.approx(0.7)
    assert 0.02 * RATE < len(samples) < 12 * RATE
    if starter.category == "Beds":
        assert not seam(samples.T.astype(np.float32), RATE).clicks
    else:
        assert np.abs(samples[-3:]).max() < 0.05


def test_the_collection_is_made_once_and_what_is_there_stays(tmp_path):
    make_starter(tmp_path)
    files = sorted(tmp_path.rglob("*.flac"))
    assert len(files) == len(COLLECTION) >= 40
    assert {path.parent.name for path in files} == CATEGORIES
    assert sum(path.stat().st_size for path in files) < 8_000_000
    before = files[0].stat().st_mtime_ns
    files[1].unlink()
    make_starter(tmp_path)
    assert files[0].stat().st_mtime_ns == before
    assert soundfile.info(files[1]).samplerate == RATE
