"""Named rows of controls, and the words between them."""

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QFormLayout, QFrame, QHBoxLayout, QLabel, QScrollArea, QWidget


class Page(QWidget):
    """Named rows of controls."""

    def __init__(self) -> None:
        super().__init__()
        self.form = QFormLayout(self)
        self.form.setContentsMargins(0, 2, 0, 0)
        self.form.setHorizontalSpacing(14)
        self.form.setVerticalSpacing(5)
        self.form.setFieldGrowthPolicy(QFormLayout.FieldGrowthPolicy.FieldsStayAtSizeHint)
        self.form.setLabelAlignment(Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter)

    def row(self, name: str, *widgets: QWidget) -> QLabel:
        """Add a row: its name, then its controls; the name's label."""
        label = soft(name)
        label.setFixedWidth(84)
        if len(widgets) == 1:
            self.form.addRow(label, widgets[0])
            return label
        row = QHBoxLayout()
        row.setSpacing(8)
        for widget in widgets:
            row.addWidget(widget)
        row.addStretch(1)
        self.form.addRow(label, row)
        return label


def soft(text: str) -> QLabel:
    """Words between controls."""
    label = QLabel(text)
    label.setObjectName("soft")
    return label


def scrolled(inside: QWidget) -> QScrollArea:
    """A part that is scrolled down where it has not the room, on the ground of what is around."""
    area = QScrollArea()
    area.setFrameShape(QFrame.Shape.NoFrame)
    area.setWidgetResizable(True)
    area.setWidget(inside)
    area.viewport().setAutoFillBackground(False)
    inside.setAutoFillBackground(False)
    area.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
    return area
