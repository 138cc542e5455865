"""What is read is a file, and no larger than it may be."""

import os

import pytest

from cicada.disk.reading import open_file, read_within
from cicada.disk.why import why
from cicada.errors import BadProject


def test_a_file_is_read_up_to_its_bound(tmp_path):
    path = tmp_path / "a"
    path.write_bytes(b"12345")
    assert read_within(path, 5, BadProject) == b"12345"
    with pytest.raises(BadProject, match="larger than the 0 MB"):
        read_within(path, 4, BadProject)


@pytest.mark.parametrize(
    "what", ["nothing", "a folder", "a pipe", "a device", "a circle", "a zero"]
)
def test_what_is_no_file_is_refused_at_once(tmp_path, what):
    path = tmp_path / "a"
    if what == "a folder":
        path.mkdir()
    elif what == "a pipe":
        os.mkfifo(path)
    elif what == "a device":
        path.symlink_to("/dev/zero")
    elif what == "a circle":
        path.symlink_to(path)
    elif what == "a zero":
        path = tmp_path / "a\0b"
    said = {
        "nothing": "is not there", "a folder": "is a folder", "a pipe": "is no file",
        "a device": "is no file", "a circle": "links lead in a circle",
        "a zero": "not one a file can have",
    }  # fmt: skip
    with pytest.raises(BadProject, match=said[what]):
        open_file(path, BadProject)


def test_what_the_system_says_is_put_in_words():
    assert why(OSError(28, "No space left on device")) == "no room is left on this disk"
    assert why(OSError(71, "Protocol error")) == "protocol error"
    assert why(OSError("odd")) == "it cannot be opened"
