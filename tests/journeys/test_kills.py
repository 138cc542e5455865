"""A window killed while somebody works in it: what it had reported finished comes back."""

from tests.kills import kill_once, screen
from tests.kills_of_commands import kill_command_once


def test_kills_lose_nothing_finished_and_leave_no_process(tmp_path):
    with screen() as display:
        found = [kill_once(tmp_path, f"7-{number}", display) for number in range(4)]
    assert [each for each in found if each["wrong"]] == []
    assert sum(each["edits"] for each in found)


def test_commands_that_are_killed_leave_nothing_half_or_wrong(tmp_path):
    found = [kill_command_once(tmp_path, f"7-{number}") for number in range(5)]
    assert [each for each in found if each["wrong"]] == []
