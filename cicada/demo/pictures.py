"""The demo's pictures, painted with arithmetic: a lighthouse, its beam, a buoy, rain, a moth."""

from collections.abc import Callable
from math import pi, sin
from pathlib import Path

import numpy as np
from numpy.typing import NDArray

from cicada.demo.storm import FLASHES, LENGTH
from cicada.media.pictures import write_picture

WIDTH, HEIGHT = 480, 270
LAMP = (112.0, 72.0)
HORIZON = 165

Pixels = NDArray[np.float32]
Colour = tuple[float, float, float]
WARM = np.array([255, 238, 175], np.float32)


class Canvas:
    """What all frames of a scene share: the sky, the sea, the tower."""

    def __init__(self, sky: tuple[Colour, Colour], sea: tuple[Colour, Colour], seed: int) -> None:
        self.y, self.x = np.mgrid[0:HEIGHT, 0:WIDTH].astype(np.float32)
        self.ground = np.empty((HEIGHT, WIDTH, 3), np.float32)
        down = (self.y / HORIZON)[..., None]
        over = ((self.y - HORIZON) / (HEIGHT - HORIZON))[..., None]
        self.ground[:] = np.where(
            self.y[..., None] < HORIZON,
            np.array(sky[0]) * (1 - down) + np.array(sky[1]) * down,
            np.array(sea[0]) * (1 - over) + np.array(sea[1]) * over,
        )
        self.angle = np.arctan2(self.y - LAMP[1], self.x - LAMP[0])
        self.distance = np.hypot(self.x - LAMP[0], self.y - LAMP[1])
        self.falloff = np.exp(-self.distance / 420)
        self.halo = np.exp(-((self.distance / 26) ** 2))
        self.random = np.random.default_rng(seed)
        self.drops = self.random.uniform(0, 1, (120, 3))
        self._built()

    def tower(self, picture: Pixels, lamp: float) -> None:
        """The lighthouse, its lamp as bright as ``lamp``."""
        here = picture[self._near]
        for where, colour in self._tower:
            here[where] = colour
        glow = np.array([255, 232, 150]) * lamp + np.array([96, 92, 84]) * (1 - lamp)
        here[self._lantern] = glow

    def _built(self) -> None:
        """Where the parts of the tower stand, found once."""
        self._near = (slice(40, 252), slice(44, 182))
        y, off = self.y[self._near], self.x[self._near] - LAMP[0]
        wide = np.abs(off)
        wall = np.nonzero((wide < 13 + (y - 85) * 0.062) & (y > 85) & (y < 232))
        light = np.clip(1.05 - (off + 13) / 60, 0.55, 1)[..., None]
        rock = np.nonzero((y > 226 + 10 * (wide / 62) ** 2) & (y < 250) & (wide < 62))
        roof = np.nonzero((wide < (y - 45) * 0.85) & (y > 46) & (y <= 62))
        self._tower = (
            (wall, (np.array([232, 223, 198]) * light)[wall]),
            (rock, np.array([52, 56, 58])),
            (roof, np.array([126, 52, 42])),
        )
        self._lantern = np.nonzero((wide < 9) & (y > 62) & (y < 85))

    def beam(self, picture: Pixels, toward: float, width: float, strength: float) -> None:
        """Light from the lamp toward an angle, both in radians."""
        off = np.abs(self.angle - np.float32(toward))
        cone = np.clip(1 - off / np.float32(width), 0, 1)
        light = cone * np.sqrt(cone) * self.falloff + self.halo
        light *= np.float32(0.8 * strength)
        # What is too faint to change a pixel is most of the picture.
        lit = np.nonzero(light > 0.001)
        picture[lit] += (WARM - picture[lit]) * np.minimum(light[lit], 0.8)[:, None]

    def buoy(self, picture: Pixels, frame: int) -> None:
        """The buoy, rocking."""
        lean = 0.22 * sin(2 * pi * frame / 40)
        middle = 368 + 3 * sin(2 * pi * frame / 40 + 1)
        foot = 192 + 2.5 * sin(2 * pi * frame / 34)
        near = (slice(130, 210), slice(310, 430))
        here = picture[near]
        up = foot - self.y[near]
        x = self.x[near] - middle - up * lean
        here[(np.abs(x) < 17 - up * 0.45) & (up > 0) & (up < 34)] = (164, 66, 46)
        here[(np.abs(x) < 2.2) & (up >= 34) & (up < 46)] = (60, 52, 48)
        here[(x / 26) ** 2 + (up / 5) ** 2 < 1] = (34, 36, 40)

    def rain(self, picture: Pixels, frame: int, amount: float) -> None:
        """Streaks of rain."""
        column, start, speed = self.drops[: int(len(self.drops) * amount)].T
        top = ((start * HEIGHT + frame * (14 + 8 * speed)) % (HEIGHT + 12)).astype(int) - 12
        left = (column * WIDTH + frame * 1.2).astype(int) % WIDTH
        step = np.arange(9)[:, None]
        rows, spots = top + step, left - step // 3
        inside = (rows >= 0) & (rows < HEIGHT) & (spots >= 0)
        wet = rows[inside], spots[inside]
        picture[wet] += (150 - picture[wet]) * np.float32(0.35)

    def shimmer(self, picture: Pixels, frame: int, strength: float) -> None:
        """Moving glints on the sea."""
        below = slice(HORIZON, HEIGHT)
        wave = np.sin(self.x[below] * 0.11 + self.y[below] * 0.9 + frame * 0.21)
        wave *= np.sin(self.x[below] * 0.043 - frame * 0.13 + self.y[below] * 0.31)
        picture[below] += (np.clip(wave - 0.45, 0, 1) * strength)[..., None]

    def lightning(self, picture: Pixels, seed: int, strength: float) -> None:
        """A bolt from the clouds to the sea, the same for one seed, and the sky lit by it."""
        drawn = np.random.default_rng(seed)
        picture[:HORIZON] += (np.array([190, 196, 230]) - picture[:HORIZON]) * 0.5 * strength
        column = drawn.uniform(230, 420)
        for row in range(HORIZON):
            column += drawn.uniform(-4, 4)
            left = int(np.clip(column, 1, WIDTH - 3))
            picture[row, left : left + 2] += (250 - picture[row, left : left + 2]) * strength

    def moth(self, picture: Pixels, frame: int) -> None:
        """The moth, circling the lamp."""
        turn = frame * 0.29
        x, y = LAMP[0] + 24 * np.cos(turn), LAMP[1] - 2 + 11 * np.sin(1.7 * turn)
        spread = 2.2 + 1.4 * abs(sin(frame * 1.9))
        near = (slice(40, 110), slice(70, 160))
        wings = ((self.x[near] - x) / spread) ** 2 + ((self.y[near] - y) / 1.6) ** 2 < 1
        picture[near][wings] = (246, 238, 220)


