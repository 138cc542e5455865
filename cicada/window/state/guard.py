"""What Qt calls may fail: that costs a message, and not the window.

There are two halves. Every override and operator of a class of ours that Qt may call is wrapped as
its class is made, for an exception that leaves one can end the process: PySide reads the arguments
of an exception that Python 3.11 has not made an object yet. Slots, timers, threads and ``__del__``
reach the interpreter's hooks alive, which ``watch`` takes.

What was caught is kept as text. A kept exception would keep the frames it passed, and in them
painters and widgets that must go.
"""

import re
import sys
import threading
from collections import deque
from collections.abc import Callable, Iterator
from functools import wraps
from types import FunctionType, TracebackType
from typing import Any, NamedTuple

import shiboken6

# A part that cannot be painted so many times is not asked to any more.
ENOUGH = 3
# A line of ours in a traceback that has been written down.
_STEP = re.compile(r'File "[^"]*/(cicada/[^"]+)", line (\d+), in (\w+)')
_OURS = "cicada"
_OPERATORS = frozenset({"__lt__", "__le__", "__gt__", "__ge__", "__eq__", "__ne__"})
# What is said to Qt where an answer of the usual kind would do harm.
_HANDLED = frozenset({"event", "viewportEvent"})
_PLAIN: dict[object, object] = {
    None: None, bool: False, int: 0, float: 0.0, str: "", "None": None, "bool": False,
}  # fmt: skip


class Caught(NamedTuple):
    """A mistake of ours: the exception's type, what failed, and the way there, outermost first."""

    kind: str
    what: str
    steps: tuple[str, ...]

    @property
    def where(self) -> str:
        """The innermost step, by which one mistake is told from another."""
        return self.steps[-1] if self.steps else self.what


class Guard:
    """What was caught, and who is to hear of it.

    ``turn`` is another number in each outermost call from Qt, so that it can be told what was
    done in it. ``heard`` is called when the outermost call is over, with all that was caught in
    it, in the window's thread.
    """

    def __init__(self) -> None:
        self.turn = 0
        self.depth = 0
        self.caught: list[Caught] = []
        self.heard: Callable[[list[Caught]], None] | None = None
        # The last commands and edits, by their names in the code.
        self.lately: deque[str] = deque(maxlen=20)
        self._elsewhere: deque[Caught] = deque(maxlen=100)
        self._unpainted: dict[int, int] = {}
        self._thread = threading.get_ident()

    def catch(self, error: BaseException, what: str) -> None:
        """Keep what there is to say about an exception, and let go of it."""
        steps = (*_steps(error.__traceback__), *_steps_elsewhere(error))
        caught = Caught(type(error).__name__, what, steps)
        _end_painters(error.__traceback__)
        error.__traceback__ = None
        if threading.get_ident() != self._thread:
            self._elsewhere.append(caught)
            return
        self.caught.append(caught)
        if not self.depth:
            self.over()

    def over(self) -> None:
        """The outermost call is over, or there was none: tell what was caught."""
        if threading.get_ident() != self._thread:
            return
        while self._elsewhere:
            self.caught.append(self._elsewhere.popleft())
        if self.heard is None or not self.caught:
            return
        told, self.caught = self.caught, []
        try:
            self.heard(told)
        except Exception as error:  # noqa: BLE001 - there is nobody left to tell
            error.__traceback__ = None

    # -- what cannot be painted ----------------------------------------------------------------

    def given_up(self, part: object) -> bool:
        """Whether a part has failed to be painted often enough."""
        return bool(self._unpainted) and self._unpainted.get(id(part), 0) >= ENOUGH

    def unpainted(self, part: object) -> None:
        """A part could not be painted."""
        self._unpainted[id(part)] = self._unpainted.get(id(part), 0) + 1

    def try_again(self) -> None:
        """Something has changed: parts that could not be painted may be now."""
        self._unpainted.clear()


guard = Guard()


def _steps(traceback: TracebackType | None) -> tuple[str, ...]:
    """Each step as file, line and function; nothing that anybody has typed."""
    steps = []
    while traceback is not None:
        code = traceback.tb_frame.f_code
        path = code.co_filename.replace("\\", "/")
        at = path.rfind(f"/{_OURS}/")
        name = path[at + 1 :] if at >= 0 else path.rpartition("/")[2]
        if not name.endswith("window/guard.py"):
            steps.append(f"{name}:{traceback.tb_lineno} {code.co_name}")
        traceback = traceback.tb_next
    return tuple(steps)


def _steps_elsewhere(error: BaseException) -> Iterator[str]:
    """The steps in the worker process that the error comes from, which it has as a note."""
    for note in getattr(error, "__notes__", ()):
        for path, line, function in _STEP.findall(note):
            yield f"{path}:{line} {function}"


