"""Loudness and peaks in words."""

from math import log10

from cicada.window.words.numbers import fixed


def lufs_text(value: float | None) -> str:
    """A loudness without its unit; a dash where there is none."""
    return "–" if value is None else fixed(value, 1).replace("-", "−")


def peak_text(peak: float) -> str:
    """A linear peak in dB of full scale; a dash for silence."""
    return "–" if peak <= 0 else f"{20 * log10(peak):+.1f}".replace("-", "−")


def sides_text(balance: float | None, correlation: float | None) -> str:
    """Balance and correlation of left and right."""
    if balance is None:
        return "silent"
    share = round(abs(balance) * 100)
    side = "in the middle" if share < 1 else f"{share} % {'right' if balance > 0 else 'left'}"
    if correlation is None:
        return side
    alike = f"{correlation:+.2f}".replace("-", "−")
    return f"{side}, alike {alike}"
