"""What worker processes do for the window. No Qt here, and nothing shared but files."""
