"""``cicada serve``."""

import argparse
from pathlib import Path

from cicada.cli.output import say
from cicada.disk.paths import is_file, is_folder
from cicada.disk.why import why
from cicada.errors import BadProject, CannotWrite
from cicada.remote.page_server import PAGE, PageServer

HIGHEST_PORT = 65_535


def serve_folder(options: argparse.Namespace) -> int:
    """Serve a player bundle to browsers of this machine until the command is ended."""
    folder = Path(options.folder)
    if not is_folder(folder):
        raise BadProject("is no folder", file=str(folder), remedy="name a delivered player bundle")
    if not is_file(folder / PAGE):
        raise BadProject(f"has no {PAGE}", file=str(folder), remedy="name a player bundle")
    if not 0 <= options.port <= HIGHEST_PORT:
        raise CannotWrite(f"there is no port {options.port}", remedy="name one from 1 to 65535")
    try:
        server = PageServer(folder, options.port)
    except OSError as error:
        raise CannotWrite(
            f"port {options.port} cannot be had ({why(error)})", remedy="leave --port out"
        ) from None
    say(f"{server.address} (Ctrl+C ends it)")
    with server:
        server.serve_forever()
    return 0
