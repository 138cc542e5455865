"""Drift as scripts and tables read it."""

import csv
import io
import json
from collections.abc import Iterable

from cicada.core.drift import Drift

FIELDS = ("scene", "layer", "frame", "start", "largest", "last")


def as_json(found: Iterable[Drift]) -> str:
    """A list with an object for each voice; drift is in samples, positive ahead of the picture."""
    return json.dumps([_fields(drift) for drift in found], indent=1)


def as_csv(found: Iterable[Drift]) -> str:
    """A table with a row for each voice."""
    table = io.StringIO()
    rows = csv.DictWriter(table, FIELDS, lineterminator="\n")
    rows.writeheader()
    rows.writerows(_fields(drift) for drift in found)
    return table.getvalue()


def _fields(drift: Drift) -> dict[str, str | int]:
    voice = drift.voice
    values = (*voice.anchor, voice.start, drift.largest, drift.last)
    return dict(zip(FIELDS, values, strict=True))
