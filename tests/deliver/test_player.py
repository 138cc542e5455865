"""The player in a browser: it schedules what is planned, and sounds as what is rendered."""

import base64

import msgspec
import numpy as np
import pytest
from hypothesis import given, seed, settings
from msgspec.structs import replace

from cicada.core.answers import Input
from cicada.core.live import going_on
from cicada.core.mix import Mixer
from cicada.core.model import Run
from cicada.core.placements import Placements
from cicada.core.plan import plan_to_builtins
from cicada.core.planner import plan
from cicada.core.recipes import BundleRecipe, Encoding
from cicada.core.silent import muted
from cicada.deliver.delivery import deliver
from cicada.deliver.earlier import Earlier
from cicada.deliver.player_data import exact, placed_in
from cicada.deliver.ready import prepared
from tests.core.films import films
from tests.core.live_films import live_film
from tests.core.test_live_mix import Noise, short_film
from tests.deliver.browser import browser  # noqa: F401 - a fixture

PLAIN, LIVE = 100, 100


def told(project, run):
    """What the player reads of a film, as far as it plans."""
    return {
        "film": exact(project),
        "run": exact(run),
        "placed": msgspec.to_builtins(placed_in(project)),
    }


def as_planned(project, run):
    """Of a plan what the player says of its own."""
    planned = plan(project, run)
    voices = plan_to_builtins(planned)["voices"]
    for voice, made in zip(voices, planned.voices, strict=True):
        voice["rise"], voice["picked"] = voice.get("rise"), voice.get("picked")
        voice |= {"total": made.length, "fadeLength": made.fade_length, "fire": made.fire}
    events = [
        [e.at, e.kind, e.scene, e.frame, e.layer, e.until] for e in planned.events
    ]
    glides = [[g.at, g.value, g.start, g.to, g.over] for g in planned.glides]
    picture = [[p.at, p.scene, p.frame] for p in planned.picture()]
    return {
        "end": planned.end, "length": planned.length, "voices": voices, "events": events,
        "glides": glides, "picture": picture,
    }  # fmt: skip


PLANS = """
const NAMES = ["scene", "layer", "frame", "sound", "sync", "why", "ended", "pieces", "fades",
  "rise", "picked", "total", "fadeLength", "fire"];
return data.map((told) => {
  const film = new Cicada.Film(told);
  const plan = new Cicada.Walk(film, told.run, new Cicada.State()).play();
  const picture = [];
  for (const { at, visit, frame, length, shown, stands } of plan.stretches) {
    const moves = at + stands - film.base.start(frame);
    for (let i = 0; shown && i < length; i += 1) {
      const entered = i ? moves + film.base.start(frame + i) : at;
      picture.push([entered, plan.visits[visit].scene, frame + i]);
    }
  }
  return {
    end: plan.end, length: plan.length, picture,
    voices: plan.voices.map((v) => Object.fromEntries(NAMES.map((name) => [name, v[name]]))),
    events: plan.events.map((e) => [e.at, e.kind, e.scene, e.frame, e.layer, e.until]),
    glides: plan.glides.map((g) => [g.at, g.value, g.from, g.to, g.over]),
  };
});
"""


def same(found, wanted):
    for number, (one, other) in enumerate(zip(found, wanted, strict=True)):
        names = one["voices"][0].keys() if one["voices"] else ()
        other["voices"] = [{name: voice[name] for name in names} for voice in other["voices"]]
        assert one == msgspec.json.decode(msgspec.json.encode(other)), number


def random_films(many):
    found = []

    @seed(5)
    @settings(max_examples=many, database=None)
    @given(films())
    def collect(film):
        found.append(film)

    collect()
    return found


def test_it_plans_random_films_as_they_are_planned(browser):  # noqa: F811
    made = random_films(PLAIN)
    found = browser.ask(PLANS, [told(*film) for film in made])
    same(found, [as_planned(*film) for film in made])


def test_it_plans_films_that_answer_with_the_same_picks(browser):  # noqa: F811
    made = [live_film(number) for number in range(LIVE)]
    wanted = [as_planned(*film) for film in made]
    assert sum(voice["picked"] is not None for each in wanted for voice in each["voices"]) > LIVE
    same(browser.ask(PLANS, [told(*film) for film in made]), wanted)


# -- heard -----------------------------------------------------------------------------------------

