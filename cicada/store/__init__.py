"""The project on disk: its file, and the folder of sounds beside it."""
