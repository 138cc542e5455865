"""How everything is drawn: colours, letters, and the shapes of what sounds. Knows no state."""
