"""A sound server for the tests that need one, and a film to play."""

import shutil
import tempfile
from pathlib import Path

import pytest

from cicada.core.mix import Mixer
from cicada.core.model import Run
from cicada.core.planner import plan
from cicada.media.cache import user_cache
from cicada.media.sources import SoundSources
from cicada.playback.messages import Load
from cicada.playback.output import RecordingOutput
from cicada.playback.player import Player
from cicada.store.projectfile import load
from cicada.store.sounds_folder import sound_files
from tests.playback.sound_server import RATE, SoundServer


@pytest.fixture
def server(monkeypatch, request):
    """One of the kind that a test is parametrized with, and its folder."""
    folder = Path(tempfile.mkdtemp(prefix="cicada-"))
    made = SoundServer(folder, getattr(request, "param", "PulseAudio"))
    for name, value in made.environment.items():
        monkeypatch.setenv(name, value)
    yield made, folder
    made.close()
    shutil.rmtree(folder)


class Film:
    def __init__(self, demo):
        self.project = load(demo)
        self.plan = plan(self.project, Run())
        self.files = {sound: str(path) for sound, path in sound_files(self.project, demo).items()}
        sources = SoundSources(self.project, sound_files(self.project, demo), user_cache())
        self.render = Mixer(self.plan, self.project, sources).mix(0, self.plan.length).T

    def player(self):
        player = Player(RecordingOutput(RATE), user_cache())
        player.handle(Load(self.project, self.plan, self.files))
        return player


@pytest.fixture(scope="module")
def film(demo):
    return Film(demo)
