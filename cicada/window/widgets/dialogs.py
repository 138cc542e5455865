"""Windows beside the main one, which stay open while one works on."""

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QDialog

from cicada.window.drawing import theme


def show_beside(dialog: QDialog) -> None:
    """Show a dialog that keeps nobody from working, and is gone once it is closed."""
    dialog.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
    dialog.setStyleSheet(theme.style())
    dialog.show()
