"""Styles: settings of a clip kept under a name, to be put on other clips."""

from msgspec.structs import replace
from typing_extensions import override

from cicada.core.editing import Cell, Edit
from cicada.core.keyframe_edits import ChangeKeyframes
from cicada.core.model import Clip, Project, Style
from cicada.errors import BadEdit

# What a style takes from a clip: how it keeps time, repeats, ends, fades, and how loud it is.
FIELDS = (
    "sync", "loops", "if_sounding", "busy", "gap", "ends", "release", "level", "fade_in",
    "fade_out", "fade_shape",
)  # fmt: skip


def style_of(name: str, clip: Clip) -> Style:
    """The settings of a clip as a style."""
    return Style(name=name, **{field: getattr(clip, field) for field in FIELDS})


class KeepStyle(Edit, frozen=True, kw_only=True, tag="keep-style"):
    """Keep a style under its name; another one of that name is replaced."""

    style: Style

    @property
    @override
    def title(self) -> str:
        return f"keep the style {self.style.name}"

    @override
    def apply(self, project: Project) -> Project:
        if not self.style.name:
            raise BadEdit("a style needs a name", remedy="type one")
        names = [style.name for style in project.styles]
        if self.style.name not in names:
            return replace(project, styles=(*project.styles, self.style))
        styles = tuple(self.style if s.name == self.style.name else s for s in project.styles)
        return replace(project, styles=styles)


class ForgetStyle(Edit, frozen=True, kw_only=True, tag="forget-style"):
    """Forget a style; clips it was put on stay as they are."""

    name: str

    @property
    @override
    def title(self) -> str:
        return f"forget the style {self.name}"

    @override
    def apply(self, project: Project) -> Project:
        kept = tuple(style for style in project.styles if style.name != self.name)
        if len(kept) == len(project.styles):
            raise BadEdit(f"there is no style {self.name!r}", remedy="choose one that is there")
        return replace(project, styles=kept)


def putting(style: Style, cells: tuple[Cell, ...]) -> Edit:
    """The edit that puts a style on clips."""
    changes = {
        field: value
        for field in style.__struct_fields__
        if field != "name" and (value := getattr(style, field)) is not None
    }
    return ChangeKeyframes(cells=cells, changes=changes, what=f"to the style {style.name}")
