"""Sounds made here: the plain ones and patterns, as they are set and written."""
