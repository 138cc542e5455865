"""The conditions of a run, made ready for planning."""

from cicada.core.model import Project, Run
from cicada.core.timebase import seconds_to_samples
from cicada.errors import BadProject


def first_scene(project: Project, run: Run) -> int:
    """The index of the scene the run starts in; ``BadProject`` if it starts nowhere."""
    if run.scene is None:
        index = 0
    else:
        ids = [scene.id for scene in project.scenes]
        if run.scene not in ids:
            raise BadProject(
                f"there is no scene {run.scene!r}",
                place="run.scene",
                remedy="name one of " + ", ".join(ids[:8]),
            )
        index = ids.index(run.scene)
    length = project.scenes[index].length
    if run.frame >= length:
        first = project.first_frame
        raise BadProject(
            f"frame {run.frame + first} is past the scene's last frame, {length - 1 + first}",
            place="run.frame",
            remedy="start on an earlier frame",
        )
    return index


def draw_times(project: Project, run: Run) -> list[int]:
    """How many samples drawing takes, by frame in turn; empty if the machine keeps up."""
    given = run.draw_time
    seconds = given if isinstance(given, tuple) else (given,)
    samples = [seconds_to_samples(value, project.rate) for value in seconds]
    shortest = project.rate * project.fps[1] // project.fps[0]
    return samples if samples and max(samples) > shortest else []
