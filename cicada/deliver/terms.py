"""The sounds of a project with where they came from and on what terms, as a text to hand over."""

from pathlib import PurePath

from cicada.core.model import Project, Sound


def terms_text(project: Project) -> str:
    """A paragraph for each sound; files are named, never placed."""
    lines = [f"Sounds of {project.name or 'this film'}", ""]
    for sound in project.sounds:
        lines += [*_lines(sound), ""]
    if not project.sounds:
        lines += ["There are none.", ""]
    return "\n".join(lines)


def _lines(sound: Sound) -> list[str]:
    came = PurePath(sound.origin.replace("\\", "/")).name
    made = "made here" if sound.making is not None else ""
    known = [
        (sound.label, ""),
        ("  from: ", came or made or "not known"),
        ("  terms: ", " ".join(sound.terms.split()) or "none said"),
        ("  note: ", " ".join(sound.note.split())),
        ("  content: ", sound.hash),
    ]
    return [name + said for name, said in known if said or name == sound.label]
