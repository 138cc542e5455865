"""The player in a browser: it schedules what is planned, and sounds as what is rendered."""

import base64
import shutil
import subprocess

import msgspec
import numpy as np
import pytest
from hypothesis import given, seed, settings
from msgspec.structs import replace

from cicada.core.answers import Fire, Pad, Value, Zone
from cicada.core.live import going_on
from cicada.core.mix import Mixer
from cicada.core.model import (
    FORMAT,
    Clip,
    Layer,
    PressPoint,
    Project,
    Run,
    Scene,
    Sound,
)
from cicada.core.plan import plan_to_builtins
from cicada.core.planner import plan
from cicada.core.recipes import BundleRecipe, Encoding
from cicada.core.silent import muted
from cicada.core.timebase import seconds_to_samples
from cicada.deliver.delivery import deliver
from cicada.deliver.earlier import Earlier
from cicada.deliver.player_data import exact, placed_in
from cicada.deliver.ready import prepared
from cicada.media.cache import user_cache
from cicada.media.sources import SoundSources
from cicada.store.projectfile import load
from cicada.store.sounds_folder import sound_files
from tests.core.films import films
from tests.core.live_films import live_film
from tests.core.test_live_mix import Noise, short_film
from tests.deliver.browser import QUIET

PLAIN, LIVE = 100, 100


