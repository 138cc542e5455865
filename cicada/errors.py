"""Every failure a user can cause, each with the file, the place and what to do about it."""

from typing_extensions import override


def plain(text: str) -> str:
    """A text as one line that can be shown: what steers a terminal is spelt out."""
    if text.isprintable():
        return text
    return "".join(letter if letter.isprintable() else f"\\x{ord(letter):02x}" for letter in text)


class CicadaError(Exception):
    """Something the user can put right.

    ``file`` and ``place`` say where, ``problem`` what is wrong, ``remedy`` what to do.
    ``str()`` of it is the one sentence that the window and the command line show.
    """

    def __init__(self, problem: str, *, file: str = "", place: str = "", remedy: str = "") -> None:
        self.problem, self.file, self.place, self.remedy = problem, file, place, remedy
        where = ": ".join(part for part in (file, place) if part)
        sentence = f"{where}: {problem}" if where else problem
        super().__init__(plain(f"{sentence}; {remedy}" if remedy else sentence))

    def at(self, file: str) -> "CicadaError":
        """The same error, said of ``file``."""
        return type(self)(self.problem, file=file, place=self.place, remedy=self.remedy)

    @override
    def __reduce__(self) -> tuple[object, ...]:
        return _rebuild, (type(self), self.problem, self.file, self.place, self.remedy)


def _rebuild(
    kind: type[CicadaError], problem: str, file: str, place: str, remedy: str
) -> CicadaError:
    return kind(problem, file=file, place=place, remedy=remedy)


class BadProject(CicadaError):
    """A project, case or run file that cannot be used as it is."""


class BadSound(CicadaError):
    """A sound file that cannot be decoded."""


class BadPicture(CicadaError):
    """A picture or a folder of pictures that cannot be shown as it is."""


class CannotWrite(CicadaError):
    """A file or folder that could not be written; nothing there has changed."""


class BadEdit(CicadaError):
    """An edit that does not fit the project it was applied to."""


class Cancelled(CicadaError):
    """The user stopped it; nothing was written."""
