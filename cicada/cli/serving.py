"""``cicada serve``."""

import argparse
from pathlib import Path

from cicada.cli.output import say
from cicada.disk.paths import is_folder
from cicada.disk.why import why
from cicada.errors import BadProject, CannotWrite
from cicada.remote.page_server import PageServer


def serve_folder(options: argparse.Namespace) -> int:
    """Serve a player bundle to browsers of this machine until the command is ended."""
    folder = Path(options.folder)
    if not is_folder(folder):
        raise BadProject("is no folder", file=str(folder), remedy="name a delivered player bundle")
    if not (folder / "index.html").is_file():
        raise BadProject(
            "has no index.html", file=str(folder), remedy="name a delivered player bundle"
        )
    try:
        server = PageServer(folder, options.port)
    except (OSError, OverflowError) as error:
        raise CannotWrite(
            f"port {options.port} cannot be had ({why(error)})", remedy="leave --port out"
        ) from None
    say(f"{server.address} (Ctrl+C ends it)")
    with server:
        server.serve_forever()
    return 0
