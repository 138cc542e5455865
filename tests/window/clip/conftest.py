"""A clip that is opened."""

import pytest

from tests.by_hand import key
from tests.window.clip.opened import BELL


@pytest.fixture
def opened(harbour, qtbot, settled):
    """The window with the bell opened on its sheet."""
    harbour.session.choose(BELL)
    settled(harbour)
    key(qtbot, harbour, "E")
    settled(harbour)
    return harbour
