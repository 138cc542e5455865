"""A sound server for the tests that need one."""

import shutil
import tempfile
from pathlib import Path

import pytest

from tests.playback.sound_server import SoundServer


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
