"""The demo's buoy bell, opened on the sheet, and what can be taken hold of there."""

from PySide6.QtCore import QPoint

from cicada.core.editing import Cell
from tests.by_hand import at

BELL = Cell("l6", 6)
KEEPER = Cell("l4", 10)


def grip(window, kind, number=0):
    found = [each for each in window.sheet.opened.grips if each.kind == kind]
    return found[number].at.toPoint()


def lane(window, name):
    return next(each for each in window.sheet.opened.lanes if each.kind == name)


def column(window, frame):
    return round(window.sheet.place.frame_x(frame))


def on_lane(window, name, frame, value):
    found = lane(window, name)
    return QPoint(column(window, frame), round(found.y(value)))


def bell(window, frame=6):
    return at(window, "l6", frame)
