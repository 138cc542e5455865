"""What a slow machine does to the frames, as the sheet marks it."""

from hypothesis import given
from hypothesis import strategies as st
from msgspec.structs import replace

from cicada.core.planner import plan
from cicada.window.drawing.axis import Axis
from tests.core.films import films


def frames_of(runs):
    return {frame for first, last in runs.tolist() for frame in range(first, last + 1)}


@given(films(), st.sampled_from((0.1, 0.25, (0.0, 0.0, 0.5))))
def test_frames_are_stretched_where_the_picture_leads_and_dropped_as_the_plan_says(film, slow):
    project, run = film
    made = plan(project, replace(run, draw_time=slow))
    shown = [(p.at, p.frame) for p in made.picture()]
    for index in range(len(made.visits)):
        axis = Axis(made, index)
        late, dropped = set(axis.late.tolist()), frames_of(axis.dropped)
        assert not late & frames_of(axis.leads)
        assert not late & dropped
        entered = {
            (at, frame)
            for stretch in made.stretches
            if stretch.visit == index
            for at, frame in made.entries(stretch)
        }
        assert dropped == {frame for at, frame in entered if (at, frame) not in shown}
