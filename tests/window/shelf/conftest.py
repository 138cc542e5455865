"""Folders to import, and shelves on which all is measured."""

import pytest


@pytest.fixture
def imported(qtbot, settled):
    """Wait until the import that has been begun is over."""

    def wait(window):
        qtbot.waitUntil(lambda: window.imports.importing.done, timeout=60_000)
        settled(window)
        return window.imports.importing

    return wait


@pytest.fixture
def measured(harbour, settled, qtbot):
    project = harbour.document.project
    qtbot.waitUntil(lambda: all(map(harbour.measuring.of, project.sounds)), timeout=30_000)
    return harbour
