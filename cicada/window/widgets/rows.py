"""Named rows of controls, and the words between them."""

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QFormLayout, QHBoxLayout, QLabel, QWidget


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
