"""Sound that comes out: outputs, the player, and the process it runs in."""
