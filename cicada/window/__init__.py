"""All that has to do with Qt."""
