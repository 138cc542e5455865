"""The JSON Schema of project and run files, generated from the model."""

import json
from inspect import cleandoc
from pathlib import Path
from typing import Any

import msgspec

from cicada.core.model import Project, Run

FILES: dict[str, type[Project] | type[Run]] = {
    "project.schema.json": Project,
    "run.schema.json": Run,
}


def schema_text(kind: type[Project] | type[Run]) -> str:
    """The schema of one kind of file, as it stands in ``docs/format``."""
    schema = _plainly(msgspec.json.schema(kind))
    schema["$schema"] = "https://json-schema.org/draft/2020-12/schema"
    return json.dumps(schema, indent=2) + "\n"


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
