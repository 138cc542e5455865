"""The clip card: what the chosen keyframe does, and every way to shape a clip."""