def _end_painters(traceback: TracebackType | None) -> None:
    """End the painters that what has failed had begun, the innermost first.

    One that goes after the pixmap it paints on ends the process. A painter that was given to what
    has failed belongs to whoever gave it.
    """
    from PySide6.QtGui import QPainter

    begun: list[QPainter] = []
    given: set[int] = set()
    while traceback is not None:
        names = traceback.tb_frame.f_locals
        if traceback.tb_frame.f_code.co_filename == __file__:
            given.update(id(each) for each in names.get("arguments", ()))
        begun += [each for each in list(names.values()) if isinstance(each, QPainter)]
        traceback = traceback.tb_next
    for painter in reversed(begun):
        if id(painter) not in given and shiboken6.isValid(painter) and painter.isActive():
            painter.end()


# -- the first half: overrides and operators ----------------------------------------------------


def _from_qt(cls: type) -> list[type]:
    return [base for base in cls.__mro__ if base.__module__.startswith(("PySide6", "Shiboken"))]


def _is_called_by_qt(name: str, bases: list[type]) -> bool:
    if name in _OPERATORS:
        return True
    return not name.startswith("__") and any(hasattr(base, name) for base in bases)


def _answer(name: str, handler: FunctionType, cls: type, part: Any, arguments: Any) -> Any:  # noqa: ANN401 - as Qt wants it
    """What is answered for a handler that has failed, of the type that is wanted."""
    if name in _HANDLED:
        return True
    if name in _OPERATORS or name == "eventFilter":
        return False
    if name.endswith("Event"):
        return None
    kind = handler.__annotations__.get("return", ...)
    if kind in _PLAIN:
        return _PLAIN[kind]
    try:
        return getattr(super(cls, part), name)(*arguments)
    except Exception as error:  # noqa: BLE001 - the base has no answer either
        error.__traceback__ = None
        return None


def _guarded(cls: type, name: str, handler: FunctionType) -> Callable[..., Any]:
    what = f"{cls.__name__}.{name}"
    paints, closes = name == "paintEvent", name == "closeEvent"

    @wraps(handler)
    def call(self: Any, *arguments: Any, **named: Any) -> Any:  # noqa: ANN401 - as Qt calls it
        if not guard.depth:
            guard.turn += 1
        guard.depth += 1
        try:
            if paints and guard.given_up(self):
                return _paint_blank(self)
            return handler(self, *arguments, **named)
        except BaseException as error:  # noqa: BLE001 - none may leave
            guard.catch(error, what)
            if paints:
                guard.unpainted(self)
            if closes:
                # A window that does not know how to close keeps what is in it.
                arguments[0].ignore()
        finally:
            guard.depth -= 1
            if not guard.depth and (guard.caught or guard._elsewhere):  # noqa: SLF001 - its own
                guard.over()
        return _answer(name, handler, cls, self, arguments)

    return call


def _paint_blank(part: Any) -> None:  # noqa: ANN401 - a widget, whose module is loaded late
    """Say in place of a part that it cannot be shown."""
    from PySide6.QtCore import Qt
    from PySide6.QtGui import QPainter, QPalette

    onto = part.viewport() if hasattr(part, "viewport") else part
    painter = QPainter(onto)
    painter.fillRect(onto.rect(), onto.palette().color(QPalette.ColorRole.Window))
    painter.setPen(onto.palette().color(QPalette.ColorRole.WindowText))
    words = "This part cannot be shown. Undo the last step, or open the project again."
    flags = Qt.AlignmentFlag.AlignCenter | Qt.TextFlag.TextWordWrap
    painter.drawText(onto.rect().adjusted(8, 4, -8, -4), flags, words)
    painter.end()


def _wrap(cls: type, **_: object) -> None:
    bases = _from_qt(cls)
    for name, handler in list(vars(cls).items()):
        if isinstance(handler, FunctionType) and _is_called_by_qt(name, bases):
            setattr(cls, name, _guarded(cls, name, handler))


def guard_new_classes() -> None:
    """From now on wrap what Qt may call of every class that is made of one of Qt's."""
    shiboken6.Object.__init_subclass__ = classmethod(_wrap)  # type: ignore[arg-type, assignment, method-assign]


# -- the second half: the interpreter's hooks ----------------------------------------------------


def watch() -> None:
    """Take what reaches the interpreter's hooks: slots, timers, threads, and ``__del__``."""

    def excepthook(
        kind: type[BaseException], error: BaseException, traceback: TracebackType | None
    ) -> None:
        if issubclass(kind, KeyboardInterrupt):
            sys.__excepthook__(kind, error, traceback)
            return
        guard.catch(error.with_traceback(traceback), "a slot")

    def in_thread(args: threading.ExceptHookArgs) -> None:
        if args.exc_value is not None:
            guard.catch(args.exc_value.with_traceback(args.exc_traceback), "a thread")

    def unraisable(args: "sys.UnraisableHookArgs") -> None:
        if args.exc_value is not None:
            guard.catch(args.exc_value.with_traceback(args.exc_traceback), "an end")

    sys.excepthook = excepthook
    threading.excepthook = in_thread
    sys.unraisablehook = unraisable
