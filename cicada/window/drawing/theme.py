"""The look: warm paper, ink, one colour for each way of keeping time; and the one font."""

from functools import cache
from importlib.resources import files
from string import Template

from PySide6.QtCore import Qt
from PySide6.QtGui import QColor, QFont, QFontDatabase, QPalette, QPen
from PySide6.QtWidgets import QApplication

# Every colour by day and by night; the names are those the style sheet uses.
_DAY = {
    "PAPER": "#F4EFE4", "ROW": "#F9F5EC", "ROW_OTHER": "#F2EBDD", "TAB": "#EFE8D8",
    "RULE": "#E1D8C5", "RULE_STRONG": "#C8BB9F", "RULE_HOVER": "#A99B7D",
    "INK": "#26302B", "INK_SOFT": "#6F7169", "INK_OFF": "#A9A698", "CARD": "#FFFDF8",
    "MOSS": "#3F7D58", "MOSS_DEEP": "#2C5D40", "MOSS_HOVER": "#37704E", "MOSS_PALE": "#DCE8DF",
    "SLATE": "#47568C", "PLUM": "#87486D", "OCHRE": "#A9782A", "BRICK": "#A4452F",
}  # fmt: skip
_NIGHT = {
    "PAPER": "#1D211F", "ROW": "#242927", "ROW_OTHER": "#202523", "TAB": "#2A302D",
    "RULE": "#323934", "RULE_STRONG": "#4B534C", "RULE_HOVER": "#6C746B",
    "INK": "#EAE4D6", "INK_SOFT": "#A3A598", "INK_OFF": "#6B6F67", "CARD": "#2B312E",
    "MOSS": "#7DBB95", "MOSS_DEEP": "#A9D6B9", "MOSS_HOVER": "#8FC9A5", "MOSS_PALE": "#33483C",
    "SLATE": "#95A4DC", "PLUM": "#D193B6", "OCHRE": "#DDAE63", "BRICK": "#E58A74",
}  # fmt: skip

PAPER, ROW, ROW_OTHER = QColor(_DAY["PAPER"]), QColor(_DAY["ROW"]), QColor(_DAY["ROW_OTHER"])
RULE, RULE_STRONG = QColor(_DAY["RULE"]), QColor(_DAY["RULE_STRONG"])
INK, INK_SOFT, CARD = QColor(_DAY["INK"]), QColor(_DAY["INK_SOFT"]), QColor(_DAY["CARD"])
MOSS, SLATE, PLUM = QColor(_DAY["MOSS"]), QColor(_DAY["SLATE"]), QColor(_DAY["PLUM"])
OCHRE, BRICK = QColor(_DAY["OCHRE"]), QColor(_DAY["BRICK"])
_SHARED = {
    "PAPER": PAPER, "ROW": ROW, "ROW_OTHER": ROW_OTHER, "RULE": RULE, "RULE_STRONG": RULE_STRONG,
    "INK": INK, "INK_SOFT": INK_SOFT, "CARD": CARD, "MOSS": MOSS, "SLATE": SLATE, "PLUM": PLUM,
    "OCHRE": OCHRE, "BRICK": BRICK,
}  # fmt: skip

SYNC_COLOURS = {"locked": SLATE, "free": MOSS, "hold": PLUM}


class _Light:
    """By day or by night."""

    night = False


def is_night() -> bool:
    """Whether the night version is on."""
    return _Light.night


def use(*, night: bool) -> None:
    """Take the colours of day or night; what is drawn already must be drawn anew."""
    _Light.night = night
    colours = _NIGHT if night else _DAY
    # The colours are changed in place, for they are held by whoever draws with them.
    for name, colour in _SHARED.items():
        colour.setRgba(QColor(colours[name]).rgba())
    app = QApplication.instance()
    if isinstance(app, QApplication):
        app.setPalette(_palette())


def colour_name(name: str) -> str:
    """A colour of the style sheet as #RRGGBB."""
    return (_NIGHT if _Light.night else _DAY)[name]


