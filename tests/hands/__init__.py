"""Hands that do anything: the real window driven at random, and what must hold all the same.

``python -m tests.hands --steps 1000 --seed 1`` (``make hands``) does a thousand random things; a
step that breaks something is written out with the fewest steps found that lead there.
"""
