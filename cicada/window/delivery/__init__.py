"""Delivering: recipes, what they come to, and what became of them."""
