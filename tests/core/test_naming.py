"""Names and ids that are not taken."""

import keyword

from hypothesis import given
from hypothesis import strategies as st

from cicada.core.model import empty_project
from cicada.core.naming import (
    code_name,
    free_id,
    free_name,
    is_code_name,
    likeness,
    readable_name,
)


@given(st.text(), st.sets(st.sampled_from(("a", "sound", "a_2", "sound_2"))))
def test_a_name_in_code_is_an_identifier_that_is_not_taken(name, taken):
    made = code_name(name, taken)
    assert made.isidentifier()
    assert made.isascii()
    assert made not in taken
    assert not keyword.iskeyword(made)
    assert is_code_name(made)


def test_a_name_that_is_a_word_of_player_code_gets_another():
    assert code_name("Class", set()) == "sound_class"
    assert code_name("Möwe", set()) == "mowe"
    assert not is_code_name("2nd")


def test_names_that_differ_in_numbering_only_are_alike():
    same = ("Rain 02 (copy)", "rain_03", "Rain final", "rain v2", "Rain - 1", "RAIN")
    assert {likeness(name) for name in same} == {"rain"}
    assert likeness("Rain bed") != likeness("Rain")
    assert likeness("12") == "12"


def test_a_taken_name_is_numbered():
    assert free_name("Rain", {"Rain", "Rain 2"}) == "Rain 3"


def test_ids_are_free_in_the_whole_project():
    assert free_id("l", empty_project("x")) == "l2"


def test_a_file_name_becomes_a_name_for_people():
    assert readable_name("cellar_door  02") == "Cellar door 02"
    assert readable_name("__") == "Sound"
