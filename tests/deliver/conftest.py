"""The browser is there for every test of what is delivered."""

from tests.deliver.browser import browser

__all__ = ["browser"]
