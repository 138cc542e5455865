"""The look: warm paper, ink, one colour for each way of keeping time; and the one font."""

from functools import cache
from importlib.resources import files

from PySide6.QtCore import Qt
from PySide6.QtGui import QColor, QFont, QFontDatabase, QPalette
from PySide6.QtWidgets import QApplication

PAPER = QColor("#F4EFE4")
ROW = QColor("#F9F5EC")
ROW_OTHER = QColor("#F2EBDD")
RULE = QColor("#E1D8C5")
RULE_STRONG = QColor("#C8BB9F")
INK = QColor("#26302B")
INK_SOFT = QColor("#6F7169")
CARD = QColor("#FFFDF8")
MOSS = QColor("#3F7D58")
SLATE = QColor("#47568C")
PLUM = QColor("#87486D")
OCHRE = QColor("#A9782A")
BRICK = QColor("#A4452F")

SYNC_COLOURS = {"locked": SLATE, "free": MOSS, "hold": PLUM}


def wash(colour: QColor, alpha: int) -> QColor:
    """The colour, let through to ``alpha`` of 255."""
    return QColor(colour.red(), colour.green(), colour.blue(), alpha)


@cache
def font(points: float, weight: int = 400, *, italic: bool = False) -> QFont:
    """The application's font at a size in pixels, digits all of one width."""
    chosen = QFont("Inter")
    chosen.setPixelSize(round(points))
    chosen.setWeight(QFont.Weight(weight))
    chosen.setItalic(italic)
    chosen.setFeature(QFont.Tag("tnum"), 1)
    chosen.setHintingPreference(QFont.HintingPreference.PreferNoHinting)
    return chosen


def dress(app: QApplication) -> None:
    """Give the application its font and palette; the window sets ``STYLE`` on itself."""
    for name in ("Inter-roman.var.ttf", "Inter-italic.var.ttf"):
        data = files("cicada.window").joinpath("fonts", name).read_bytes()
        QFontDatabase.addApplicationFontFromData(data)
    app.setStyle("Fusion")
    app.setFont(font(13))
    app.setPalette(_palette())


def _palette() -> QPalette:
    palette = QPalette()
    roles = {
        QPalette.ColorRole.Window: PAPER,
        QPalette.ColorRole.WindowText: INK,
        QPalette.ColorRole.Base: CARD,
        QPalette.ColorRole.AlternateBase: ROW_OTHER,
        QPalette.ColorRole.Text: INK,
        QPalette.ColorRole.Button: CARD,
        QPalette.ColorRole.ButtonText: INK,
        QPalette.ColorRole.Highlight: MOSS,
        QPalette.ColorRole.HighlightedText: CARD,
        QPalette.ColorRole.ToolTipBase: CARD,
        QPalette.ColorRole.ToolTipText: INK,
        QPalette.ColorRole.PlaceholderText: INK_SOFT,
        QPalette.ColorRole.Link: MOSS,
    }
    for role, colour in roles.items():
        palette.setColor(role, colour)
    disabled = QPalette.ColorGroup.Disabled
    for role in (
        QPalette.ColorRole.WindowText,
        QPalette.ColorRole.Text,
        QPalette.ColorRole.ButtonText,
    ):
        palette.setColor(disabled, role, QColor("#A9A698"))
    return palette


