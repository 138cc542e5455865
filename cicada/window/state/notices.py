"""What is said to the person at the window."""

from PySide6.QtCore import QObject, Signal


class Notices(QObject):
    """``said`` is a sentence and whether it stays; ``told`` one that must not be missed."""

    said = Signal(str, bool)
    told = Signal(str)

    def say(self, text: str, *, lasting: bool = False) -> None:
        """Say something in passing; nothing takes back what was said."""
        self.said.emit(text, lasting)

    def tell(self, text: str) -> None:
        """Say something that must not be missed."""
        self.told.emit(text)
