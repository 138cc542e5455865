"""Menus that are there for once."""

from PySide6.QtCore import QPoint
from PySide6.QtWidgets import QMenu


def show(menu: QMenu, at: QPoint) -> None:
    """Wait until something is chosen, or nothing."""
    menu.exec(at)


def pop_up(menu: QMenu, at: QPoint) -> None:
    """Let something be chosen from a menu, which is gone after that."""
    show(menu, at)
    menu.deleteLater()
