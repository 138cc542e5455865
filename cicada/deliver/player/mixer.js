// The mixer: a plan and its sounds to samples, any block of the run at a time.

/** What a file of sound is known by: its sound, the stretch of it, and its speed. */
function stretchKey(sound, first, last, speed) {
	return [sound, first, last, speed].join("|");
}

/** Left and right gain of a pan position. */
function panGains(position) {
	const angle = (clamped(position, -1, 1) + 1) * Math.PI / 4;
	return [Math.min(1, Math.SQRT2 * Math.cos(angle)), Math.min(1, Math.SQRT2 * Math.sin(angle))];
}

function fadeGain(shape, x) {
	const part = clamped(x, 0, 1);
	if (shape === "power") return Math.sin(part * Math.PI / 2);
	return shape === "smooth" ? smoothstep(part) : part;
}

/** A voice ready to be mixed: its gain at any sample of its run. */
class Tone {
	constructor(voice, film, layer, motion, line, parts) {
		const { clip, timing } = voice;
		Object.assign(this, { voice, timing, line, parts, rate: film.rate, ramp: motion.ramp });
		this.shape = clip.fade_shape;
		this.level = clip.level * layer.level * film.level;
		this.pan = clip.pan + layer.pan;
		this.sides = panGains(this.pan);
		this.levelCurve = new Curve(clip.level_line);
		this.panCurve = new Curve(clip.pan_line, 0);
		this.lined = this.levelCurve.drawn || this.panCurve.drawn;
		this.perLoop = this.lined && clip.line_over === "loop";
		this.fadeIn = film.samples(clip.fade_in);
		this.fadeOut = voice.fadeLength === null ? 0 : film.samples(clip.fade_out);
		this.edges = voice.pieces.map((piece) => this.edgesOf(piece));
	}

	/** How long the ramps at a piece's edges are, 0 where the edge is the clip's own. */
	edgesOf([start, end, clipStart]) {
		const { voice } = this;
		const ramp = Math.min(this.ramp, Math.floor((end - start) / 2));
		const clipEnd = clipStart + end - start;
		const ownEnd = clipEnd === voice.total || (this.fadeOut && clipEnd === voice.fadeLength)
			|| voice.fades.some(([from, to]) => to === end && from < to);
		return [clipStart ? ramp : 0, ownEnd ? 0 : ramp];
	}

	/** Level, fades, ramps and what it follows, without its own lines and pan. */
	gains(low, high, number) {
		const { voice, timing, fadeIn, fadeOut } = this;
		const [start, end, clipStart] = voice.pieces[number];
		const gains = new Float64Array(high - low).fill(this.level);
		const zero = start - clipStart;
		const shape = (from, to, gain) => {
			const last = Math.min(high, to);
			for (let moment = Math.max(low, from); moment < last; moment += 1) {
				gains[moment - low] *= gain(moment);
			}
		};
		if (fadeIn) {
			const begins = zero + timing.delay;
			shape(low, begins + fadeIn, (moment) => fadeGain(this.shape, (moment - begins) / fadeIn));
		}
		if (fadeOut) {
			const over = zero + voice.fadeLength;
			shape(over - fadeOut, high, (moment) => fadeGain(this.shape, (over - moment) / fadeOut));
		}
		for (const [from, to] of voice.fades) {
			shape(from, high, (moment) => clamped((to - moment) / (to - from), 0, 1));
		}
		if (voice.rise) {
			const [from, to] = voice.rise;
			shape(low, to, (moment) => clamped((moment - from) / (to - from), 0, 1));
		}
		const [into, outOf] = this.edges[number];
		shape(start, start + into, (moment) => (moment - start + 1) / (into + 1));
		shape(end - outOf, end, (moment) => (end - moment) / (outOf + 1));
		if (this.line) {
			const line = this.line.gains(low, high);
			for (let i = 0; i < gains.length; i += 1) gains[i] *= line[i];
		}
		return gains;
	}

	/** Level line and sides at samples counted from the line's beginning, as two lists. */
	lineGains(first, count) {
		const seconds = (i) => (first + i) / this.rate;
		const read = (curve) => {
			const found = Float64Array.from({ length: count }, (_, i) => curve.at(seconds(i)));
			for (const [place, height] of curve.jumps) {
				if (place > 0) spread(found, seconds, place, height, this.ramp / this.rate);
			}
			return found;
		};
		const left = read(this.levelCurve);
		const right = left.slice();
		const pans = this.panCurve.drawn ? read(this.panCurve) : null;
		for (let i = 0; i < count; i += 1) {
			const sides = pans ? panGains(pans[i] + this.pan) : this.sides;
			left[i] *= sides[0];
			right[i] *= sides[1];
		}
		return [left, right];
	}

	/** The loops that may sound within clip times. */
	loops(low, high) {
		const { loops, delay, offset, loop, step } = this.timing;
		if (loops === 1) return [0, 0];
		const begins = delay - offset;
		const first = Math.max(0, Math.floor((low - begins - loop) / step) + 1);
		const last = Math.floor((high - 1 - begins) / step);
		return [first, loops ? Math.min(last, loops - 1) : last];
	}

