"""What other programs may ask of the window: Open Sound Control, and the desktop's media keys."""
