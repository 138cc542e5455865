"""How what follows a value sounds: against the formulas, sample by sample."""

import numpy as np
import pytest
from msgspec.structs import replace

from cicada.core.clip import clip_timing
from cicada.core.lengths import Lengths
from cicada.core.mix import Mixer
from cicada.core.planner import plan
from cicada.core.tone import InMemory
from tests.core.live_films import live_film
from tests.core.slow_mix import direct_mix, in_a_row
from tests.core.slow_values import Values

# Films of which these seconds at most are mixed.
SECONDS = 1.2


class Noise:
    """Random samples for every sound and playlist of a film, its speeds by taking each n-th."""

    def __init__(self, project):
        self.project, self.lengths = project, Lengths(project)
        self.wholes = {}
        for number, sound in enumerate(project.sounds):
            length = self.lengths[sound.id]
            made = np.random.default_rng(number).uniform(-1, 1, (1, length))
            self.wholes[sound.id] = made.astype(np.float32)
        for playlist in project.playlists:
            self.wholes[playlist.id] = in_a_row(playlist, project, self.wholes).astype(np.float32)

    def source(self, sound, first, last, speed):
        length = int(np.floor((last - first) / speed + 0.5))
        places = np.minimum((np.arange(length) * speed).astype(int) + first, max(0, last - 1))
        return InMemory(np.ascontiguousarray(self.wholes[sound][:, places]))


def short_film(seed):
    """A random film with a run from its beginning, cut short."""
    project, run = live_film(seed, follows=True)
    run = replace(run, scene=None, frame=0, chase=False, limit=min(run.limit or 9, SECONDS))
    return project, run


# Without two whose films are so long that to add them up word for word takes minutes.
@pytest.mark.parametrize("seed", [seed for seed in range(26) if seed not in (9, 20)])
def test_the_mix_of_what_answers_is_what_the_formulas_give(seed):
    project, run = short_film(seed)
    made, noise = plan(project, run), Noise(project)
    values = Values(project, made)

    def loop_of(clip, plays, sound):
        timing = clip_timing(clip, noise.lengths[plays], project.rate)
        return noise.source(sound, timing.first, timing.last, clip.speed).samples

    mixed = Mixer(made, project, noise).mix(0, made.length)
    wanted = direct_mix(
        project, made, loop_of, lambda name, gain: values.gains(name, gain, made.length)
    )
    assert np.abs(mixed - wanted).max(initial=0) < 1e-5 * np.abs(wanted).max(initial=1)
