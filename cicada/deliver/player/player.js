// Playing a film in a page: its sounds are mixed ahead in blocks, which are dropped and mixed
// anew where something is given that changes them.

const BLOCK = 512; // samples of a block
const AHEAD = 1; // seconds that are mixed ahead
const PLANNED = 3; // seconds that are planned ahead of those
const FIXED = 0.025; // seconds before it is heard that nothing changes any more
const TICK = 20; // milliseconds between two looks at what is to be mixed
const SPENT = 8; // milliseconds that are mixed at a time once there is enough
const GLIDE = "0.02"; // seconds over which a value moves where nobody says

/** Plays one film. Tells "begin", "wait", "go", "pause", "end", and "frame" with its `detail`. */
class Player extends EventTarget {
	/** `sounds` are `{channels}` by `stretchKey`; `draw({scene, frame})` may return a promise. */
	constructor(data, sounds, { draw = null } = {}) {
		super();
		this.data = data;
		this.film = new Film(data);
		this.sounds = sounds;
		this.missing = new Set();
		this.draw = draw;
		this.live = null;
		this.context = null;
		this.playing = false;
		this.waiting = false;
		this.over = false;
	}

	// -- begin, pause, go on

	/** Begin the film, or begin it anew. To be called as somebody presses, as browsers ask. */
	begin(context = null) {
		this.stop();
		const { rate } = this.film;
		this.context = context || new AudioContext({ sampleRate: rate, latencyHint: "interactive" });
		this.draws = this.draw ? new DrawTimes() : null;
		this.live = new LiveRun(this.film, this.data.run, { draws: this.draws });
		Object.assign(this, {
			blocks: [], mixed: 0, fixed: 0, part: null, stale: true, waiting: false, over: false,
			drawn: { shown: null, since: null, took: [] },
		});
		if (context) {
			this.start();
			return;
		}
		this.onHidden = () => {
			if (document.hidden) this.hid = this.pause();
			else if (this.hid) this.goOn();
		};
		document.addEventListener("visibilitychange", this.onHidden);
		this.context.resume();
		// How long drawing takes is known when the first picture is there.
		const { scene, frame } = this.data.run;
		const { drawn } = this;
		this.drawOne({ scene: scene === null ? this.film.scenes[0].id : scene, frame }).then(() => {
			if (drawn !== this.drawn || !this.context) return;
			this.start(Math.ceil(rate / 10));
			this.keepGoing();
			if (document.hidden) this.onHidden();
		});
	}

	start(lead = 0) {
		this.zero = Math.ceil(this.context.currentTime * this.film.rate) + lead;
		this.playing = true;
		this.tell("begin");
	}

	/** Everything stands still, sound and picture, until `goOn`; whether anything did not. */
	pause() {
		if (!this.playing) return false;
		this.playing = false;
		this.context.suspend();
		this.tell("pause");
		return true;
	}

	goOn() {
		if (this.playing || !this.context || this.over) return;
		this.playing = true;
		this.hid = false;
		this.context.resume();
		this.keepGoing();
		this.tell("go");
	}

	stop() {
		this.playing = false;
		if (!this.context) return;
		for (const { node } of this.blocks) node.disconnect();
		if (this.onHidden) {
			document.removeEventListener("visibilitychange", this.onHidden);
			this.context.close();
		}
		this.context = null;
	}

	// -- what the audience does

	/** Let the picture go on where it waits; anywhere else it does nothing. */
	press() {
		this.change((at) => this.live.press(at));
	}

	/** Press a pad, by its id or name; whether there is one. */
	act(pad) {
		const found = this.film.padsReady.find(({ pad: each }) => pad === each.id || pad === each.name);
		if (found) this.change((at) => this.live.give({ at, pad: found.pad.id }));
		return Boolean(found);
	}

	/** Move a value to a number, over seconds; null: back to its line. Whether there is one. */
	give(value, to = null, over = GLIDE) {
		const found = this.film.values.find((each) => value === each.id || value === each.name);
		const seconds = Number(over);
		if (!found || (to !== null && !Number.isFinite(to)) || !(seconds >= 0 && seconds <= 1e6)) {
			return false;
		}
		const within = to === null ? null : clamped(to, Number(found.from), Number(found.to));
		const text = within === null ? null : String(within);
		this.change((at) => this.live.give({ at, value: found.id, to: text, over: String(seconds) }));
		return true;
	}

