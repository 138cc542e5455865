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


def draw_times(project: Project, run: Run) -> dict[str, tuple[int, ...]]:
    """How many samples drawing takes, by scene and frame in turn; empty if the machine keeps up."""
    given = run.draw_time
    times = {}
    for scene in project.scenes:
        own = given.get(scene.id, ()) if isinstance(given, dict) else given
        seconds = own if isinstance(own, tuple) else (own,)
        times[scene.id] = tuple(seconds_to_samples(each, project.rate) for each in seconds) or (0,)
    shortest = project.rate * project.fps[1] // project.fps[0]
    return times if any(max(each) > shortest for each in times.values()) else {}
