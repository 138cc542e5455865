"""A real window for these tests."""

from tests.real_window import *  # noqa: F403 - what fixtures there are, is said there
