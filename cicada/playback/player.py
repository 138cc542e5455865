"""The player: told by messages what to sound, it fills an output block by block.

It knows no clock and no thread: every ``step`` mixes one block and hands it over, so tests drive
it as fast as they like. What takes long (planning a press, making a plan ready to be mixed) is
done ``beside``; what comes meanwhile waits for it. Whatever it turns to next, it crosses over to
in 10 ms.
"""

from collections import deque
from collections.abc import Callable
from concurrent.futures import Future, wait
from functools import partial
from typing import NamedTuple

import numpy as np
from msgspec.structs import replace

from cicada.core.answers import Input
from cicada.core.live import behind, in_order, pressed, same_moment
from cicada.core.mix import Mixer
from cicada.core.model import Run
from cicada.core.plan import Plan
from cicada.core.timebase import round_half_up
from cicada.media.cache import SoundCache
from cicada.playback.crossing import Crossing
from cicada.playback.devices import Port, Ports
from cicada.playback.feeds import (
    Beeps,
    CountedIn,
    Feed,
    Film,
    Heard,
    Scrubbed,
    Slowed,
    Sound,
    Stretched,
    slice_of,
)
from cicada.playback.messages import (
    FILM,
    IDLE,
    TESTING,
    Beep,
    Began,
    Count,
    CountIn,
    Give,
    Given,
    LetGo,
    Listen,
    Load,
    Message,
    Meter,
    Mute,
    Pace,
    Play,
    Press,
    Pressed,
    Probe,
    Quick,
    Quit,
    Repeat,
    Report,
    Scrub,
    Share,
    Status,
    Step,
    Stop,
    UseDevice,
)
from cicada.playback.meters import ROWS, Meters, Reading
from cicada.playback.output import AudioOutput
from cicada.playback.preparing import AT_ONCE, FAR, Beside, Preparing, Ready, Turns, at_once
from cicada.playback.probe import probe

# Sample frames, and fewer where little is handed over ahead: over arrays of 500 numbers and more
# NumPy lets go of the interpreter each time, and a thread beside it then holds up every voice.
BLOCK, QUICK_BLOCK = 512, 240
# Seconds of sound handed over that nobody waits into.
SPARE, QUICK_SPARE = 0.08, 0.011
# Seconds of what is known of a live run at which it is planned on.
LEFT = 0.4


class _Moment(NamedTuple):
    """Where the player was when so many samples had been written."""

    written: int
    doing: int
    sample: float
    pace: float
    plays: int


OfTheFilm = Load | Play | Repeat | Pace | Press | Give | Mute
Change = Callable[[Plan, Run, int], Run | None]
"""A live run with something more from a sample on; None if it comes to nothing there."""


