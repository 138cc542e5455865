"""One file on its way in."""

from dataclasses import dataclass, field
from pathlib import Path
from typing import Literal

from cicada.media.ingest import Ingested
from cicada.window.state.jobs import Job

State = Literal["waiting", "at it", "in", "here", "refused", "left"]
Kept = Literal["size", "inside", "linked"]
"""Where files are kept: inside the project up to a size, all inside, or all linked."""
Answer = Literal["here", "both", "replace"]


@dataclass(eq=False)
class Entry:
    """One file on its way in. ``sound`` is what it became, or what it is the same as."""

    path: Path
    state: State = "waiting"
    why: str = ""
    sound: str = ""
    bytes_too: bool = False
    answer: Answer = "here"
    taken: Ingested | None = None
    job: Job | None = None
    kept_for: Path | None = None
    changes: list[str] = field(default_factory=list)
    alike: str = ""

    @property
    def share(self) -> float:
        """How much of it is done."""
        if self.state == "at it":
            return self.job.share if self.job is not None else 0.0
        return 0.0 if self.state == "waiting" else 1.0
