"""Sound files of every kind, made for a test."""

import av
import numpy as np
import soundfile


def ring(rate=48000, seconds=0.5, hertz=440.0, seed=0):
    """A tone with a little noise in it, so that no two seeds are alike."""
    time = np.arange(int(rate * seconds)) / rate
    noise = 0.02 * np.random.default_rng(seed).standard_normal(len(time))
    return (0.5 * np.sin(2 * np.pi * hertz * time) + noise).astype(np.float32)


def write_sound(path, samples=None, rate=48000, subtype="PCM_16"):
    """A file that soundfile writes; the suffix names the kind."""
    container = "OGG" if path.suffix == ".opus" else None
    kind = {".opus": "OPUS", ".ogg": "VORBIS", ".mp3": "MPEG_LAYER_III"}.get(path.suffix, subtype)
    samples = ring(rate) if samples is None else samples
    soundfile.write(path, samples, rate, subtype=kind, format=container)
    return path


def write_container(path, samples, rate=48000, *, codec="aac", picture=False):
    """A file with one coded sound track and, if wanted, a second of picture."""
    stereo = np.stack((samples, samples)).astype(np.float32)
    with av.open(str(path), "w") as file:
        track = file.add_stream(codec, rate=rate)
        track.layout = "stereo"
        if picture:
            add_picture(file)
        size = track.codec_context.frame_size or 1024
        for start in range(0, stereo.shape[1], size):
            block = np.ascontiguousarray(stereo[:, start : start + size])
            frame = av.AudioFrame.from_ndarray(block, format="fltp", layout="stereo")
            frame.sample_rate, frame.pts = rate, start
            file.mux(track.encode(frame))
        file.mux(track.encode())
    return path


def write_silent_film(path):
    """A file with pictures and no sound track."""
    with av.open(str(path), "w") as file:
        add_picture(file)
    return path


def add_picture(file):
    track = file.add_stream("mpeg4", rate=24)
    track.width = track.height = 64
    track.pix_fmt = "yuv420p"
    for _ in range(24):
        frame = av.VideoFrame.from_ndarray(np.zeros((64, 64, 3), np.uint8), format="rgb24")
        file.mux(track.encode(frame))
    file.mux(track.encode())
