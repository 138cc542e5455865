"""A folder served to browsers on this machine, and to nobody else."""

from functools import partial
from http import HTTPStatus
from http.server import SimpleHTTPRequestHandler, ThreadingHTTPServer
from pathlib import Path
from typing import IO
from urllib.parse import unquote, urlsplit

from typing_extensions import override

from cicada.disk.paths import inside, is_file

HOST, PAGE = "127.0.0.1", "index.html"


class _Handler(SimpleHTTPRequestHandler):
    """Gives files that are inside the folder, links followed, to who asked for this machine."""

    protocol_version = "HTTP/1.1"
    timeout = 30
    extensions_map = {  # noqa: RUF012 - as its base has it
        "": "application/octet-stream",
        ".html": "text/html; charset=utf-8",
        ".js": "text/javascript; charset=utf-8",
        ".json": "application/json",
        ".webp": "image/webp",
        ".wav": "audio/wav",
        ".flac": "audio/flac",
        ".ogg": "audio/ogg",
        ".opus": "audio/ogg",
        ".mp3": "audio/mpeg",
    }

    @override
    def send_head(self) -> IO[bytes] | None:  # type: ignore[override]
        """The file that is asked for, opened; None after an answer that there is none."""
        try:
            if self._may_be_given():
                return super().send_head()
        except (OSError, ValueError):
            pass
        self.send_error(HTTPStatus.NOT_FOUND)
        return None

    def _may_be_given(self) -> bool:
        # Another site's name may be made to lead here: that page must not read what is served.
        named = (self.headers.get("Host") or "").rpartition(":")[0]
        steps = unquote(urlsplit(self.path).path).split("/")
        hidden = any(step.startswith(".") for step in steps)
        path = Path(self.translate_path(self.path))
        if named not in (HOST, "localhost") or hidden or not inside(Path(self.directory), path):
            return False
        return is_file(path) or is_file(path / PAGE)

    @override
    def end_headers(self) -> None:
        """The same each time it is asked for would hide what was delivered since."""
        self.send_header("Cache-Control", "no-store")
        self.send_header("X-Content-Type-Options", "nosniff")
        super().end_headers()

    @override
    def log_message(self, format: str, *args: object) -> None:
        """Nobody reads it."""


class PageServer(ThreadingHTTPServer):
    """Serves a folder at ``address``; ``serve_forever`` does, until ``shutdown``."""

    daemon_threads = True

    def __init__(self, folder: Path, port: int = 0) -> None:
        """Any free port for 0. Raises ``OSError`` if the port cannot be had."""
        super().__init__((HOST, port), partial(_Handler, directory=str(folder)))

    @property
    def address(self) -> str:
        """What a browser is told."""
        return f"http://{HOST}:{self.server_port}/"

    @override
    def handle_error(self, request: object, client_address: object) -> None:
        """A browser that goes away is none."""