def _dusk(canvas: Canvas, frame: int) -> Pixels:
    picture = canvas.ground.copy()
    canvas.shimmer(picture, frame, 30)
    canvas.buoy(picture, frame)
    canvas.tower(picture, min(1.0, max(0.0, (frame - 30) / 12)))
    if frame > 30:
        canvas.beam(picture, 0.25, 0.06, min(1.0, (frame - 30) / 24) * 0.6)
    return picture


def _night(canvas: Canvas, frame: int) -> Pixels:
    picture = canvas.ground.copy()
    canvas.shimmer(picture, frame, 14)
    canvas.buoy(picture, frame)
    toward = -0.55 + 1.05 * ((frame % 68) / 68)
    canvas.beam(picture, toward, 0.17, 0.95)
    canvas.tower(picture, 1.0)
    canvas.rain(picture, frame, max(0.0, min(1.0, 1 - abs(frame - 60) / 70)))
    if 15 < frame < 215:
        canvas.moth(picture, frame)
    return picture


def _dawn(canvas: Canvas, frame: int) -> Pixels:
    picture = canvas.ground.copy()
    canvas.shimmer(picture, frame, 36)
    canvas.buoy(picture, frame)
    canvas.tower(picture, max(0.0, 1 - frame / 30))
    return picture