def told(project, run):
    """What the player reads of a film, as far as it plans, and how far it does."""
    limit = 3600.0 if run.limit is None and not run.passes else run.limit
    return {
        "until": None if limit is None else seconds_to_samples(limit, project.rate),
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
    events = [[e.at, e.kind, e.scene, e.frame, e.layer, e.until] for e in planned.events]
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
  const plan = new Cicada.Walk(film, told.run, new Cicada.State(), { until: told.until }).play();
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


def same(found, wanted, films):
    for number, (one, other) in enumerate(zip(found, wanted, strict=True)):
        if other["length"] == told(*films[number])["until"]:
            # It ends as it is stopped: the player says that it is stopped.
            for plan in (one, other):
                plan["events"] = [event for event in plan["events"] if event[1] != "limited"]
                for voice in plan["voices"]:
                    voice["ended"] = (
                        voice["ended"] if voice["pieces"][-1][1] < plan["length"] else ""
                    )
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


def test_it_plans_random_films_as_they_are_planned(browser):
    made = random_films(PLAIN)
    found = browser.ask(PLANS, [told(*film) for film in made])
    same(found, [as_planned(*film) for film in made], made)


def test_it_plans_films_that_answer_with_the_same_picks(browser):
    made = [live_film(number) for number in range(LIVE)]
    # No number of the browser's own holds these.
    made += [(replace(p, seed=2**70 + n), r) for n, (p, r) in enumerate(made[:10])]
    wanted = [as_planned(*film) for film in made]
    assert sum(voice["picked"] is not None for each in wanted for voice in each["voices"]) > LIVE
    same(browser.ask(PLANS, [told(*film) for film in made]), wanted, made)


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


def recorded(browser, place, length, given=()):
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


@pytest.mark.parametrize("number", range(20))
def test_a_recording_of_what_answers_is_what_is_rendered(browser, number):
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


def of_the_demo(file):
    project = load(file)
    return project, SoundSources(project, sound_files(project, file), user_cache())


@pytest.mark.parametrize("encoding", KINDS)
def test_a_recording_of_the_demo_is_what_is_rendered(browser, whole_demo, encoding):
    project, sources = of_the_demo(whole_demo)
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


@pytest.mark.parametrize("kind", ["opus", "vorbis", "mp3"])
def test_with_loss_sounds_start_on_their_sample_as_loud_as_rendered(browser, whole_demo, kind):
    project, sources = of_the_demo(whole_demo)
    place = browser.folder / f"demo-{kind}"
    place.mkdir()
    run = Run(press_points="pass")
    delivered(place, project, run, sources, Encoding(kind=kind, quality=0.9), whole_demo)
    heard, played = recorded(browser, place, 48_000 * 10)
    planned = plan(project, replace(played, limit=10.0))
    wanted = Mixer(planned, project, sources, muted(project)).mix(0, 48_000 * 10 - 96)
    for start in range(0, 48_000 * 9, 48_000):
        one, other = (each[0, start : start + 48_000] for each in (heard, wanted))
        size = 1 << 17
        alike = np.fft.irfft(np.fft.rfft(one, size) * np.conj(np.fft.rfft(other, size)), size)
        assert int(alike.argmax()) == 0
        level = np.sqrt(np.square(one).mean() / np.square(other).mean())
        assert abs(20 * np.log10(level)) < 1


# -- by hand ---------------------------------------------------------------------------------------


@pytest.fixture(scope="module")
def answering(browser):
    """A film of two seconds that waits on frame 12, with a pad that is told in every way."""
    pad = Pad(
        id="p1", name="Knock", key="k", message="/knock",
        zone=Zone(scene="sc", frames=(0, 47), at=(0.5, 0.0, 0.5, 1.0)),
        does=(Fire(sound="s0"),),
    )  # fmt: skip
    layer = Layer(id="l1", keyframes=(Clip(frame=24, sound="s0"),))
    scene = Scene(id="sc", length=48, layers=(layer,), press_points=(PressPoint(frame=12),))
    project = Project(
        format=FORMAT, version=2, fps=(24, 1), rate=8000, pads=(pad,), scenes=(scene,),
        values=(Value(id="v1", name="Wind"),),
        sounds=(Sound(id="s0", frames=2000, rate=8000, channels=1),),
    )  # fmt: skip
    place = browser.folder / "answering"
    place.mkdir()
    delivered(
        place,
        project,
        Run(press_points="wait"),
        Sounding(project),
        Encoding(),
        place / "film.cicada",
    )
    return project, place


GIVEN = """
const player = await Cicada.load("answering/film/film.json");
await player.loaded;
const context = new OfflineAudioContext(2, 16000, 8000);
player.begin(context);
player.tick();
await (async () => { %s })();
return player.run();
"""


@pytest.mark.parametrize(("does", "pads", "presses"), [
    ('player.act("p1")', 1, 0),
    ('player.act("Knock")', 1, 0),
    ('player.act("nobody")', 0, 0),
    ('player.key("K")', 1, 0),
    ('player.key(" ")', 0, 1),
    ('player.key("Enter")', 0, 1),
    ('player.key("x")', 0, 0),
    ("player.click(0.75, 0.5)", 1, 0),
    ("player.click(0.25, 0.5)", 0, 1),
    ('player.message("/knock")', 1, 0),
    ('player.message("/knock", 1)', 1, 0),
    ('player.message("/knock", 0)', 0, 0),
    ('player.message("/other")', 0, 0),
])  # fmt: skip
def test_pads_and_presses_are_given_by_name_key_zone_and_message(
    browser,
    answering,
    does,
    pads,
    presses,
):
    run = browser.ask(GIVEN % does)
    assert ([given["pad"] for given in run["inputs"]], len(run["presses"])) == (
        ["p1"] * pads,
        presses,
    )


@pytest.mark.parametrize(("does", "to", "over"), [
    ('player.give("v1", 0.5)', 0.5, 0.02),
    ('player.give("Wind", 7, 2)', 1.0, 2.0),
    ('player.give("v1", null, 1)', None, 1.0),
    ('player.message("/cicada/value", "Wind", 0.25, 0.5)', 0.25, 0.5),
    ('player.give("v1", NaN)', "nothing", 0),
    ('player.give("v1", "0.5")', "nothing", 0),
    ('player.give("v1", 0.5, "soon")', "nothing", 0),
    ('player.give("v1", 0.5, -1)', "nothing", 0),
    ('player.give("nobody", 0.5)', "nothing", 0),
])  # fmt: skip
def test_values_are_given_numbers_within_their_bounds(browser, answering, does, to, over):
    inputs = browser.ask(GIVEN % does)["inputs"]
    assert [(each["to"], each["over"]) for each in inputs] == (
        [] if to == "nothing" else [(to, over)]
    )


@pytest.mark.parametrize(("origins", "heard"), [([], 0), (["self"], 1)])
def test_other_pages_are_heard_only_where_they_may_be(browser, answering, origins, heard):
    run = browser.ask(
        """
        const player = await Cicada.load("answering/film/film.json", { origins: data });
        player.begin(new OfflineAudioContext(2, 16000, 8000));
        player.tick();
        const told = [null, 1, "press", {}, { cicada: "message", arguments: 5 },
          { cicada: "give", value: "v1", to: {} }, { cicada: "act", pad: "p1" }];
        for (const each of told) window.postMessage(each, "*");
        await new Promise((go) => setTimeout(go, 100));
        return player.run();
    """,
        origins,
    )
    assert [each["pad"] for each in run["inputs"]] == ["p1"] * heard


PLAYED = """
const player = await Cicada.load("answering/film/film.json", { draw: %s });
await player.loaded;
const told = [];
for (const kind of ["begin", "wait", "go", "pause", "end"]) {
  player.addEventListener(kind, () => told.push(kind));
}
const frames = [];
player.addEventListener("frame", ({ detail }) => frames.push(detail.frame));
const wait = (milliseconds) => new Promise((go) => setTimeout(go, milliseconds));
player.begin();
%s
player.stop();
return { told, frames, ended: player.over };
"""


@pytest.mark.alone
def test_it_plays_waits_and_goes_on_in_real_time(browser, answering):
    found = browser.ask(PLAYED % ("null", """
        await wait(1200); player.press(); await wait(2600);
    """))  # fmt: skip
    assert found["told"] == ["begin", "wait", "go", "end"]
    frames = found["frames"]
    assert frames == sorted(set(frames))
    assert {12, 13} <= set(frames)
    assert len(frames) >= 40


@pytest.mark.alone
def test_it_stands_still_while_its_tab_is_hidden(browser, answering):
    found = browser.ask(PLAYED % ("null", """
        const hide = (hidden) => {
          Object.defineProperty(document, "hidden", { value: hidden, configurable: true });
          document.dispatchEvent(new Event("visibilitychange"));
        };
        await wait(300); hide(true);
        await wait(50); frames.length = 0; await wait(600);
        frames.push(-1); hide(false); await wait(400);
    """))  # fmt: skip
    assert found["told"][:3] == ["begin", "pause", "go"]
    assert found["frames"][0] == -1
    # It goes on where it was, not where it would be.
    assert 1 <= found["frames"][1] <= 11


@pytest.mark.alone
def test_how_long_drawing_takes_is_the_draw_time_of_the_film(browser, answering):
    slow = "() => new Promise((go) => setTimeout(go, 120))"
    found = browser.ask(PLAYED % (slow, "await wait(1300);"))
    # Twelve frames of a 24th of a second would be over by then; of 0.12 s they are not.
    assert found["told"] == ["begin"]
    assert found["frames"] == list(range(len(found["frames"])))
    assert 7 <= len(found["frames"]) <= 12


@pytest.mark.alone
def test_the_page_begins_with_a_press_and_hands_on_what_is_pressed(browser, answering):
    found = browser.ask("""
        const wait = (milliseconds) => new Promise((go) => setTimeout(go, milliseconds));
        const page = document.body.appendChild(document.createElement("iframe"));
        page.src = "answering/film/index.html";
        await new Promise((there) => { page.onload = there; });
        const at = (id) => page.contentDocument.getElementById(id);
        for (let i = 0; i < 100 && at("begin").disabled; i += 1) await wait(50);
        const told = [[at("name").textContent, at("begin").textContent, at("frame").textContent]];
        const shows = () => [at("begin").hidden, at("frame").textContent, at("said").textContent];
        const key = (name) => page.contentDocument.body.dispatchEvent(
          new KeyboardEvent("keydown", { key: name, bubbles: true }));
        at("begin").click();
        await wait(1200);
        told.push(shows());
        at("pads").children[0].click();
        at("pause").click();
        await wait(100);
        told.push([at("pause").textContent, at("said").textContent]);
        at("pause").click();
        key("k");
        key(" ");
        await wait(2700);
        told.push([...shows(), at("begin").textContent]);
        page.remove();
        return told;
    """)  # fmt: skip
    assert found == [
        ["film", "Begin", ""],
        [True, "13", "waits for a press: click, space or Enter"],
        ["Go on", "stands still"],
        [False, "48", "is over", "Begin again"],
    ]


def test_a_film_without_end_is_planned_on_without_growing(browser, answering):
    found = browser.ask("""
        const told = await (await fetch("answering/film/film.json")).json();
        const film = new Cicada.Film(told);
        const live = new Cicada.LiveRun(film, { ...told.run, passes: 0, press_points: "pass" });
        let part;
        for (let at = 0; at < 16000 * 1000; at += 16000) part = live.ahead(at, at + 24000);
        const { visits, stretches, voices } = part.plan;
        return [visits[visits.length - 1].number, visits.length, stretches.length, voices.length];
    """)
    assert found[0] >= 1000
    assert max(found[1:]) < 10


def test_a_page_opened_from_the_disk_says_that_it_must_be_served(answering, tmp_path):
    _, place = answering
    shown = subprocess.run(
        [shutil.which("chromium"), "--headless", *QUIET, f"--user-data-dir={tmp_path}",
         "--dump-dom", f"file://{place}/film/index.html"],
        capture_output=True, text=True, timeout=60, check=True,
    ).stdout  # fmt: skip
    assert "must be served" in shown
    assert "cicada serve" in shown
