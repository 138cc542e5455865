"""Jobs that pack a project, and open an archive of one."""

from pathlib import Path

from cicada.core.model import Project
from cicada.deliver.packing import Packed, pack
from cicada.deliver.unpacking import unpack
from cicada.jobs.worker import progress


def pack_into(project: Project, file: Path, output: Path) -> Packed:
    """Pack a project with everything it uses; raises as ``pack`` does."""
    return pack(project, file, output, progress)


def unpack_into(archive: Path, folder: Path) -> Path:
    """Open an archive below a folder: the project's file; raises as ``unpack`` does."""
    return unpack(archive, folder, progress)