class Player:
    """Plays plans, slices of them and single sounds to an output."""

    def __init__(
        self,
        output: AudioOutput,
        cache: SoundCache,
        ports: Ports | None = None,
        beside: Beside = at_once,
    ) -> None:
        """With ``ports`` another output is opened when one fails, is chosen or comes back."""
        self.running = True
        self.reports: deque[Report] = deque()
        # What came out, block by block, for whoever takes it; the oldest go.
        self.readings: deque[Reading] = deque(maxlen=ROWS)
        self._cache = cache
        self._port = Port(output, ports, self.reports.append)
        self._beside = beside
        self._turns = Turns()
        self._preparing = Preparing(cache, self._turns)
        # What is being made ready, what is done with it then, and what has to wait for that.
        self._soon: Future[Ready] | None = None
        self._then: Callable[[Ready], None] = self._use
        self._waiting: deque[Message] = deque()
        # How many samples ahead of the mixing a press is planned, as it is planned beside it.
        self._ahead = 0
        self._late = False
        # What is played, and what a hand scrubs through; most often they are the same.
        self._ready: Ready | None = None
        self._muted: tuple[tuple[str, int], ...] = ()
        self._plays_drawn = False
        self._film: Film | None = None
        # The film that was begun to be planned a little ahead.
        self._ahead_of: Film | None = None
        self._sounding = Crossing(output.rate)
        self._repeat: tuple[int, int] | None = None
        self._rounds = 0
        self._pace, self._at_pitch = 1.0, False
        # What counts the film in, and lets it be heard or not.
        self._counted: CountedIn | None = None
        # What is cut off fades out before that: so much of what comes has to be known.
        self._ramp = round_half_up(output.rate, 500)
        self._written = 0
        self._plays = 0
        self._meters = Meters(output.rate)
        self._history: deque[_Moment] = deque(maxlen=128)

    @property
    def _loaded(self) -> Load | None:
        return None if self._ready is None else self._ready.load

    @property
    def _drawn(self) -> Mixer | None:
        return None if self._ready is None else self._ready.drawn

    @property
    def _feed(self) -> Feed | None:
        return self._sounding.feed

    @property
    def output(self) -> AudioOutput:
        """What is played to."""
        return self._port.output

    def handle(self, message: Message) -> None:
        """Do as told, from the next block on or as soon as it is ready."""
        waits = self._soon is not None
        if not waits or isinstance(message, Stop | Quit):
            # Silence is kept at once, and once more in its turn: after what was asked for before.
            self._do(message)
        if waits:
            self._waiting.append(message)
            if isinstance(message, Press | Give):
                self._wait_for_what_is_made()
        self._take_what_is_ready()

    def _prepare(self, make: Callable[[], Ready], then: Callable[[Ready], None]) -> None:
        self._soon, self._then = self._beside(make), then
        self._wait_for_what_is_made()

    def _wait_for_what_is_made(self) -> None:
        # Most often it is ready before what was handed over is heard, and then a block sooner.
        spare = self.output.delay() - (QUICK_SPARE if self._port.quick else SPARE)
        if self._soon is not None and spare > 0:
            wait([self._soon], spare)

    def _take_what_is_ready(self) -> None:
        """Use what has been made ready, and do what had to wait for it."""
        while self._soon is not None and self._soon.done():
            ready, self._soon = self._soon.result(), None
            self._then(ready)
            while self._waiting and self._soon is None:
                self._do(self._waiting.popleft())

    def _do(self, message: Message) -> None:
        match message:
            case Load() | Play() | Repeat() | Pace() | Press() | Give() | Mute():
                self._about_the_film(message)
            case Meter(layer):
                self._meters.choose(layer)
                self._watch()
            case Step() | Scrub() | LetGo():
                self._under_the_hand(message)
            case Listen() | Beep() | Count() | Probe():
                self._begin_by_itself(message)
            case Share(shares):
                if isinstance(self._feed, Heard):
                    self._feed.share(shares)
            case Quick() | UseDevice():
                self._about_the_output(message)
            case Stop():
                if self._feed is not None:
                    self._turn_to(None)
            case Quit():
                self.running = False
                self.output.close()

    def _about_the_output(self, message: Quick | UseDevice) -> None:
        match message:
            case Quick(on):
                self._port.be_quick(on=on)
            case UseDevice(name):
                self._port.use(name)

    def _heard(self, message: Listen) -> Heard | None:
        """What is listened to; None if any of it is not in the cache."""
        found = [self._cache.open(key) for key in (message.key, *message.others)]
        stored = [each for each in found if each is not None]
        if len(stored) < len(found) or len(message.shares) != len(stored):
            return None
        return Heard(stored, message.gain, message.start, message.shares)

    def _about_the_film(self, message: OfTheFilm) -> None:
        match message:
            case Load():
                self._load(message)
            case Play():
                self._play(message)
            case Repeat(repeat, rounds):
                self._repeat, self._rounds = repeat, rounds
                if self._film is not None:
                    self._film.end = self._end()
            case Pace(pace, at_pitch):
                self._pace, self._at_pitch = pace, at_pitch
                if self._playing():
                    self._turn_to(self._film_from(self._here()))
            case Press():
                self._press()
            case Give(given, number):
                self._give(given, number)
            case Mute(clips):
                self._muted = clips
                if self._ready is not None:
                    make = partial(self._preparing.again, self._ready, clips)
                    self._prepare(make, self._mix_anew)

    def _play(self, message: Play) -> None:
        self._repeat, self._rounds = message.repeat, message.rounds
        self._plays_drawn = message.drawn
        self._meters.begin()
        counting = message.count_in or CountIn((), 0)
        counted = None
        if counting.length or not message.heard:
            counted = CountedIn(counting, self.output.rate)
            counted.heard = message.heard
        self._counted = counted
        self._begin(self._film_from(message.start), message.start, counting.length)

    def _begin_by_itself(self, message: Listen | Beep | Count | Probe) -> None:
        rate = self.output.rate
        match message:
            case Listen():
                self._begin(self._heard(message))
            case Beep():
                self._begin(Beeps(rate))
            case Count(counting):
                self._begin(CountedIn(counting, rate), 0, counting.length)
            case Probe():
                self._begin(Sound(np.repeat(probe(rate)[None], 2, axis=0), TESTING))

    def _under_the_hand(self, message: Step | Scrub | LetGo) -> None:
        if self._drawn is None:
            return
        match message:
            case Step(start, end):
                self._turn_to(slice_of(self._drawn, start, end, self.output.rate))
            case Scrub(start, end) if isinstance(self._feed, Scrubbed) and self._feed.held:
                self._feed.to(start, end)
            case Scrub(start, end):
                self._turn_to(Scrubbed(self._drawn, start, end, self.output.rate))
            case LetGo() if isinstance(self._feed, Scrubbed):
                self._feed.let_go()

    # -- block by block ------------------------------------------------------------------------

    def step(self) -> None:
        """Mix one block and hand it over."""
        self._take_what_is_ready()
        self._look_ahead()
        feed = self._feed
        here = (feed.doing, feed.sample, feed.pace) if feed is not None else (IDLE, 0.0, 0.0)
        plays = self._plays
        count = QUICK_BLOCK if self._port.quick else BLOCK
        with self._turns.mixing():
            block = self._sounding.read(count, self._at_the_end)
            self._history.append(_Moment(self._written, *here, plays))
            load = 0 if self._loaded is None else self._loaded.number
            where = (self._written, self._plays, load, here[0], here[1])
            self.readings.append(self._meters.read(block, where, here[2], self._metered()))
        self._port.write(block, idle=feed is None and self._sounding.silent)
        self._written += block.shape[1]

    def status(self, clock: float) -> Status:
        """Where the run is that is audible now, and what comes out."""
        audible = self._written - self.output.delay() * self.output.rate
        doing, sample, pace, plays = IDLE, 0.0, 0.0, 0
        for moment in reversed(self._history):
            doing, pace, plays = moment.doing, moment.pace, moment.plays
            sample = moment.sample
            if moment.written <= audible:
                sample += (audible - moment.written) * pace
                break
        out = self.output
        missed = self._port.missed
        return Status(doing, sample, clock, out.real, out.rate, plays, pace, missed, audible)

    def _metered(self) -> Mixer | None:
        """What mixes what sounds."""
        return self._drawn if isinstance(self._feed, Scrubbed) else self._played_mixer()

    def _watch(self) -> None:
        """Have the mixers in use measure their layers."""
        if self._ready is not None:
            for mixer in (self._ready.drawn, self._ready.played):
                self._meters.watch(mixer, self._ready.load)

    def _at_the_end(self) -> None:
        """The feed has no more: begin another round of what is repeated, or fall silent."""
        again = self._playing() and self._repeat is not None and self._rounds != 1
        mixer = self._played_mixer()
        if not again or self._repeat is None or mixer is None:
            self._sounding.ended()
            self._film = None
            return
        self._rounds = max(0, self._rounds - 1)
        first = self._repeat[0]
        # What is sounding goes on under the new beginning for as long as they cross.
        under = Film(mixer, self._end(), mixer.length)
        self._sounding.to_under(under, self._film_from(first, least=1))

    # -- what is played ------------------------------------------------------------------------

    def _begin(self, feed: Feed | None, sample: int = 0, counted: int = 0) -> None:
        """Turn to something that was asked for by itself, counted in with so many samples."""
        self._plays += 1
        self._turn_to(feed)
        self.reports.append(Began(sample, self._written + counted, self._plays))

    def _turn_to(self, feed: Feed | None) -> None:
        self._sounding.to(feed)
        if feed is None or feed.doing != FILM:
            self._film = None

    def _playing(self) -> bool:
        return self._feed is not None and self._feed.doing == FILM

    def _here(self) -> int:
        """The run sample that is mixed next."""
        return 0 if self._feed is None else round(self._feed.sample)

    def _film_from(self, start: int, least: int = 0) -> Feed | None:
        ready = self._ready
        if ready is not None and start < ready.since and not self._plays_drawn:
            self._plan_from(start)
        mixer = self._played_mixer()
        if mixer is None:
            return None
        end = max(self._end(), start + least)
        self._film = Film(mixer, start, end, self._more if self._goes_on() else None)
        feed: Feed = self._film
        if self._pace != 1:
            pace, rate = self._pace, self.output.rate
            slowed = Stretched(self._film, pace, rate) if self._at_pitch else None
            feed = slowed or Slowed(self._film, pace)
        if self._counted is not None:
            # What is counted in may become another plan before it has begun.
            self._counted = self._counted.of(feed)
            return self._counted
        return feed

    def _played_mixer(self) -> Mixer | None:
        ready = self._ready
        if ready is None:
            return None
        return ready.drawn if self._plays_drawn else ready.played

    def _known(self) -> int | None:
        """Up to where what is played is known; None: to its end."""
        return None if self._ready is None or self._plays_drawn else self._ready.until

    def _end(self) -> int:
        """Where what is played ends, as far as it is known."""
        mixer, known = self._played_mixer(), self._known()
        ends = [] if self._repeat is None else [self._repeat[1]]
        if known is not None:
            ends.append(known)
        if mixer is None or ends:
            return min(ends, default=0)
        return mixer.length

    def _goes_on(self) -> bool:
        """Whether what is played goes on after all that is known of it."""
        return self._end() == self._known()

    def _load(self, message: Load) -> None:
        if message.live is not None:
            message = replace(message, live=in_order(message.live))
        before = self._loaded
        mine, theirs = None if before is None else before.live, message.live
        if mine is not None and theirs is not None and behind(theirs, mine):
            # It was on its way when the last press came.
            run = replace(theirs, presses=mine.presses, inputs=mine.inputs)
            make = partial(self._preparing.with_inputs, message, run, self._muted)
        else:
            make = partial(self._preparing.mixers, message, self._muted)
        self._prepare(make, self._take_over)

    def _use(self, ready: Ready) -> None:
        self._ready = ready
        self._watch()

    def _take_over(self, ready: Ready) -> None:
        """What plays goes on at the same frame of a new plan."""
        old = self._played_mixer()
        self._use(ready)
        new = self._played_mixer()
        if self._playing() and old is not None and new is not None:
            here = same_moment(old.plan, new.plan, self._here())
            if self._repeat is not None and self._repeat == (0, old.length):
                self._repeat = 0, new.length
            self._turn_to(self._film_from(here))

    def _mix_anew(self, ready: Ready) -> None:
        """The same plan, mixed with other clips muted."""
        self._use(ready)
        if self._playing():
            self._turn_to(self._film_from(self._here()))

    # -- a live run, planned a little ahead ----------------------------------------------------

    def _ahead_from(
        self, now: int, run: Run | None = None, half_seconds: int = AT_ONCE
    ) -> Callable[[], Ready] | None:
        """What makes the live run ready from a sample on; None if there is none."""
        ready = self._ready
        if ready is None or ready.load.live is None:
            return None
        live = ready.load.live if run is None else run
        ahead = self._preparing.ahead
        return partial(ahead, ready.load, live, now, ready.drawn, self._muted, half_seconds)

    def _look_ahead(self) -> None:
        """Have the live run that plays planned on, in good time."""
        ready, film = self._ready, self._film
        if ready is None or film is None or self._soon is not None or self._plays_drawn:
            return
        if ready.until is None:
            due = ready.since == 0 and film is not self._ahead_of
        else:
            due = ready.until - film.at < LEFT * self.output.rate
        make = self._ahead_from(film.at, half_seconds=FAR) if due else None
        if make is not None:
            self._ahead_of = film
            self._soon, self._then = self._beside(make), partial(self._on_with, film)

    def _on_with(self, film: Film, ready: Ready) -> None:
        """The run goes on as it is planned now; it is the same up to here."""
        self._use(ready)
        if film is self._film:
            film.mixer, film.end = ready.played, self._end()
            film.more = self._more if self._goes_on() else None

    def _plan_from(self, now: int) -> None:
        """Wait for the live run to be planned from a sample on."""
        make = self._ahead_from(now)
        if make is not None:
            self._turns.let_go_on()
            self._use(self._beside(make).result())

    def _more(self) -> None:
        """What plays has come to the end of what is known of it."""
        film, make = self._film, None
        if film is not None:
            make = self._ahead_from(film.at)
        if film is not None and make is not None:
            self._turns.let_go_on()
            self._on_with(film, self._beside(make).result())

    # -- what is given in it -------------------------------------------------------------------

    def _press(self) -> None:
        """A press, at the first sample that can still be mixed with it."""
        self._answer(pressed, Pressed)

    def _give(self, given: Input, number: int) -> None:
        """What is given counts from the first sample that can still be mixed with it."""

        def with_it(plan: Plan, run: Run, at: int) -> Run | None:
            # Most plans of a live run end where no more is known of it.
            if at >= plan.end and self._known() is None:
                return None
            return replace(run, inputs=(*run.inputs, replace(given, at=at)))

        self._answer(with_it, lambda at: Given(replace(given, at=at), number))

    def _answer(self, change: Change, said: Callable[[int], Report]) -> None:
        """Plan the run anew as it is changed from the first sample that can still be mixed.

        Up to there the new plan has the same samples, so nothing is crossed over.
        """
        loaded, film = self._loaded, self._film
        if film is None or loaded is None or loaded.live is None or loaded.played is None:
            return
        here, live = film.at, loaded.live
        # What is given later counts no sooner than what was given before.
        last = max((*live.presses[-1:], *(given.at for given in live.inputs[-1:])), default=0)
        at = max(here + self._ahead + self._ramp, last)
        run = change(loaded.played, live, at)
        make = None if run is None else self._ahead_from(here, run)
        if make is not None:
            again = partial(self._answer, change, said)
            self._prepare(make, partial(self._go_on, film, here, at, again, said))

    def _go_on(
        self,
        film: Film,
        asked: int,
        at: int,
        again: Callable[[], None],
        said: Callable[[int], Report],
        ready: Ready,
    ) -> None:
        """The run that is changed from sample ``at``, asked for at another, is planned."""
        if film is not self._film:
            # It goes round anew.
            again()
            return
        gone_by = film.at - asked
        if not gone_by:
            self._ahead //= 2
        elif self._late:
            # Once it may have been by chance: what is planned further ahead is heard later.
            self._ahead = gone_by + gone_by // 2 + BLOCK
        self._late = film.at + self._ramp > at
        if self._late:
            again()
            return
        self._on_with(film, ready)
        self.reports.append(said(at))
