"""The window around all: menus, files, dialogs, and who tells whom."""
