"""Which part of a pool is drawn: the same draws for the same seed, whatever else is edited.

live.md, section L3.
"""

from collections.abc import Sequence
from fractions import Fraction
from hashlib import blake2b


def drawn_at(seed: int, pool: str, who: str, draw: int) -> Fraction:
    """Where, from 0 to 1, the draw number ``draw`` of ``who`` falls."""
    text = f"{seed}/{pool}/{who}/{draw}".encode("utf-8", "surrogatepass")
    return Fraction(int.from_bytes(blake2b(text, digest_size=8).digest(), "big"), 1 << 64)


def picked(weights: Sequence[Fraction], at: Fraction) -> int:
    """The first place whose running sum of weights, of all of them, is above ``at``."""
    wanted, running = at * sum(weights), Fraction(0)
    for place, weight in enumerate(weights):
        running += weight
        if running > wanted:
            return place
    return len(weights) - 1
