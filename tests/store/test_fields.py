"""What the documents say of the files' fields is what the model says."""

import json
import re
from pathlib import Path

import msgspec
import pytest

from cicada.core import answers, made, model, patterns, recipes
from cicada.core.model import VERSION

DOCS = Path(__file__).parents[2] / "docs" / "format"
KNOWN = Path(__file__).parent / "fields_by_version.json"
KINDS = (
    model.Project, model.Scene, model.Layer, model.Clip, model.Rest, model.Hush, model.PressPoint,
    model.Mark, model.Tempo, model.Sound, model.Take, model.Style, model.Run, model.KeptRun,
    answers.Value, answers.Follows, answers.Blend, answers.BlendPart, answers.Pool,
    answers.PoolPart, answers.Playlist, answers.PlaylistPart, answers.Pad, answers.HushDeed,
    answers.Fire, answers.GlideDeed, answers.GoOn, answers.Watch, answers.Zone, answers.Input,
    made.Silence, made.Tone, made.Noise, made.RoomTone, made.SyncBeep, made.Countdown,
    patterns.Pattern, patterns.PatternPart, patterns.PlayedSound,
    recipes.MixRecipe, recipes.StemsRecipe, recipes.TrimmedRecipe, recipes.DataRecipe,
    recipes.VideoRecipe, recipes.SheetRecipe, recipes.BundleRecipe, recipes.Scope,
    recipes.Encoding, recipes.Loud,
)  # fmt: skip

WORDS = {"integer": "whole number", "string": "text", "boolean": "true or false"}


def described(part):
    """A part of a schema in a few words: its kind and range."""
    if "$ref" in part:
        return part["$ref"].rpartition("/")[2]
    if "anyOf" in part:
        words = [described(each) for each in part["anyOf"]]
        return " or ".join(dict.fromkeys(words))
    if "enum" in part:
        return ", ".join(f"`{each}`" for each in part["enum"])
    if "pattern" in part:
        return "empty or `blake2b:` and 40 of 0-9a-f"
    kind = part.get("type", "any")
    if kind == "array":
        items = part.get("prefixItems")
        if items:
            return "[" + ", ".join(described(each) for each in items) + "]"
        return f"list of {described(part['items'])}"
    words = WORDS.get(kind, kind)
    low, above = part.get("minimum"), part.get("exclusiveMinimum")
    high = part.get("maximum")
    if high is not None and high < 2**53:
        return f"{words}, {'> ' * (above is not None)}{said(low or above or 0)} to {said(high)}"
    return f"{words}, at least {said(low)}" if low is not None and low > -(2**53) else words


def said(number):
    return f"{number:,.12g}"


def rows(kind):
    """Each field of a kind with what may stand there and its default, as the documents say it."""
    schema = msgspec.json.schema(kind)
    own = schema["$defs"][kind.__name__]
    for name, part in own["properties"].items():
        if name in ("do", "what") or (
            name == "kind" and kind.__name__ not in ("Encoding", "VideoRecipe")
        ):
            continue
        default = (
            "needed" if name in own.get("required", ()) else f"`{json.dumps(part.get('default'))}`"
        )
        yield name, described(part), default


def table(kind):
    text = (DOCS / "fields.md").read_text("utf-8")
    section = re.search(rf"^## {kind.__name__}\n(.*?)(?=^## |\Z)", text, re.MULTILINE | re.DOTALL)
    lines = [line for line in section[1].splitlines() if line.startswith("| `")]
    return [[cell.strip() for cell in line.strip("|").split(" | ")] for line in lines]


@pytest.mark.parametrize("kind", KINDS, ids=lambda kind: kind.__name__)
def test_every_field_is_described_with_its_range_and_default(kind):
    said = [(row[0].strip("`"), row[1], row[2]) for row in table(kind)]
    assert said == list(rows(kind))
    assert all(len(row) == 4 for row in table(kind))


def test_a_version_keeps_its_fields():
    """A file of a version must be one that every program of that version can read."""
    known = json.loads(KNOWN.read_text("utf-8"))
    now = {
        kind.__name__: [list(row) for row in rows(kind)] for kind in KINDS if kind is not model.Run
    }
    assert now == known[str(VERSION)], "raise VERSION, and add its fields beside the others"
