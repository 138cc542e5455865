// A film made ready for planning: its keyframes with their spans and lengths, by frame.

/** A clip on a layer or in a pad that has something to play; times are samples. */
class PlacedClip {
	constructor(fields) {
		Object.assign(this, fields);
	}

	changed(fields) {
		return new PlacedClip({ ...this, ...fields });
	}
}

/** A hush keyframe, or what a pad hushes. */
class PlacedHush {
	constructor(row, anchor, target, sound, fade) {
		Object.assign(this, { row, anchor, target, sound, fade });
	}

	hits(placed) {
		if (this.target === "layer") return placed.row === this.row;
		if (this.target === "all") return true;
		return this.sound === placed.clip.sound || this.sound === placed.picked;
	}
}

/** The number of a layer, by its scene's; pads come after the last scene. */
function rowOf(scene, layer) {
	return scene * 2 ** 26 + layer;
}

/** A film as it is delivered, ready to be planned and mixed. */
class Film {
	constructor(data) {
		Object.assign(this, data.film);
		this.run = data.run;
		this.base = new Timebase(this.fps, this.rate);
		this.poolsById = new Map(this.pools.map((pool) => [pool.id, pool]));
		this.valuesById = new Map(this.values.map((value) => [value.id, value]));
		this.timings = new Map();
		for (const { layer, frame, fire, timings } of data.placed) {
			this.timings.set(layer + "/" + frame + "/" + (fire ?? ""), timings);
		}
		this.tables = this.scenes.map((scene, index) => this.table(scene, index));
		this.padsReady = this.pads.map((pad, number) => this.pad(pad, number)).filter((pad) => pad);
	}

	samples(text) {
		return toSamples(text, this.rate);
	}

	/** Everything a scene does, by frame. */
	table(scene, index) {
		const work = new Map();
		const at = (frame) => {
			if (!work.has(frame)) work.set(frame, { left: [], hushes: [], clips: [] });
			return work.get(frame);
		};
		const leftAtEnd = [];
		scene.layers.forEach((layer, number) => {
			const row = rowOf(index, number);
			const live = layer.off ? [] : layer.keyframes
				.filter((keyframe) => !keyframe.off && keyframe.frame < scene.length)
				.sort((a, b) => a.frame - b.frame);
			live.forEach((keyframe, position) => {
				const following = live[position + 1];
				const anchor = { scene: scene.id, layer: layer.id, frame: keyframe.frame };
				if (keyframe.kind === "hush") {
					at(keyframe.frame).hushes.push(this.hush(row, anchor, keyframe));
				} else if (keyframe.kind === "clip") {
					const timings = this.timings.get(layer.id + "/" + keyframe.frame + "/");
					const placed = this.clip(row, anchor, keyframe, timings, following, scene.length);
					if (!placed) return;
					at(keyframe.frame).clips.push(placed);
					if (keyframe.sync === "locked" || keyframe.ends === "span") {
						if (following) at(following.frame).left.push(placed);
						else leftAtEnd.push(placed);
					}
				}
			});
		});
		const presses = new Map();
		for (const point of scene.press_points) {
			if (point.frame < scene.length) presses.set(point.frame, point);
		}
		const cut = scene.layers.map((layer, number) => layer.past_scene ? -1 : rowOf(index, number));
		const pads = this.pads.map((pad, i) => pad.past_scene ? -1 : rowOf(this.scenes.length, i));
		const cutRows = [...cut, ...pads].filter((row) => row >= 0);
		return { scene, index, work, presses, leftAtEnd, cutRows };
	}

	hush(row, anchor, hush) {
		return new PlacedHush(row, anchor, hush.target, hush.sound, this.samples(hush.fade));
	}

	/** A clip made ready; null if it has nothing to play. */
	clip(row, anchor, clip, timings, following, length) {
		const pool = this.poolsById.get(clip.sound);
		const timing = timings[clip.sound] || null;
		if (!pool && timing.total === 0) return null;
		const placed = new PlacedClip({
			row, anchor, clip, timing,
			total: timing && timing.total,
			fadeLength: timing && timing.total,
			spanEnd: following ? following.frame : length,
			hushedAtEnd: false,
			gap: this.samples(clip.gap),
			release: this.samples(clip.release || "0"),
			handOver: this.samples(clip.hand_over),
			fire: null, picked: null, choices: [],
		});
		if (!pool) return clip.sync === "locked" ? this.ended(placed, following) : placed;
		placed.choices = pool.parts.map((part) => {
			const own = timings[part.sound];
			let drawn = null;
			if (own.total !== 0) {
				drawn = placed.changed({
					picked: part.sound, timing: own, total: own.total, fadeLength: own.total, choices: [],
				});
				if (clip.sync === "locked") drawn = this.ended(drawn, following);
			}
			const range = part.value === null ? null : this.range(part.value, part.while);
			return { placed: drawn, weight: Ratio.text(part.weight), value: part.value, range };
		});
		return placed;
	}

	/** How a locked clip's span ends, and what its fade-out counts back from. */
	ended(placed, following) {
		const { base } = this;
		if (following && following.kind === "hush") {
			placed.hushedAtEnd = this.hush(placed.row, placed.anchor, following).hits(placed);
		}
		if (!placed.hushedAtEnd) {
			const span = base.start(placed.spanEnd) - base.start(placed.clip.frame);
			placed.fadeLength = placed.total === null ? span : Math.min(placed.total, span);
		}
		return placed;
	}

	range(value, bounds) {
		return new ExactRange(bounds, this.valuesById.get(value).to);
	}

	/** A pad made ready; null if it is off. */
	pad(pad, number) {
		if (pad.off) return null;
		const row = rowOf(this.scenes.length, number);
		const nowhere = { scene: "", layer: "", frame: 0 };
		const deeds = [];
		pad.does.forEach((deed, place) => {
			if (deed.do === "fire") {
				const clip = { ...deed, sync: "free", ends: "ring", release: "0", frame: 0 };
				const timings = this.timings.get(pad.id + "/0/" + place);
				const placed = this.clip(row, nowhere, clip, timings, null, 0);
				if (!placed) return;
				placed.fire = place;
				for (const choice of placed.choices) if (choice.placed) choice.placed.fire = place;
				deeds.push({ do: "fire", placed });
			} else if (deed.do === "hush") {
				const target = deed.target === "pad" ? "layer" : deed.target;
				const fade = this.samples(deed.fade);
				deeds.push({ do: "hush", hush: new PlacedHush(row, nowhere, target, deed.sound, fade) });
			} else if (deed.do === "glide") {
				deeds.push({ ...deed, over: this.samples(deed.over) });
			} else {
				deeds.push(deed);
			}
		});
		const watch = pad.watch
			? { value: pad.watch.value, range: this.range(pad.watch.value, pad.watch.enters) } : null;
		return { pad, row, deeds, watch };
	}
}
