"""Undo and redo over long random work, and the list of steps."""

from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st
from msgspec.structs import replace

from cicada.core.shelf_edits import AddSounds
from cicada.store.projectfile import dumps, loads
from cicada.window.state.document import Document
from tests.core.random_edits import any_edit
from tests.core.test_edits import BELL


def read_back(project):
    """A project as it is read from its file, but for the version: only a file says which it is."""
    return replace(loads(dumps(project)), version=project.version)


@settings(max_examples=15, suppress_health_check=[HealthCheck.too_slow, HealthCheck.data_too_large])
@given(st.lists(any_edit, min_size=200, max_size=200), st.integers(0, 199))
def test_200_edits_and_as_many_undos_give_back_the_project_and_redo_its_end(
    tmp_path_factory, edits, saved_after
):
    document = Document(tmp_path_factory.mktemp("recovery"))
    document.do(AddSounds(sounds=(BELL,)))
    began = document.project
    for number, edit in enumerate(edits):
        document.do(edit)
        if number == saved_after:
            assert read_back(document.project) == document.project
    end, done = document.project, document.titles()[1]
    for _ in range(done - 1):
        document.undo()
    assert document.project is began
    for _ in range(done - 1):
        document.redo()
    assert document.project is end
    assert read_back(end) == end


def test_going_to_a_step_is_undoing_up_to_it(tmp_path):
    document = Document(tmp_path)
    seen = [document.project]
    for name in ("Bell", "Horn", "Tap"):
        document.do(AddSounds(sounds=(replace_name(name),)))
        seen.append(document.project)
    for step in (1, 3, 0, 2):
        document.go_to_step(step)
        assert document.project is seen[step]
    assert document.titles() == (["import Bell", "import Horn", "import Tap"], 2)


def replace_name(name):
    return replace(BELL, id=f"s-{name}", name=name)
