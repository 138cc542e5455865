"""The demo project, "Harbour light": its sounds, pictures and layout, all made here."""