STYLE = """
QMainWindow, QDialog { background: #F4EFE4; }
QMenuBar { background: transparent; spacing: 2px; }
QMenuBar::item { padding: 5px 8px; border-radius: 5px; color: #26302B; }
QMenuBar::item:selected { background: #E8E0CE; }
QMenu { background: #FFFDF8; border: 1px solid #C8BB9F; padding: 4px; }
QMenu::item { padding: 5px 24px 5px 14px; border-radius: 4px; }
QMenu::item:selected { background: #DCE8DF; color: #26302B; }
QMenu::item:disabled { color: #A9A698; }
QMenu::separator { height: 1px; background: #E1D8C5; margin: 4px 8px; }
QToolTip { background: #FFFDF8; color: #26302B; border: 1px solid #C8BB9F; padding: 4px; }
QPushButton { background: #FFFDF8; border: 1px solid #C8BB9F; border-radius: 6px; padding: 4px 11px; }
QPushButton:hover { background: #F9F5EC; }
QPushButton:focus { border: 1.5px solid #3F7D58; }
QPushButton:checked { background: #DCE8DF; border: 1.5px solid #3F7D58; color: #2C5D40; font-weight: 600; }
QPushButton:disabled { color: #A9A698; border-color: #E1D8C5; }
QPushButton#main { background: #3F7D58; color: #FFFDF8; border-color: #2C5D40; font-weight: 600; }
QPushButton#main:hover { background: #37704E; }
QPushButton#main:focus { border: 1.5px solid #26302B; }
QPushButton#checks { color: #A4452F; border-color: #A4452F; font-weight: 600; }
QPushButton#checks[quiet="true"] { color: #6F7169; border-color: #C8BB9F; font-weight: 400; }
QLineEdit, QSpinBox, QComboBox, QDoubleSpinBox {
  background: #FFFDF8; border: 1px solid #C8BB9F; border-radius: 5px; padding: 1px 6px; min-height: 22px; max-height: 22px;
  selection-background-color: #3F7D58; }
QLineEdit:focus, QSpinBox:focus, QComboBox:focus, QDoubleSpinBox:focus { border: 1.5px solid #3F7D58; }
QLineEdit[wrong="true"] { border: 1.5px solid #A4452F; }
QSpinBox QLineEdit, QComboBox QLineEdit { border: none; padding: 0; background: transparent; }
QComboBox::drop-down { border: none; width: 20px; }
QComboBox::down-arrow { image: url(DOWN); width: 12px; height: 12px; }
QComboBox QAbstractItemView { background: #FFFDF8; border: 1px solid #C8BB9F;
  selection-background-color: #DCE8DF; selection-color: #26302B; }
QFrame#card { background: #FFFDF8; border: 1px solid #C8BB9F; border-radius: 7px; }
QLabel#soft { color: #6F7169; }
QLabel#wrong { color: #A4452F; }
QTabBar#parts { border-top: 1px solid #E1D8C5; }
QTabBar#parts::tab { padding: 6px 14px 4px 4px; margin-right: 8px; color: #6F7169;
  border-bottom: 2px solid transparent; background: transparent; }
QTabBar#parts::tab:selected { color: #2C5D40; border-bottom: 2px solid #3F7D58; font-weight: 600; }
QTabBar#parts::tab:focus { color: #26302B; }
QTabBar#scenes::tab { background: #EFE8D8; border: 1px solid #C8BB9F; border-bottom: none;
  border-top-left-radius: 7px; border-top-right-radius: 7px; padding: 5px 18px; margin-right: 3px;
  color: #6F7169; }
QTabBar#scenes::tab:selected { background: #FFFDF8; color: #26302B; font-weight: 600; }
QTreeView { background: #FFFDF8; border: 1px solid #C8BB9F; border-radius: 6px; outline: none; }
QTreeView::item { padding: 3px 4px; border: none; }
QTreeView::item:selected, QListWidget::item:selected { background: #DCE8DF; color: #26302B; }
QListWidget::item { padding: 4px 6px; border-radius: 4px; }
QHeaderView::section { background: #EFE8D8; color: #6F7169; border: none; padding: 4px 6px; }
QListView { background: transparent; border: none; outline: none; }
QScrollBar:horizontal { height: 10px; background: #EFE8D8; border: none; }
QScrollBar:vertical { width: 10px; background: #EFE8D8; border: none; }
QScrollBar::handle { background: #C8BB9F; border-radius: 4px; min-width: 24px; min-height: 24px; margin: 1px; }
QScrollBar::handle:hover { background: #A99B7D; }
QScrollBar::add-line, QScrollBar::sub-line { width: 0; height: 0; }
QScrollBar::add-page, QScrollBar::sub-page { background: transparent; }
QSplitter::handle { background: #F4EFE4; }
QSplitter::handle:hover { background: #E1D8C5; }
QProgressBar { border: 1px solid #C8BB9F; border-radius: 5px; background: #FFFDF8; text-align: center; height: 16px; }
QProgressBar::chunk { background: #9CC2AB; border-radius: 4px; }
"""

STYLE = STYLE.replace("DOWN", str(files("cicada.window").joinpath("icons", "down.svg")))

NO_PEN = Qt.PenStyle.NoPen