	/** Add run samples from `start` on to both sides of a block. */
	addTo(sides, start, end, sounds, missing) {
		this.voice.pieces.forEach(([from, to], number) => {
			const [low, high] = [Math.max(start, from), Math.min(end, to)];
			if (low < high) this.addPiece(sides, start, low, high, number, sounds, missing);
		});
	}

	addPiece(sides, origin, low, high, number, sounds, missing) {
		const { timing, voice } = this;
		const [start, , clipStart] = voice.pieces[number];
		const zero = start - clipStart;
		const begins = zero + timing.delay;
		const gains = this.gains(low, high, number);
		const whole = this.lined && !this.perLoop ? this.lineGains(low - begins, high - low) : null;
		const [first, last] = this.loops(low - zero, high - zero);
		for (const { sound, follows } of this.parts) {
			const key = stretchKey(sound, timing.first, timing.last, voice.clip.speed);
			const found = sounds.get(key);
			if (!found) {
				missing.add(key);
				continue;
			}
			const followed = follows.map((gain) => gain.gains(low, high));
			for (let loop = first; loop <= last; loop += 1) {
				const at = begins - timing.offset + loop * timing.step;
				const [a, b] = [Math.max(low, at, begins), Math.min(high, at + timing.loop)];
				if (a >= b) continue;
				const own = this.perLoop ? this.lineGains(a - at, b - a) : null;
				for (let side = 0; side < 2; side += 1) {
					const samples = found.channels[Math.min(side, found.channels.length - 1)];
					const out = sides[side];
					const pan = this.sides[side];
					for (let moment = a; moment < b && moment - at < samples.length; moment += 1) {
						const i = moment - low;
						let gain = gains[i];
						if (own) gain *= own[side][moment - a];
						else gain *= whole ? whole[side][i] : pan;
						for (const each of followed) gain *= each[i];
						out[moment - origin] += samples[moment - at] * gain;
					}
				}
			}
		}
	}
}

/** Mixes one plan of a film. */
class Mixer {
	/** `sounds` are `{channels}` by `stretchKey`, at the film's rate; `missing` takes in keys. */
	constructor(plan, film, sounds, missing = new Set()) {
		Object.assign(this, { plan, film, sounds, missing });
		this.motion = new Motion(plan, film.base);
		const layers = film.scenes.flatMap((scene) => scene.layers);
		this.layers = new Map([...layers, ...film.pads].map((layer) => [layer.id, layer]));
		this.blends = new Map(film.blends.map((blend) => [blend.id, blend]));
		const masters = film.scenes.map((scene) => [scene.id, scene.master]);
		this.master = new SceneLines(this.motion, masters, 1);
		this.tracks = new Map();
		this.followed = new Map();
		this.tones = new Map();
		this.voices = plan.voices.filter((voice) => !this.layers.get(voice.layer).mute);
		this.ends = this.voices.map(({ pieces }) => pieces[pieces.length - 1][1]);
	}

	follow(name, value, gain) {
		if (!this.followed.has(name)) {
			if (!this.tracks.has(value)) {
				this.tracks.set(value, new ValueTrack(this.motion, this.film, value));
			}
			const { ramp } = this.motion;
			this.followed.set(name, new FollowedGain(this.tracks.get(value), gain(), ramp));
		}
		return this.followed.get(name);
	}

	tone(voice) {
		if (this.tones.has(voice)) return this.tones.get(voice);
		const layer = this.layers.get(voice.layer);
		const common = [];
		if (layer.follows) {
			const { value, points } = layer.follows;
			common.push(this.follow("layer " + layer.id, value, () => {
				const curve = new Curve(points);
				return (number) => curve.at(number);
			}));
		}
		const plays = voice.picked || voice.sound;
		const blend = this.blends.get(plays);
		const parts = blend
			? blend.parts.map((part, number) => {
				const gain = this.follow(number + " of " + plays, blend.value,
					() => blendGain(blend, number));
				return { sound: part.sound, follows: [...common, gain] };
			})
			: [{ sound: plays, follows: common }];
		const line = layer.line && layer.line.length
			? new PictureLine(this.motion, layer.line, voice.visit) : null;
		const tone = new Tone(voice, this.film, layer, this.motion, line, parts);
		this.tones.set(voice, tone);
		return tone;
	}

	/** Left and right of `count` run samples from `start` on. */
	mix(start, count) {
		const end = start + count;
		const sums = [new Float64Array(count), new Float64Array(count)];
		for (let i = 0; i < this.voices.length && this.voices[i].pieces[0][0] < end; i += 1) {
			if (this.ends[i] > start) {
				this.tone(this.voices[i]).addTo(sums, start, end, this.sounds, this.missing);
			}
		}
		if (this.master.drawn) {
			const jumps = this.master.jumps.map(([at, before, after]) => [at, after - before]);
			const gains = this.master.values(start, end);
			spreadAll(gains, start, jumps, this.motion.ramp);
			for (const side of sums) side.forEach((sum, i) => { side[i] = sum * gains[i]; });
		}
		return sums.map((side) => Float32Array.from(side));
	}
}
