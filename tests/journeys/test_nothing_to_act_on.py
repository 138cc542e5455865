"""Every command in states in which it may have nothing to act on: it does something, or says so."""

import pytest
from PySide6.QtWidgets import QApplication, QDialog, QFileDialog, QLineEdit

from cicada.core.layer_edits import RemoveLayer
from cicada.core.model import empty_project

# They end the window, or are what is looked at here.
LEFT_OUT = {"quit"}
# They do nothing that can be seen where there is nothing to be silenced, put back or let go of.
QUIET = {"silence", "fit"}


def seen(window):
    """All that a command may change, as far as anybody can see it."""
    session, sheet, conditions = window.session, window.sheet, window.conditions
    transport = window.transport
    return (
        window.foot.note.text(), window.document.project, session.scene_id, session.playhead,
        session.cell, session.chosen, session.sound, session.opened, sheet.place.scale,
        sheet.place.left, sheet.unit, sheet.waits_open, window.sheet.snapping.on, conditions.scope,
        conditions.passes, conditions.range, conditions.shown_pass, transport.playing,
        transport.sounding, transport.pace, window.lower_half.side.currentWidget(),
        window.styleSheet(),
        [part.isHidden() for part in (window.picture, window.card, window.lower_half.side)],
        len([w for w in QApplication.topLevelWidgets() if w.isVisible()]),
        len([field for field in window.findChildren(QLineEdit) if field.isVisible()]),
        window.on_picture.over_sheet, QApplication.focusWidget(),
        QApplication.activePopupWidget(),
    )  # fmt: skip


@pytest.fixture
def nobody_answers(monkeypatch):
    """Questions and file dialogs that are left at once; how often there were any."""
    from cicada.window.widgets import asking

    asked = []
    for kind in (asking.Question, asking.TypedQuestion, QDialog):
        monkeypatch.setattr(kind, "exec", lambda self: asked.append(self) or 0)
    for name, nothing in (
        ("getOpenFileName", ("", "")), ("getOpenFileNames", ([], "")),
        ("getSaveFileName", ("", "")), ("getExistingDirectory", ""),
    ):  # fmt: skip
        monkeypatch.setattr(
            QFileDialog, name, lambda *_, nothing=nothing, **__: asked.append(1) or nothing
        )
    return asked


def empty(window):
    window.document.new(empty_project("Nothing", length=1))


def bare(window):
    window.document.new(empty_project("Bare"))
    window.document.do(RemoveLayer(layer="l1"))


def chosen(window):
    window.document.new(empty_project("Chosen"))
    window.menus.actions["down"].trigger()


@pytest.mark.parametrize("state", [empty, bare, chosen], ids=lambda state: state.__name__)
def test_every_command_does_something_or_says_why_not(window, settled, nobody_answers, state):
    silent = []
    for name, action in window.menus.actions.items():
        if name in LEFT_OUT | QUIET:
            continue
        state(window)
        settled(window)
        window.foot.note.setText("")
        window.setFocus()
        before, asked = seen(window), len(nobody_answers)
        if not action.isEnabled():
            continue
        action.trigger()
        settled(window)
        if seen(window) == before and len(nobody_answers) == asked:
            silent.append(name)
        window.transport.stop()
        window.on_picture.close_window()
        for dialog in window.findChildren(QDialog):
            dialog.close()
        if QApplication.activePopupWidget() is not None:
            QApplication.activePopupWidget().close()
    assert not silent, " ".join(silent)
