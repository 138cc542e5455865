"""Help: the list of keys, to be printed if wanted, and the key of shapes, drawn by the sheet."""

from PySide6.QtCore import QRectF, QSize, Qt
from PySide6.QtGui import QPainter, QPaintEvent, QTextDocument
from PySide6.QtWidgets import (
    QDialog,
    QHBoxLayout,
    QLabel,
    QMenu,
    QPushButton,
    QScrollArea,
    QVBoxLayout,
    QWidget,
)
from typing_extensions import override

from cicada.window.drawing import theme
from cicada.window.drawing.shapes_key import SHAPES, paint_shape

COLUMNS = 4
# What the picture's waits take, which is in no menu.
AT_A_WAIT = (("Enter, or a click in it", "let the picture go on"),)
MOUSE = (
    ("Drag a keyframe", "move what is chosen"),
    ("Ctrl held", "copy instead"),
    ("Shift or Alt held", "hold the snap off"),
    ("Drag a span's end", "let the span end elsewhere"),
    ("1 to 4", "hear a way that is compared"),
    ("Drag over empty rows", "choose what is inside"),
    ("Shift+click", "choose up to here"),
    ("Ctrl+click", "choose one more, or one less"),
    ("Drag a layer's name", "order the layers"),
    ("Drag a row's lower edge", "make it higher or lower"),
    ("Drag the bar in a head", "level of the layer or the mix"),
    ("Double-click a clip", "open it, or type a value"),
    ("Click on a line", "put a point there"),
    ("Drag over an open lane", "choose the points inside"),
    ("Shift and drag on rulers", "mark what is played"),
    ("Drag a strip's notch", "where pictures meet"),
    ("Wheel", "zoom; with Shift scroll"),
)


class KeysDialog(QDialog):
    """All keys, by menu, and what the mouse does; it can be printed."""

    def __init__(self, parent: QWidget, menus: list[QMenu]) -> None:
        super().__init__(parent)
        self._menus = menus
        self.setWindowTitle("Keys")
        column = QVBoxLayout(self)
        column.setContentsMargins(18, 6, 18, 8)
        self.table = QLabel(keys_table(menus, COLUMNS))
        self.table.setAccessibleName("Keys")
        area = QScrollArea()
        area.setWidget(self.table)
        area.setWidgetResizable(True)
        area.setFrameShape(QScrollArea.Shape.NoFrame)
        column.addWidget(area, 1)
        row = QHBoxLayout()
        row.addStretch(1)
        self.to_print = QPushButton("Print…")
        self.to_print.setAutoDefault(False)
        self.to_print.clicked.connect(self._print)
        close = QPushButton("Close")
        close.clicked.connect(self.accept)
        row.addWidget(self.to_print)
        row.addWidget(close)
        column.addLayout(row)
        wanted = self.table.sizeHint() + QSize(60, 90)
        screen = parent.screen().availableSize()
        self.resize(wanted.boundedTo(screen - QSize(40, 60)))

    def _print(self) -> None:
        # Printing is rarely wanted and its module takes long to load.
        from PySide6.QtPrintSupport import QPrintDialog, QPrinter

        printer = QPrinter()
        dialog = QPrintDialog(printer, self)
        if dialog.exec():
            page = QTextDocument()
            page.setHtml(keys_table(self._menus, 2, for_paper=True))
            page.print_(printer)
        dialog.deleteLater()


def keys_table(menus: list[QMenu], columns: int, *, for_paper: bool = False) -> str:
    """All keys as a table, by menu."""
    soft = "#555555" if for_paper else theme.colour_name("INK_SOFT")
    cells = []
    for menu in menus:
        lines = [
            f"<td style='padding:0 6px; white-space:nowrap'><b>{key}</b></td>"
            f"<td style='padding:0 8px 0 0; white-space:nowrap'>{action.text()}</td>"
            for action in menu.actions()
            if (key := action.shortcut().toString())
        ]
        if lines:
            cells += [_heading(menu.title().replace("&", ""), soft), *lines]
    for heading, pairs in (("Where the picture waits", AT_A_WAIT), ("Mouse", MOUSE)):
        cells.append(_heading(heading, soft))
        cells += [
            f"<td style='padding:0 8px; white-space:nowrap'><b>{what}</b></td>"
            f"<td style='padding:0 8px 0 0; white-space:nowrap'>{does}</td>"
            for what, does in pairs
        ]
    # A heading is a little higher than a line, and each column as high as the others.
    heights = [1.25 if "colspan" in cell else 1.0 for cell in cells]
    tall, parts = sum(heights) / columns, [list[str]() for _ in range(columns)]
    above = 0.0
    for cell, height in zip(cells, heights, strict=True):
        parts[min(columns - 1, int(above / tall))].append(cell)
        above += height
    rows = ["".join(f"<tr>{cell}</tr>" for cell in part) for part in parts]
    tables = [f"<td valign='top'><table cellspacing='0'>{part}</table></td>" for part in rows]
    return f"<table style='font-size: 11px'><tr>{''.join(tables)}</tr></table>"


def _heading(text: str, colour: str) -> str:
    return f"<td colspan='2' style='padding:3px 8px 0; color:{colour}'><b>{text}</b></td>"


class ShapesDialog(QDialog):
    """Every shape of the sheet as the sheet draws it, with what it means."""

    def __init__(self, parent: QWidget) -> None:
        super().__init__(parent)
        self.setWindowTitle("Shapes on the sheet")
        column = QVBoxLayout(self)
        column.setContentsMargins(18, 14, 18, 14)
        column.setSpacing(6)
        lines = [SHAPES[at : at + 2] for at in range(0, len(SHAPES), 2)]
        for pair in lines:
            row = QHBoxLayout()
            row.setSpacing(22)
            for name, words in pair:
                row.addWidget(_ShapePicture(name))
                text = QLabel(words)
                text.setWordWrap(True)
                text.setFixedWidth(270)
                row.addWidget(text)
            column.addLayout(row)
        close = QPushButton("Close")
        close.clicked.connect(self.accept)
        column.addWidget(close, 0, Qt.AlignmentFlag.AlignRight)


class _ShapePicture(QWidget):
    """One shape."""

    def __init__(self, name: str) -> None:
        super().__init__()
        self._name = name
        self.setFixedSize(232, 56)
        self.setAccessibleName(name)

    @override
    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.fillRect(QRectF(self.rect()), theme.ROW)
        paint_shape(painter, self._name, self.width(), self.height())
