"""How long a user's player took to draw each picture, as it has logged it.

Either a table with the columns ``scene``, ``frame`` (from 0) and ``ms``, or a JSON object with
these in each line.
"""

import csv
import io
import json
from collections.abc import Iterator
from pathlib import Path
from statistics import median
from typing import NamedTuple

from cicada.core.model import DrawTime, Project
from cicada.disk.reading import read_within
from cicada.errors import BadProject

# Bytes of a log, and frames of the scenes in it.
LARGEST, LONGEST = 10_000_000, 2_000_000
# Milliseconds that drawing a picture takes at most.
MOST = 60_000.0
KEYS = ("scene", "frame", "ms")


class DrawLog(NamedTuple):
    """Seconds by scene and frame, and how they came about.

    ``repeated`` pictures were logged more than once: the largest counts. ``missing`` ones were not,
    in scenes that were: the median of their scene counts. ``elsewhere`` lines are of frames that
    the film does not have.
    """

    times: dict[str, DrawTime]
    logged: int
    repeated: int
    missing: int
    elsewhere: int


def read_draw_log(path: Path, project: Project) -> DrawLog:
    """The log in ``path``; raises ``BadProject`` with the line that cannot be read."""
    data = read_within(path, LARGEST, BadProject)
    try:
        text = data.decode("utf-8-sig")
    except UnicodeDecodeError:
        raise BadProject(
            "is no text", file=str(path), remedy="log scene, frame and ms, line by line"
        ) from None
    try:
        return _gathered(_lines(text), project)
    except BadProject as error:
        raise error.at(str(path)) from None


def _gathered(lines: Iterator[tuple[int, dict[str, object]]], project: Project) -> DrawLog:
    lengths = {scene.id: scene.length for scene in project.scenes}
    ids = {scene.label: scene.id for scene in project.scenes} | {each: each for each in lengths}
    found: dict[str, dict[int, float]] = {}
    repeated, elsewhere = set[tuple[str, int]](), 0
    for number, line in lines:
        scene, frame, ms = _line(number, line, ids)
        if frame >= lengths[scene]:
            elsewhere += 1
            continue
        times = found.setdefault(scene, {})
        if frame in times:
            repeated.add((scene, frame))
        times[frame] = max(ms, times.get(frame, 0.0))
    if not found:
        raise BadProject("logs no frame of this film", remedy="log scene, frame and ms")
    if sum(lengths[scene] for scene in found) > LONGEST:
        raise BadProject(f"is of scenes of more than {LONGEST:,} frames", remedy="log shorter ones")
    made, missing = dict[str, DrawTime](), 0
    for scene, times in found.items():
        between = median(times.values())
        missing += lengths[scene] - len(times)
        made[scene] = tuple(
            round(times.get(frame, between) / 1000, 9) for frame in range(lengths[scene])
        )
    logged = sum(map(len, found.values()))
    return DrawLog(made, logged, len(repeated), missing, elsewhere)


def _lines(text: str) -> Iterator[tuple[int, dict[str, object]]]:
    """Each line's number and what it says."""
    if text.lstrip().startswith("{"):
        for number, line in enumerate(text.splitlines(), 1):
            if line.strip():
                try:
                    said = json.loads(line)
                except (ValueError, RecursionError):
                    raise _bad(number, "is no JSON") from None
                if not isinstance(said, dict):
                    raise _bad(number, "is no object")
                yield number, said
        return
    rows = csv.reader(io.StringIO(text))
    try:
        names = [name.strip().lower() for name in next(rows, [])]
        if not set(KEYS) <= set(names):
            raise BadProject(
                "has no columns scene, frame and ms", remedy="name them in its first line"
            )
        for row in rows:
            if any(cell.strip() for cell in row):
                yield rows.line_num, dict(zip(names, row, strict=False))
    except csv.Error:
        raise _bad(rows.line_num, "is no row of a table") from None


def _line(number: int, line: dict[str, object], ids: dict[str, str]) -> tuple[str, int, float]:
    missing = [key for key in KEYS if key not in line]
    if missing:
        raise _bad(number, f"has no {missing[0]}")
    scene = str(line["scene"]).strip()
    if scene not in ids:
        raise _bad(number, f"names the scene {scene!r}, which this film does not have")
    frame, ms = _number(number, line["frame"], "frame"), _number(number, line["ms"], "ms")
    if frame < 0 or frame != int(frame):
        raise _bad(number, "has a frame that is no whole number from 0 on")
    if not 0 <= ms <= MOST:
        raise _bad(number, f"has ms that are not from 0 to {MOST:.0f}")
    return ids[scene], int(frame), ms


def _number(line: int, value: object, name: str) -> float:
    if not isinstance(value, str | int | float) or isinstance(value, bool):
        raise _bad(line, f"has {name} that is no number")
    try:
        number = float(value)
    except (ValueError, OverflowError):
        raise _bad(line, f"has {name} that is no number") from None
    if number != number or abs(number) > 1e15:  # noqa: PLR0124 - it is no number
        raise _bad(line, f"has {name} that is no number")
    return number


def _bad(line: int, problem: str) -> BadProject:
    return BadProject(problem, place=f"line {line}", remedy="log scene, frame and ms")
