"""Names and ids that are not taken."""

import keyword

from hypothesis import given
from hypothesis import strategies as st

from cicada.core.model import empty_project
from cicada.core.naming import code_name, free_id, free_name, readable_name


@given(st.text(), st.sets(st.sampled_from(("a", "sound", "a_2", "sound_2"))))
def test_a_name_in_code_is_an_identifier_that_is_not_taken(name, taken):
    made = code_name(name, taken)
    assert made.isidentifier()
    assert made.isascii()
    assert made not in taken or keyword.iskeyword(made)


def test_a_taken_name_is_numbered():
    assert free_name("Rain", {"Rain", "Rain 2"}) == "Rain 3"


def test_ids_are_free_in_the_whole_project():
    assert free_id("l", empty_project("x")) == "l2"


def test_a_file_name_becomes_a_name_for_people():
    assert readable_name("cellar_door  02") == "Cellar door 02"
    assert readable_name("__") == "Sound"