def _storm(canvas: Canvas, frame: int) -> Pixels:
    picture = canvas.ground.copy()
    canvas.shimmer(picture, frame * 2, 22)
    canvas.buoy(picture, frame * 2)
    canvas.beam(picture, -0.55 + 1.05 * ((frame % 68) / 68), 0.15, 0.7)
    canvas.tower(picture, 1.0)
    canvas.rain(picture, frame * 2, 1.0)
    since = [frame - flash for flash in FLASHES if 0 <= frame - flash < 6]
    if since:
        canvas.lightning(picture, frame - since[0], 1 - since[0] / 6)
    return picture


Painter = Callable[[Canvas, int], Pixels]
SCENES: tuple[tuple[str, int, Painter, tuple[Colour, Colour], tuple[Colour, Colour]], ...] = (
    ("dusk", 60, _dusk, ((44, 56, 92), (214, 142, 104)), ((96, 84, 98), (34, 40, 62))),
    ("night", 240, _night, ((22, 30, 52), (66, 78, 100)), ((24, 36, 54), (12, 19, 31))),
    ("dawn", 60, _dawn, ((112, 142, 176), (242, 200, 158)), ((150, 150, 156), (64, 84, 104))),
    ("storm", LENGTH, _storm, ((14, 18, 30), (46, 54, 66)), ((30, 40, 50), (10, 15, 22))),
)


def make_pictures(folder: Path) -> list[Path]:
    """Paint every frame of the demo's scenes; the scenes' folders."""
    folders = []
    for seed, (name, length, paint, sky, sea) in enumerate(SCENES):
        place = folder / name
        place.mkdir(parents=True, exist_ok=True)
        canvas = Canvas(sky, sea, seed)
        for frame in range(length):
            pixels = np.clip(paint(canvas, frame), 0, 255).astype(np.uint8)
            write_picture(pixels, place / f"{name}_{frame + 1:04}.jpg", quality=88)
        folders.append(place)
    return folders


# Letters of the title as strokes in a box 4 wide and 6 high, so that no font is needed.
STROKES = {
    "A": "M0 6L2 0L4 6M.7 4H3.3",
    "B": "M0 3H2.6Q3.6 3 3.6 1.5T2.6 0H0V6H3Q4 6 4 4.5T3 3",
    "G": "M4 1Q3.5 0 2 0Q0 0 0 3T2 6Q4 6 4 3.4H2.4",
    "H": "M0 0V6M4 0V6M0 3H4",
    "I": "M2 0V6",
    "L": "M0 0V6H3.6",
    "O": "M2 0Q4 0 4 3T2 6 0 3 2 0Z",
    "R": "M0 6V0H2.8Q4 0 4 1.6T2.8 3.2H0M2 3.2L4 6",
    "T": "M0 0H4M2 0V6",
    "U": "M0 0V4Q0 6 2 6T4 4V0",
}


def make_title(path: Path) -> Path:
    """Draw the demo's title as SVG; ``path`` again."""
    words = "HARBOUR LIGHT"
    letters = "".join(
        f'<path transform="translate({7 * number} 0)" d="{STROKES[letter]}"/>'
        for number, letter in enumerate(words)
        if letter != " "
    )
    path.write_text(
        f'<svg xmlns="http://www.w3.org/2000/svg" viewBox="-1 -1 {7 * len(words) - 1} 8">'
        f'<g fill="none" stroke="#f7e3b4" stroke-width=".55" stroke-linecap="round">{letters}</g>'
        "</svg>\n",
        "utf-8",
    )
    return path
