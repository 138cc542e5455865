"""Cicada: place sounds against moving pictures, and hear and see exactly what will sound."""

__version__ = "0.1.0"