	/** A message: presses the pad of that address, unless its first number is 0. */
	message(address, ...numbers) {
		if (address === "/cicada/value") return this.give(numbers[0], numbers[1] ?? null, numbers[2]);
		const found = this.film.padsReady.find(({ pad }) => pad.message === address);
		if (found && numbers[0] !== 0) this.act(found.pad.id);
		return Boolean(found);
	}

	/** A click at a part of the picture's width and height: a pad whose zone it is in, or a press. */
	click(x, y) {
		const here = this.frameAt(this.heard());
		const inside = ({ scene, frames: [first, last], at: [left, top, width, height] }) =>
			here && scene === here.scene && here.frame >= first && here.frame <= last
			&& x >= left && x < left + width && y >= top && y < top + height;
		const found = this.film.padsReady.find(({ pad }) => pad.zone && inside(pad.zone));
		if (found) this.act(found.pad.id);
		else this.press();
	}

	/** A key: the pad it belongs to, or, of the space bar and Enter, a press; whether it is any. */
	key(key) {
		const found = this.film.padsReady.find(({ pad }) => pad.key !== null
			&& pad.key.toLowerCase() === key.toLowerCase());
		if (found) this.act(found.pad.id);
		else if (key === " " || key === "Enter") this.press();
		else return false;
		return true;
	}

	/** What was given so far, as a run that `cicada plan` and `cicada render` take. */
	run() {
		const { presses, inputs } = this.live || this.data.run;
		const isText = (name, each) => typeof each !== "string" || Number.isNaN(Number(each))
			|| ["scene", "pad", "value"].includes(name);
		return JSON.parse(JSON.stringify({ ...this.data.run, presses, inputs }),
			(name, each) => isText(name, each) ? each : Number(each));
	}

	// -- mixing ahead

	/** The run sample the context has come to. */
	now() {
		return Math.round(this.context.currentTime * this.film.rate) - this.zero;
	}

	/** The first run sample that can still be changed; where one block ends and another begins. */
	changeable() {
		const fixed = (FIXED + (this.context.baseLatency || 0)) * this.film.rate;
		const near = Math.ceil((this.now() + fixed) / BLOCK) * BLOCK;
		this.fixed = Math.max(this.fixed, near, 0);
		return this.fixed;
	}

	change(give) {
		if (!this.live || !this.playing || this.over) return;
		const at = this.changeable();
		give(at);
		this.mixAnew(at);
		this.mix();
	}

	/** A sound is there that was not when it was mixed. */
	arrived(key) {
		if (this.missing.delete(key) && this.playing) this.mixAnew(this.changeable());
	}

	/** What was mixed from a sample on is not heard. */
	mixAnew(at) {
		for (const { start, node } of this.blocks) if (start >= at) node.disconnect();
		this.blocks = this.blocks.filter(({ start }) => start < at);
		this.mixed = Math.min(this.mixed, at);
		this.stale = true;
	}

	/** Mix what is missing of the next second; a part of it, if that takes long. */
	mix() {
		const { rate } = this.film;
		const fixed = this.changeable();
		if (this.mixed < this.now() && !this.isMixed()) {
			// The page stood still for longer than was mixed: the film stood still with it.
			this.zero += Math.ceil(this.now() + FIXED * rate) - this.mixed;
			this.fixed = this.mixed;
		}
		const enough = this.now() + AHEAD * rate;
		const soon = this.now() + 0.15 * rate;
		const begun = performance.now();
		while (this.mixed < enough && !this.isMixed()) {
			if (this.mixed > soon && performance.now() - begun > SPENT) break;
			this.plan(Math.min(fixed, this.mixed));
			if (!this.isMixed()) this.mixBlock();
		}
	}

	isMixed() {
		return !this.stale && this.part.whole && this.mixed >= this.part.until;
	}

	plan(now) {
		const { rate } = this.film;
		const { part } = this;
		if (!this.stale && (part.whole || this.mixed + BLOCK + rate / JUMP < part.until)) return;
		this.stale = false;
		this.part = this.live.ahead(now, this.mixed + Math.ceil(PLANNED * rate));
		this.mixer = new Mixer(this.part.plan, this.film, this.sounds, this.missing);
	}

