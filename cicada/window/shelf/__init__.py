"""The shelf: the sounds of the project, their details, and how they come in."""
