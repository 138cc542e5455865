"""What can be undone and done again, held against a plain list of all that was."""

from hypothesis import given
from hypothesis import strategies as st
from msgspec.structs import replace

from cicada.core.history import History
from cicada.core.model import empty_project

START = empty_project("0")
acts = st.lists(st.sampled_from(("do", "join", "undo", "redo")), max_size=30)


@given(acts)
def test_undo_and_redo_walk_along_what_was_done(acts):
    history, all_, at = History(START), [("", START)], 0
    for number, act in enumerate(acts, 1):
        if act in {"do", "join"}:
            project, joined = replace(START, name=str(number)), act == "join" and at > 0
            history = history.done(f"step {number}", project, joined=act == "join")
            all_[at + (not joined) :] = [(f"step {number}", project)]
            at += not joined
        elif act == "undo":
            history, at = history.undone(), max(0, at - 1)
        else:
            history, at = history.redone(), min(len(all_) - 1, at + 1)
        assert history.project is all_[at][1]
        assert history.titles() == ([title for title, _ in all_[1:]], at)
        assert {id(p) for p in history.projects()} == {id(p) for _, p in all_}


def test_a_history_is_changed_throughout():
    history = History(START)
    for name in "123":
        history = history.done(name, replace(START, name=name))
    renamed = history.undone().changed(lambda project: replace(project, rate=8000))
    assert [project.rate for project in renamed.projects()] == [8000] * 4
    assert renamed.titles() == (["1", "2", "3"], 2)
    assert renamed.redone().project.name == "3"


def test_a_history_at_either_end_stays_as_it_is():
    history = History(START)
    assert history.undone() is history
    assert history.redone() is history
