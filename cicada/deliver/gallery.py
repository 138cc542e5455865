"""The numbered images of a film, all of one size."""

from collections.abc import Iterator, Sequence
from io import BytesIO

import numpy as np

from cicada.deliver.bundle import Image
from cicada.deliver.shown import Pictures, Pixels, fitted

# Of lossy WebP, from 0 to 100.
QUALITY = 82


class Gallery:
    """Draws the pictures of a film, at most as high as the highest is itself.

    They have the shape of the first that can be drawn; what cannot be drawn is black.
    """

    def __init__(
        self, pictures: Pictures | None, images: Sequence[Image], wanted: int | None
    ) -> None:
        self._pictures, self._images = pictures, images
        first: dict[str, Image] = {}
        for image in images:
            first.setdefault(image.scene, image)
        heights = [] if pictures is None else [pictures.height(scene) or 0 for scene in first]
        own = max(heights, default=0)
        self.height = self.width = max(1, min(wanted or own, own))
        for image in first.values():
            drawn = self._draw(image)
            if drawn is not None:
                self.height, self.width = drawn.shape[:2]
                break

    def _draw(self, image: Image) -> Pixels | None:
        if self._pictures is None:
            return None
        return self._pictures.draw(image.scene, image.frame, self.height)

    def files(self, every: int = 1) -> Iterator[tuple[Image, bytes]]:
        """Each picture with the bytes of its WebP file, or one of ``every`` so many."""
        from PIL import Image as Pillow

        black = np.zeros((self.height, self.width, 4), np.uint8)
        for image in self._images[::every]:
            drawn = self._draw(image)
            pixels = black if drawn is None else fitted(drawn, self.height, self.width)
            file = BytesIO()
            Pillow.fromarray(pixels[:, :, 2::-1].copy()).save(file, "WEBP", quality=QUALITY)
            yield image, file.getvalue()
