"""A sound server for the tests that need one."""

import shutil
import tempfile
from pathlib import Path

import pytest

from tests.playback.sound_server import SoundServer


@pytest.fixture
def server(monkeypatch):
    folder = Path(tempfile.mkdtemp(prefix="cicada-"))
    made = SoundServer(folder)
    for name, value in made.environment.items():
        monkeypatch.setenv(name, value)
    yield made, folder
    made.close()
    shutil.rmtree(folder)