	mixBlock() {
		const { rate } = this.film;
		const count = this.part.whole ? Math.min(BLOCK, this.part.until - this.mixed) : BLOCK;
		const buffer = this.context.createBuffer(2, count, rate);
		this.mixer.mix(this.mixed, count).forEach((side, i) => buffer.copyToChannel(side, i));
		const node = this.context.createBufferSource();
		node.buffer = buffer;
		node.connect(this.context.destination);
		node.start((this.zero + this.mixed) / rate);
		this.blocks.push({ start: this.mixed, node });
		this.mixed += count;
	}

	tick() {
		this.watchDrawing();
		this.mix();
		const now = this.now();
		this.blocks = this.blocks.filter(({ start }) => start + BLOCK > now - this.film.rate);
		if (this.isMixed() && this.heard() >= this.part.until) {
			this.over = true;
			this.playing = false;
			this.tell("end");
		}
	}

	keepGoing() {
		const tick = () => {
			if (!this.playing) return;
			this.tick();
			setTimeout(tick, TICK);
		};
		const show = () => {
			if (!this.playing) return;
			this.show();
			requestAnimationFrame(show);
		};
		tick();
		requestAnimationFrame(show);
	}

	tell(kind, detail = null) {
		this.dispatchEvent(new CustomEvent(kind, { detail }));
	}

	// -- the picture

	/** The run sample that is heard now. */
	heard() {
		if (!this.context) return 0;
		return this.now() - Math.round((this.context.outputLatency || 0) * this.film.rate);
	}

	/** The frame that is shown at a run sample; null before the first. */
	frameAt(sample) {
		if (!this.part) return null;
		const { stretches, visits, firstVisit } = this.part.plan;
		let found = null;
		for (const stretch of stretches) {
			if (stretch.at > sample) break;
			if (stretch.shown) found = stretch;
		}
		if (!found) return null;
		const { base } = this.film;
		const moved = Math.max(0, sample - found.at - found.stands) + base.start(found.frame);
		const frame = Math.min(base.frameAt(moved), found.frame + found.length - 1);
		return { scene: visits[found.visit - firstVisit].scene, frame };
	}

	/** Whether the picture waits for a press at a run sample. */
	waitsAt(sample) {
		return this.part !== null && this.part.plan.events.some((event) => event.kind === "waiting"
			&& event.at <= sample && (event.until === null || event.until > sample));
	}

	show() {
		const sample = this.heard();
		const waiting = this.waitsAt(sample);
		if (waiting !== this.waiting) {
			this.waiting = waiting;
			this.tell(waiting ? "wait" : "go");
		}
		const here = this.frameAt(sample);
		const { drawn } = this;
		const same = here && drawn.shown && here.scene === drawn.shown.scene
			&& here.frame === drawn.shown.frame;
		if (!here || same || drawn.since !== null) return;
		this.drawOne(here);
	}

	/** Draw a frame; the next are taken to last as long as it took lately, but for one of seven. */
	async drawOne(here) {
		const { drawn, film: { rate, base } } = this;
		drawn.shown = here;
		this.tell("frame", here);
		if (!this.draw) return;
		drawn.since = performance.now();
		try {
			await this.draw(here);
		} catch (error) {
			console.error(error);
		}
		drawn.took = [...drawn.took, (performance.now() - drawn.since) / 1000].slice(-7);
		drawn.since = null;
		const took = drawn.took.slice().sort((a, b) => a - b);
		const usual = Math.round(took[Math.max(0, took.length - 2)] * rate);
		const before = this.draws.usual;
		if (drawn !== this.drawn || !this.context) return;
		this.draws.usual = usual;
		// Drawing that is done within a frame has no say.
		const slow = Math.max(usual, before) >= base.duration(0);
		if (this.playing && slow && Math.abs(usual - before) > rate / 100) {
			this.mixAnew(this.changeable());
		}
	}

	/** A picture that takes longer than they do otherwise keeps the film where it is. */
	watchDrawing() {
		const { drawn, film: { rate } } = this;
		if (drawn.since === null || !this.draws) return;
		const took = (performance.now() - drawn.since) / 1000;
		const usual = this.draws.usual / rate;
		if (took < Math.max(1.5 * usual, usual + 0.005)) return;
		const at = this.changeable();
		this.draws.lasts(at, at + BLOCK);
		this.mixAnew(at);
	}
}