# A film is played into a recording, with what is given at moments of it.
RECORD = """
const player = await Cicada.load(data.place + "film.json");
await player.loaded;
const { rate } = player.film;
const context = new OfflineAudioContext(2, data.length, rate);
player.begin(context);
for (let at = 0; at < data.length; at += 1024) {
  const due = data.given.filter((each) => each.at >= at && each.at < at + 1024);
  const look = () => {
    for (const { press, pad, value, to, over } of due) {
      if (press) player.press();
      else if (pad) player.act(pad);
      else player.give(value, to, over);
    }
    player.tick();
  };
  if (at === 0) look();
  else context.suspend(at / rate).then(() => { look(); context.resume(); });
}
const heard = await context.startRendering();
return {
  heard: [0, 1].map((side) => text(heard.getChannelData(side))),
  run: player.run(), missing: [...player.missing],
};
"""


class Sounding(Noise):
    """Noise that can be had."""

    def why_silent(self, _):
        return ""


def delivered(folder, project, run, sources, encoding, file, **fields):
    """A bundle that plays by a run, delivered below a folder; the run it really plays by."""
    recipe = BundleRecipe(id="rec", name="film", encoding=encoding, picture=False, **fields)
    ready = prepared(replace(project, name="Film"), recipe)
    ready = ready._replace(found=ready.found._replace(run=run))
    deliver(
        project, file, ready, folder, sources,
        earlier=Earlier(folder / "earlier.json"), over=ready.names, without_missing=True,
    )  # fmt: skip
    return folder / "film"


def recorded(browser, place, length, given=()):  # noqa: F811
    found = browser.ask(
        RECORD, {"place": f"{place.name}/film/", "length": length, "given": list(given)}
    )
    assert not found["missing"]
    sides = [np.frombuffer(base64.b64decode(side), "<f4") for side in found["heard"]]
    return np.stack(sides), msgspec.convert(found["run"], Run)


def apart(heard, project, run, sources):
    """By how much a recording differs from the render of its run, of the larger of 1 and its peak.

    The end, where the render of what goes on is cut, is left aside.
    """
    length = heard.shape[1]
    run = going_on(replace(run, limit=length / project.rate), project.rate)
    planned = plan(project, run)
    mixer = Mixer(planned, project, sources, muted(project))
    whole = planned.length - project.rate // 500
    count = min(length, whole) if planned.length >= length else length
    wanted = mixer.mix(0, count)
    loudest = max(1.0, np.abs(wanted).max(initial=0))
    return np.abs(heard[:, :count] - wanted).max(initial=0) / loudest


KINDS = (Encoding(kind="wav", bits=32), Encoding(kind="wav"), Encoding(kind="flac"))


@pytest.mark.parametrize("number", range(12))
def test_a_recording_of_what_answers_is_what_is_rendered(browser, number):  # noqa: F811
    project, run = short_film(number)
    sources = Sounding(project)
    waiting = replace(run, presses=(), inputs=(), press_points="wait", limit=None)
    given = [{"at": at, "press": True} for at in run.presses]
    given += [
        {"at": x.at, "pad": x.pad, "value": x.value, "to": x.to, "over": x.over}
        for x in run.inputs if x.pad or x.value
    ]  # fmt: skip
    place = browser.folder / f"answers{number}"
    place.mkdir()
    encoding = KINDS[number % len(KINDS)]
    delivered(place, project, waiting, sources, encoding, place / "film.cicada")
    heard, played = recorded(browser, place, 12_000, given)
    assert played.inputs or not [x for x in given if "press" not in x and x["at"] < 4000]
    assert apart(heard, project, played, sources) <= 1e-5


@pytest.mark.parametrize("encoding", KINDS)
def test_a_recording_of_the_demo_is_what_is_rendered(browser, whole_demo, encoding):  # noqa: F811
    from cicada.media.cache import user_cache
    from cicada.media.sources import SoundSources
    from cicada.store.projectfile import load
    from cicada.store.sounds_folder import sound_files

    project = load(whole_demo)
    sources = SoundSources(project, sound_files(project, whole_demo), user_cache())
    place = browser.folder / f"demo-{encoding.kind}{encoding.bits}"
    place.mkdir()
    run = Run(press_points="wait")
    delivered(place, project, run, sources, encoding, whole_demo)
    given = [{"at": 48_000 * second, "press": True} for second in (3, 8, 12)]
    given += [{"at": 48_000 * 5, "pad": project.pads[0].id}]
    given += [{"at": 48_000 * 6, "value": project.values[0].id, "to": 0.8, "over": 0.5}]
    heard, played = recorded(browser, place, 48_000 * 20, given)
    assert len(played.presses) == 3
    assert len(played.inputs) == 2
    assert apart(heard, project, played, sources) <= 1e-5
