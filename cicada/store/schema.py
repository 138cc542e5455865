"""The JSON Schema of project and run files, generated from the model."""

import json
from pathlib import Path

import msgspec

from cicada.core.model import Project, Run

FILES: dict[str, type[Project] | type[Run]] = {
    "project.schema.json": Project,
    "run.schema.json": Run,
}


def schema_text(kind: type[Project] | type[Run]) -> str:
    """The schema of one kind of file, as it stands in ``docs/format``."""
    schema = msgspec.json.schema(kind)
    schema["$schema"] = "https://json-schema.org/draft/2020-12/schema"
    return json.dumps(schema, indent=2) + "\n"


def write_schemas(folder: Path) -> None:
    """Write all schemas into ``folder``."""
    for name, kind in FILES.items():
        (folder / name).write_text(schema_text(kind), "utf-8")


if __name__ == "__main__":
    write_schemas(Path("docs/format"))
