"""What is done again and again in a project of one's own."""

from cicada.core.editing import Cell


def names(window):
    return [sound.name for sound in window.document.project.sounds]


def sound(window, number=0):
    return window.document.project.sounds[number].id


def place(window, settled, *frames, layer="l1", number=0):
    for frame in frames:
        window.arranging.place(sound(window, number), Cell(layer, frame))
    settled(window)
