"""The JSON Schemas of project and run files, player data and bundles, generated from the model."""

import json
from inspect import cleandoc
from pathlib import Path
from typing import Any

import msgspec

from cicada.core.model import Project, Run
from cicada.deliver.bundle import Bundle
from cicada.deliver.player_data import DECIMAL, EXACT, LEFT_OUT, SEED, PlayerData

Schema = dict[str, Any]
Kind = type[Project] | type[Run] | type[PlayerData] | type[Bundle]
FILES: dict[str, Kind] = {
    "project.schema.json": Project,
    "run.schema.json": Run,
    "player.schema.json": PlayerData,
    "bundle.schema.json": Bundle,
}


def schema_of(kind: Kind) -> Schema:
    """The schema of one kind of file."""
    schema = msgspec.json.schema(kind)
    if kind in (PlayerData, Bundle):
        film, run = _written_out(Project), _written_out(Run)
        schema["$defs"] |= film["$defs"] | run["$defs"]
        own = schema["$defs"][kind.__name__]["properties"]
        own["film"], own["run"] = {"$ref": film["$ref"]}, {"$ref": run["$ref"]}
    return {**schema, "$schema": "https://json-schema.org/draft/2020-12/schema"}


def schema_text(kind: Kind) -> str:
    """That as it stands in ``docs/format``."""
    return json.dumps(_plainly(schema_of(kind)), indent=2) + "\n"


def _written_out(kind: type[Project] | type[Run]) -> Schema:
    """The schema of a part of player data: every field is there, exact numbers are texts."""
    schema = msgspec.json.schema(kind)
    for part in schema["$defs"].values():
        fields = {
            name: _as_text(field, "number" if name in EXACT else "integer")
            if name in EXACT or name == SEED
            else field
            for name, field in part.get("properties", {}).items()
            if name not in LEFT_OUT
        }
        for field in fields.values():
            field.pop("default", None)
        if fields:
            part["properties"], part["required"] = fields, list(fields)
    return schema


def _as_text(part: Any, kind: str) -> Any:  # noqa: ANN401 - any part of a schema
    """A part in which numbers of that kind are texts."""
    if isinstance(part, list):
        return [_as_text(each, kind) for each in part]
    if not isinstance(part, dict):
        return part
    if part.get("type") == kind:
        return {"type": "string", "pattern": DECIMAL}
    return {name: _as_text(each, kind) for name, each in part.items()}


def _plainly(part: Any) -> Any:  # noqa: ANN401 - any part of a schema
    """Descriptions without the indentation of the code: only newer compilers take that off."""
    if isinstance(part, dict):
        return {
            name: cleandoc(value) if name == "description" and isinstance(value, str)
            else _plainly(value)
            for name, value in part.items()
        }  # fmt: skip
    return [_plainly(each) for each in part] if isinstance(part, list) else part


def write_schemas(folder: Path) -> None:
    """Write all schemas into ``folder``."""
    for name, kind in FILES.items():
        (folder / name).write_text(schema_text(kind), "utf-8")


if __name__ == "__main__":
    write_schemas(Path("docs/format"))
