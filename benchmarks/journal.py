"""What protecting an edit costs the window's thread."""

import statistics
import tempfile
import time
from pathlib import Path

import msgspec

from benchmarks.films import many_keyframes
from benchmarks.runner import Figure, compare
from cicada.core.editing import Cell
from cicada.core.keyframe_edits import ChangeKeyframes, PutKeyframes
from cicada.store.journal import Journal

EDITS = 400


def figures():
    yield small_edits()
    yield large_edit()


def small_edits():
    """Edits of up to 500 keyframes among 10,000 on 200 layers: the 99th percentile."""
    project = many_keyframes(10_000)
    cells = [Cell(layer.id, k.frame) for _, layer in project.all_layers() for k in layer.keyframes]
    made = []
    for number in range(EDITS):
        size = (1, 5, 50, 500)[number % 4]
        start = number * 97 % (len(cells) - size)
        edit = ChangeKeyframes(
            cells=tuple(cells[start : start + size]), changes={"level": 0.5 + number / 1000}
        )
        project = edit.apply(project)
        made.append((edit, project))
    with tempfile.TemporaryDirectory() as name:
        journal = Journal(Path(name))
        journal.become(many_keyframes(10_000), Path(name) / "film.cicada")
        journal.is_now(many_keyframes(10_000))
        took = []
        for edit, after in made:
            began = time.perf_counter()
            journal.edited(edit, edit.title, after, joined=False)
            took.append(time.perf_counter() - began)
        journal.forget()
        journal.close()
    worst = statistics.quantiles(took, n=100)[98] * 1000
    name = "journalling an edit of up to 500 keyframes, 99th percentile"
    return Figure(name, round(worst, 3), "ms", None, None, 1.0, ok=worst <= 1.0)


def large_edit():
    """An edit that puts 10,000 keyframes, to encoding it."""
    project = many_keyframes(10_000)
    put = tuple((layer.id, k) for _, layer in project.all_layers() for k in layer.keyframes)
    edit = PutKeyframes(keyframes=put)
    # Of each part another one every time, so that nothing of it is known already.
    afters = [edit.apply(many_keyframes(10_000)) for _ in range(2)]
    turn = iter(range(10**6))
    with tempfile.TemporaryDirectory() as name:
        journal = Journal(Path(name))
        journal.become(project, Path(name) / "film.cicada")
        journal.is_now(project)
        found = compare(
            "journalling an edit of 10,000 keyframes, to encoding it and the project",
            lambda: journal.edited(edit, edit.title, afters[next(turn) % 2], joined=False),
            lambda: (msgspec.json.encode(edit), msgspec.json.encode(afters[0])),
            1.3,
        )
        journal.forget()
        journal.close()
    return found
