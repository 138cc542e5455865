"""The doors to the disk: everything read from it, and written to it, goes through here."""
