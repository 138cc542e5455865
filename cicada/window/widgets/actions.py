"""An entry of a menu."""

from collections.abc import Callable

Action = tuple[str, str, str, Callable[[], object]]
"""Its name among the commands, its words, its keys (empty: none), and what it does."""
