"""Menus that are there for once."""

from PySide6.QtCore import QPoint
from PySide6.QtWidgets import QMenu


def pop_up(menu: QMenu, at: QPoint) -> None:
    """Let something be chosen from a menu, which is gone after that."""
    menu.exec(at)
    menu.deleteLater()
