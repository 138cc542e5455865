"""Only the doors open files: whoever else does is not bounded, and not written whole."""

import ast

import pytest

# What opens files of our own (locked, mapped or packaged), or hands them to a library.
ALLOWED = {
    "cli/output.py",  # an output that is closed leads to nowhere
    "demo/pictures.py",  # what the demo makes
    "media/cache.py",  # numpy maps its own arrays
    "media/take_file.py",  # a recording, appended to as it comes
    "store/journal.py",  # locked, and appended to
    "store/log.py",
    "store/recordings.py",  # notes that are locked
    "deliver/bundle.py",  # the player, packaged
    "deliver/packing.py",  # entries of an archive that is a file of the door
    "deliver/schema.py",  # a developer's command
    "deliver/video.py",  # FFmpeg writes into a file of the door
    "store/unfinished.py",  # asks for a lock
    "window/drawing/icons.py",
    "window/drawing/theme.py",
}
# Of a path that a file names these raise, where it is too long or may not be seen.
ASKS = {"exists", "is_file", "is_dir", "is_symlink"}
PATHS = {"read_bytes", "read_text", "write_bytes", "write_text"}


def opens(tree):
    for node in ast.walk(tree):
        if isinstance(node, ast.Call) and isinstance(node.func, ast.Attribute):
            on_os = isinstance(node.func.value, ast.Name) and node.func.value.id == "os"
            words = [a.value for a in node.args if isinstance(a, ast.Constant)]
            mode = any(w in {"r", "rb", "w", "wb", "a", "ab", "w+b", "r+b"} for w in words)
            if node.func.attr in PATHS or (node.func.attr == "open" and (on_os or mode)):
                yield ast.unparse(node)
        if isinstance(node, ast.Call) and ast.unparse(node.func) in {"open", "shutil.copyfile"}:
            yield ast.unparse(node)


def modules(root):
    return sorted((root / "cicada").rglob("*.py"))


def test_nothing_but_the_doors_opens_files(pytestconfig):
    root = pytestconfig.rootpath
    found = {
        str(path.relative_to(root / "cicada")): calls
        for path in modules(root)
        if path.parent.name != "disk" and (calls := list(opens(ast.parse(path.read_text("utf-8")))))
    }
    assert not {name: calls for name, calls in found.items() if name not in ALLOWED}


def test_nothing_asks_a_path_in_a_way_that_may_raise(pytestconfig):
    root = pytestconfig.rootpath
    asked = [
        (path.name, ast.unparse(node))
        for path in modules(root)
        if path.parent.name != "disk"
        for node in ast.walk(ast.parse(path.read_text("utf-8")))
        if isinstance(node, ast.Call) and isinstance(node.func, ast.Attribute)
        if node.func.attr in ASKS
    ]
    assert not asked


@pytest.mark.parametrize("code", ["p.read_bytes()", "p.open('rb')", "os.open(p, 0)", "open(p)"])
def test_an_opening_would_be_found(code):
    assert list(opens(ast.parse(code)))
