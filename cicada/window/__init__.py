"""All Qt. What Qt calls of the classes made below this line is guarded: see ``guard``."""

from cicada.window.state.guard import guard_new_classes

guard_new_classes()
