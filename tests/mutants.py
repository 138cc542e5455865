"""Random changes of one operator in the core, and whether the core's tests notice.

``python -m tests.mutants --count 100 --seed 1`` (``make mutants``): each is made in a copy of the
tree, where ``tests/core`` is run; those nobody notices are printed.
"""

import argparse
import ast
import os
import random
import shutil
import subprocess
import sys
import tempfile
import time
from pathlib import Path

HERE = Path(__file__).parents[1]
PATIENCE = 900
# Tests that plan many random films: what others notice sooner is left to them.
LONG = ("test_any_plan", "test_live", "test_planner", "test_state")
COMPARED = {
    ast.Lt: ast.LtE, ast.LtE: ast.Lt, ast.Gt: ast.GtE, ast.GtE: ast.Gt, ast.Eq: ast.NotEq,
    ast.NotEq: ast.Eq, ast.In: ast.NotIn, ast.NotIn: ast.In, ast.Is: ast.IsNot, ast.IsNot: ast.Is,
}  # fmt: skip
RECKONED = {
    ast.Add: ast.Sub, ast.Sub: ast.Add, ast.Mult: ast.FloorDiv, ast.FloorDiv: ast.Mult,
    ast.Div: ast.Mult, ast.Mod: ast.FloorDiv, ast.BitOr: ast.BitAnd, ast.BitAnd: ast.BitOr,
}  # fmt: skip
JOINED = {ast.And: ast.Or, ast.Or: ast.And}


def places(tree):
    """Every operator of a module that can be another one, but for those in types."""
    types = set()
    for node in ast.walk(tree):
        for name in ("annotation", "returns"):
            if getattr(node, name, None) is not None:
                types.update(ast.walk(getattr(node, name)))
        if (
            isinstance(node, ast.Assign)
            and isinstance(node.value, ast.Subscript | ast.BinOp)
            and all(isinstance(t, ast.Name) and t.id[0].isupper() for t in node.targets)
        ):
            # The name of a type.
            types.update(ast.walk(node.value))
    for node in ast.walk(tree):
        if node in types:
            continue
        if isinstance(node, ast.Compare) and len(node.ops) == 1 and type(node.ops[0]) in COMPARED:
            yield node
        if isinstance(node, ast.BinOp | ast.AugAssign) and type(node.op) in RECKONED:
            yield node
        if isinstance(node, ast.BoolOp):
            yield node


def change(node):
    if isinstance(node, ast.Compare):
        node.ops = [COMPARED[type(node.ops[0])]()]
    elif isinstance(node, ast.BoolOp):
        node.op = JOINED[type(node.op)]()
    else:
        node.op = RECKONED[type(node.op)]()


def mutants(count, seed):
    """So many files, each with the line that is changed and the text with the change."""
    found = []
    for path in sorted((HERE / "cicada" / "core").glob("*.py")):
        number = len(list(places(ast.parse(path.read_text("utf-8")))))
        found += [(path, which) for which in range(number)]
    for path, which in random.Random(seed).sample(found, min(count, len(found))):
        tree = ast.parse(path.read_text("utf-8"))
        node = list(places(tree))[which]
        before = ast.unparse(node)
        change(node)
        yield path, node.lineno, f"{before}  ->  {ast.unparse(node)}", ast.unparse(tree)


def noticed(folder, path, text):
    """Whether the core's tests fail with a change; those named after the module are run first."""
    target = folder / path.relative_to(HERE)
    kept = target.read_text("utf-8")
    target.write_text(text, "utf-8")
    try:
        tests = (folder / "tests" / "core").glob("test_*.py")
        order = sorted(
            tests, key=lambda test: (path.stem not in test.stem, test.stem in LONG, test)
        )
        return fails(folder, map(str, order))
    finally:
        target.write_text(kept, "utf-8")


def fails(folder, tests):
    environment = {**os.environ, "PYTHONPATH": str(folder), "HYPOTHESIS_PROFILE": "dev"}
    try:
        ran = subprocess.run(
            [sys.executable, "-m", "pytest", "-q", "-x", "-p", "no:cacheprovider", *tests],
            cwd=folder, env=environment, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL,
            timeout=PATIENCE, check=False,
        )  # fmt: skip
    except subprocess.TimeoutExpired:
        return True
    else:
        return ran.returncode != 0


def main():
    parser = argparse.ArgumentParser(prog="mutants", description=__doc__)
    parser.add_argument("--count", type=int, default=100)
    parser.add_argument("--seed", type=int, default=1)
    options = parser.parse_args()
    seen = missed = 0
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        for part in ("cicada", "tests"):
            ignored = shutil.ignore_patterns("__pycache__")
            shutil.copytree(HERE / part, folder / part, ignore=ignored)
        shutil.copy(HERE / "pyproject.toml", folder)
        for path, line, what, text in mutants(options.count, options.seed):
            began = time.monotonic()
            caught = noticed(folder, path, text)
            seen, missed = seen + 1, missed + (not caught)
            word = "noticed" if caught else "MISSED "
            took = time.monotonic() - began
            print(f"{word} {path.stem}:{line} ({took:.0f} s)  {what}", flush=True)
    print(f"{seen - missed} of {seen} noticed")
    return 0


if __name__ == "__main__":
    sys.exit(main())
