"""``cicada pack`` and ``cicada unpack``."""

import argparse

from cicada.cli.output import say, warn
from cicada.deliver.packing import pack
from cicada.deliver.unpacking import unpack
from cicada.disk.paths import is_folder, real_file
from cicada.disk.why import size_text
from cicada.errors import BadProject, BadSound, CannotWrite, plain
from cicada.store.allowed import Allowed, mentioned, permits
from cicada.store.projectfile import load


def pack_project(options: argparse.Namespace) -> int:
    """Pack a project with everything it uses."""
    file = real_file(options.file, BadProject)
    project, folders = load(file), Allowed().folders
    for path, _ in mentioned(project, file):
        if not options.allow_outside and not permits(folders, file, path):
            raise BadSound(
                "is outside the project's folder",
                file=str(path),
                remedy="if you trust the project, pack with --allow-outside, or save it once",
            )
    packed = pack(project, file, options.output)
    say(f"{plain(str(options.output))}: {packed.files:,} files, {size_text(packed.size)}")
    for name in packed.missing:
        warn(f"not there, and not packed: {plain(name)}")
    return int(bool(packed.missing))


def unpack_archive(options: argparse.Namespace) -> int:
    """Open an archive into a new folder."""
    if not is_folder(options.to):
        raise CannotWrite("is no folder", file=str(options.to), remedy="make it, or name another")
    say(plain(str(unpack(options.archive, options.to))))
    return 0
