"""The sheet: its canvas, the hands on it, and the commands on what stands there."""