def wash(colour: QColor, alpha: int) -> QColor:
    """The colour, let through to ``alpha`` of 255."""
    return QColor(colour.red(), colour.green(), colour.blue(), alpha)


def rule_pen(colour: QColor) -> QPen:
    """A pen for hairlines that end where they are told to."""
    return QPen(colour, 1, Qt.PenStyle.SolidLine, Qt.PenCapStyle.FlatCap)


def strong(colour: QColor) -> QColor:
    """The colour as letters on its own wash want it."""
    return colour.lighter(118) if PAPER.lightness() < 128 else colour.darker(115)


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
        data = files("cicada.window.drawing").joinpath("fonts", name).read_bytes()
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
        palette.setColor(disabled, role, QColor(colour_name("INK_OFF")))
    return palette


_STYLE = Template("""
QMainWindow, QDialog { background: $PAPER; }
QMenuBar { background: transparent; spacing: 2px; }
QMenuBar::item { padding: 5px 8px; border-radius: 5px; color: $INK; }
QMenuBar::item:selected { background: $TAB; }
QMenu { background: $CARD; border: 1px solid $RULE_STRONG; padding: 4px; }
QMenu::item { padding: 5px 24px 5px 14px; border-radius: 4px; }
QMenu::item:selected { background: $MOSS_PALE; color: $INK; }
QMenu::item:disabled { color: $INK_OFF; }
QMenu::separator { height: 1px; background: $RULE; margin: 4px 8px; }
QToolTip { background: $CARD; color: $INK; border: 1px solid $RULE_STRONG; padding: 4px; }
QPushButton { background: $CARD; border: 1px solid $RULE_STRONG; border-radius: 6px; padding: 4px 11px; }
QPushButton:hover { background: $ROW; }
QPushButton:focus { border: 1.5px solid $MOSS; padding: 3px 10px; }
QPushButton:checked { background: $MOSS_PALE; border: 1.5px solid $MOSS; padding: 3px 10px; color: $MOSS_DEEP; font-weight: 600; }
QPushButton[mixed="true"] { border: 1.5px dashed $MOSS; padding: 3px 10px; color: $MOSS_DEEP; }
QPushButton:disabled { color: $INK_OFF; border-color: $RULE; }
QPushButton#main { background: $MOSS; color: $CARD; border-color: $MOSS_DEEP; font-weight: 600; }
QPushButton#main:hover { background: $MOSS_HOVER; }
QPushButton#main:focus { border: 1.5px solid $INK; }
QPushButton#main:disabled { background: $CARD; color: $INK_OFF; border-color: $RULE; }
QPushButton#quiet { border: none; background: transparent; color: $INK_SOFT; padding: 0 6px; }
QPushButton#quiet:hover, QPushButton#quiet:focus { color: $INK; text-decoration: underline; }
QPushButton#pair { border: none; background: transparent; color: $INK_SOFT; padding: 0 8px; font-weight: 400; border-radius: 0; }
QPushButton#pair:checked { color: $INK; font-weight: 600; border-bottom: 1.5px solid $MOSS; background: transparent; }
QPushButton#pair:focus { color: $MOSS_DEEP; }
QFrame#elsewhere { background: $ROW_OTHER; border-top: 1.5px solid $RULE; }
QFrame#trouble { background: $ROW_OTHER; border-top: 1.5px solid $BRICK; }
QPushButton#pretended { color: $OCHRE; border-color: $OCHRE; font-weight: 600; }
QPushButton#over { color: $BRICK; border-color: $BRICK; text-align: left; }
QPushButton#checks { color: $BRICK; border-color: $BRICK; font-weight: 600; }
QPushButton#checks[quiet="true"] { color: $INK_SOFT; border-color: $RULE_STRONG; font-weight: 400; }
QLineEdit, QSpinBox, QComboBox, QDoubleSpinBox {
  background: $CARD; border: 1px solid $RULE_STRONG; border-radius: 5px; padding: 1px 6px; min-height: 22px; max-height: 22px;
  selection-background-color: $MOSS; }
QLineEdit:focus, QSpinBox:focus, QComboBox:focus, QDoubleSpinBox:focus { border: 1.5px solid $MOSS; }
QLineEdit[wrong="true"] { border: 1.5px solid $BRICK; }
QSpinBox QLineEdit, QComboBox QLineEdit { border: none; padding: 0; background: transparent; }
QComboBox::drop-down { border: none; width: 20px; }
QComboBox::down-arrow { image: url(DOWN); width: 12px; height: 12px; }
QComboBox QAbstractItemView { background: $CARD; border: 1px solid $RULE_STRONG;
  selection-background-color: $MOSS_PALE; selection-color: $INK; }
QFrame#card { background: $CARD; border: 1px solid $RULE_STRONG; border-radius: 7px; }
QScrollArea#pages, QScrollArea#pages > QWidget, QScrollArea#pages > QWidget > QWidget { background: transparent; }
QLabel#soft { color: $INK_SOFT; }
QLabel#wrong { color: $BRICK; }
QLabel#warning { color: $OCHRE; }
QTabBar#parts { border-top: 1px solid $RULE; }
QTabBar#parts::tab { padding: 6px 14px 4px 4px; margin-right: 8px; color: $INK_SOFT;
  border-bottom: 2px solid transparent; background: transparent; }
QTabBar#parts::tab:selected { color: $MOSS_DEEP; border-bottom: 2px solid $MOSS; font-weight: 600; }
QTabBar#parts::tab:focus { color: $INK; }
QTabBar#scenes::tab { background: $TAB; border: 1px solid $RULE_STRONG; border-bottom: none;
  border-top-left-radius: 7px; border-top-right-radius: 7px; padding: 5px 18px; margin-right: 3px;
  color: $INK_SOFT; }
QTabBar#scenes::tab:selected { background: $CARD; color: $INK; font-weight: 600; }
QToolButton#add { border: none; color: $INK_SOFT; font-size: 17px; padding: 0 6px; border-radius: 5px; }
QToolButton#add:hover { background: $TAB; color: $INK; }
QToolButton#add:focus { color: $MOSS_DEEP; }
QTreeView { background: $CARD; border: 1px solid $RULE_STRONG; border-radius: 6px; outline: none; }
QTreeView::item { padding: 3px 4px; border: none; }
QTreeView::item:selected, QListWidget::item:selected { background: $MOSS_PALE; color: $INK; }
QListWidget::item { padding: 4px 6px; border-radius: 4px; }
QListView::indicator { width: 13px; height: 13px; background: $CARD; border: 1px solid $RULE_STRONG; border-radius: 3px; }
QListView::indicator:checked { image: url(TICK); border-color: $MOSS; }
QHeaderView::section { background: $TAB; color: $INK_SOFT; border: none; padding: 4px 6px; }
QListView { background: transparent; border: none; outline: none; }
QScrollBar:horizontal { height: 10px; background: $TAB; border: none; }
QScrollBar:vertical { width: 10px; background: $TAB; border: none; }
QScrollBar::handle { background: $RULE_STRONG; border-radius: 4px; min-width: 24px; min-height: 24px; margin: 1px; }
QScrollBar::handle:hover { background: $RULE_HOVER; }
QScrollBar::add-line, QScrollBar::sub-line { width: 0; height: 0; }
QScrollBar::add-page, QScrollBar::sub-page { background: transparent; }
QSplitter::handle { background: $PAPER; }
QSplitter::handle:hover { background: $RULE; }
QProgressBar { border: 1px solid $RULE_STRONG; border-radius: 5px; background: $CARD; text-align: center; height: 16px; }
QProgressBar::chunk { background: $MOSS; border-radius: 4px; }
""")


def style() -> str:
    """The style sheet, in the colours of now."""
    colours = _NIGHT if _Light.night else _DAY
    text = _STYLE.substitute(colours)
    for name in ("down", "tick"):
        icon = str(files("cicada.window.drawing").joinpath("icons", f"{name}.svg"))
        text = text.replace(f"url({name.upper()})", f"url({icon})")
    return text


NO_PEN = Qt.PenStyle.NoPen
