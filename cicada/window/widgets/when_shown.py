"""A place for a part of the window that is made when it is first shown."""

from collections.abc import Callable
from typing import Generic, TypeVar

from PySide6.QtGui import QShowEvent
from PySide6.QtWidgets import QVBoxLayout, QWidget
from typing_extensions import override

Part = TypeVar("Part", bound=QWidget)


class WhenShown(QWidget, Generic[Part]):
    """What takes long to make and is seldom looked at does not hold up the window's start."""

    def __init__(self, make: Callable[[], Part]) -> None:
        super().__init__()
        self._make = make
        self._made: Part | None = None
        self._column = QVBoxLayout(self)
        self._column.setContentsMargins(0, 0, 0, 0)

    def part(self) -> Part:
        """The part, made now if it was not yet."""
        if self._made is None:
            self._made = self._make()
            self._column.addWidget(self._made)
            self._made.show()
        return self._made

    @override
    def showEvent(self, event: QShowEvent) -> None:
        self.part()
        super().showEvent(event)
