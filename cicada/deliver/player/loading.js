// Fetching a film: its data, its sounds in the order they are needed, its pictures.

const SERVED = "A page opened from the disk may not read its sounds: it must be served, "
	+ "for instance by “cicada serve FOLDER”.";
// Pictures that are fetched ahead of the one that is shown.
const PICTURES_AHEAD = 24;

/** Fetches the sounds of a film; `begin` settles when the rest will be there in time. */
class Sounds {
	constructor(data, place) {
		this.data = data;
		this.place = place;
		this.decoder = new OfflineAudioContext(2, 1, data.film.rate);
		this.sounds = new Map();
		this.failed = [];
		this.ready = false;
	}

	async all() {
		const { sounds } = this.data;
		const begun = performance.now();
		let [count, bytes] = [0, 0];
		for (const sound of sounds) {
			let key = null;
			try {
				key = await this.one(sound);
			} catch (error) {
				this.failed.push(sound.file);
			}
			count += 1;
			bytes += sound.bytes;
			const speed = bytes / Math.max(1, performance.now() - begun) * 1000;
			this.ready = this.inTime(sounds.slice(count), speed);
			this.tell(count, key);
		}
		this.ready = true;
		this.tell(count);
	}

	tell(there, key = null) {
		const { ready, failed, data: { sounds } } = this;
		this.told({ there, of: sounds.length, ready, failed, key });
	}

	/** Whether sounds that are still to come are there when they are needed, at half that speed. */
	inTime(rest, speed) {
		let bytes = 0;
		return rest.every((sound) => {
			bytes += sound.bytes;
			return bytes / speed * 2 < sound.needed / this.data.film.rate;
		});
	}

	async one({ sound, first, last, speed, file, samples, gain }) {
		const answer = await fetch(new URL(file, this.place));
		if (!answer.ok) throw new Error(file);
		const buffer = await this.decoder.decodeAudioData(await answer.arrayBuffer());
		const channels = [];
		for (let i = 0; i < Math.min(2, buffer.numberOfChannels); i += 1) {
			const found = new Float32Array(samples);
			found.set(buffer.getChannelData(i).subarray(0, samples));
			channels.push(gain === 1 ? found : found.map((each) => each * gain));
		}
		const key = stretchKey(sound, first, last, speed);
		this.sounds.set(key, { channels });
		return key;
	}
}

/** The pictures of a film, drawn on a canvas. */
class Pictures {
	constructor(data, place, canvas) {
		Object.assign(this, { place, canvas, scenes: data.picture.scenes, images: new Map() });
		[canvas.width, canvas.height] = [data.picture.width, data.picture.height];
		this.context = canvas.getContext("2d");
		this.draw = (here) => this.show(here);
		const [scene] = Object.keys(this.scenes);
		if (scene) this.show({ scene, frame: this.scenes[scene][0][0] });
	}

	/** Which picture of its scene a frame has; -1: none. */
	number({ scene, frame }) {
		return placeAbove(this.scenes[scene] || [], frame, ([from]) => from) - 1;
	}

	image(file) {
		if (!this.images.has(file)) {
			const image = new Image();
			image.src = new URL(file, this.place);
			this.images.set(file, { image, drawable: image.decode() });
		}
		return this.images.get(file);
	}

	async show(here) {
		const number = this.number(here);
		if (number < 0) {
			this.context.clearRect(0, 0, this.canvas.width, this.canvas.height);
			return;
		}
		const files = this.scenes[here.scene].slice(number, number + PICTURES_AHEAD + 1)
			.map(([, file]) => file);
		for (const file of this.images.keys()) {
			if (this.images.size <= 4 * PICTURES_AHEAD) break;
			if (!files.includes(file)) this.images.delete(file);
		}
		for (const file of files) this.image(file).drawable.catch(() => {});
		const { image, drawable } = this.image(files[0]);
		await drawable;
		this.context.drawImage(image, 0, 0, this.canvas.width, this.canvas.height);
	}
}

/** Do what a page of an allowed origin asks for by postMessage. */
function listenTo(player, origins) {
	window.addEventListener("message", ({ origin, data }) => {
		if (!origins.includes(origin) || data === null || typeof data !== "object") return;
		if (data.cicada === "press") player.press();
		else if (data.cicada === "pause") player.pause();
		else if (data.cicada === "go on") player.goOn();
		else if (data.cicada === "act") player.act(data.pad);
		else if (data.cicada === "give") player.give(data.value, data.to, data.over);
		else if (data.cicada === "message" && Array.isArray(data.arguments || [])) {
			player.message(data.address, ...(data.arguments || []));
		}
	});
}

/**
 * Load a film. `canvas` is drawn on, if the film has pictures; `draw({scene, frame})` is called
 * instead where it is given. `origins` are those whose messages are heard, "self" for the page's
 * own. `told` hears how far the sounds are. Resolves when it can begin.
 */
async function load(where = "film.json", options = {}) {
	const { canvas = null, draw = null, origins = ["self"], told = () => {} } = options;
	if (location.protocol === "file:") throw new Error(SERVED);
	const place = new URL(where, location.href);
	const answer = await fetch(place);
	if (!answer.ok) throw new Error("There is no film at " + place.pathname + ".");
	const data = await answer.json();
	if (data.format !== "cicada-bundle" || data.version !== 1) {
		throw new Error(place.pathname + " is no film that this player knows.");
	}
	const own = canvas && data.picture ? new Pictures(data, place, canvas).draw : null;
	const sounds = new Sounds(data, place);
	const player = new Player(data, sounds.sounds, { draw: draw || own });
	listenTo(player, origins.map((origin) => origin === "self" ? location.origin : origin));
	await new Promise((begin) => {
		sounds.told = (state) => {
			told(state);
			player.arrived(state.key);
			if (state.ready) begin();
		};
		player.loaded = sounds.all();
	});
	return player;
}

return { load, Player, Film, Walk, State, LiveRun, Mixer, stretchKey };
