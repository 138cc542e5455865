"""Delivered pages opened in the browser: served to this machine as long as the program runs."""

from pathlib import Path
from threading import Thread
from typing import TYPE_CHECKING

from PySide6.QtCore import QUrl
from PySide6.QtGui import QDesktopServices

from cicada.disk.why import why

if TYPE_CHECKING:
    from cicada.remote.page_server import PageServer


class PageOpening:
    """Serves each folder once, however often its page is opened."""

    def __init__(self) -> None:
        self._servers: dict[Path, PageServer] = {}

    def open(self, folder: Path) -> str:
        """Open the page of a folder; what is to be said of it."""
        try:
            server = self._server(folder)
        except OSError as error:
            return f"It cannot be served ({why(error)})."
        if QDesktopServices.openUrl(QUrl(server.address)):
            return f"Served at {server.address} while this window is open."
        return f"No browser could be opened; it is served at {server.address}"

    def _server(self, folder: Path) -> "PageServer":
        # Loaded when it is wanted, and not as a window begins.
        from cicada.remote import page_server

        if folder not in self._servers:
            server = page_server.PageServer(folder)
            # What it does ends with the program: no file is written.
            Thread(target=server.serve_forever, daemon=True).start()
            self._servers[folder] = server
        return self._servers[folder]

    def close(self) -> None:
        """Serve nothing any more."""
        for server in self._servers.values():
            server.shutdown()
            server.server_close()
        self._servers.clear()
