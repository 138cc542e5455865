"""What is done again and again in a project of one's own."""

from cicada.core.editing import Cell
from cicada.core.placed import span_ends


def names(window):
    return [sound.name for sound in window.document.project.sounds]


def sound(window, number=0):
    return window.document.project.sounds[number].id


def place(window, settled, *frames, layer="l1", number=0):
    for frame in frames:
        window.arranging.place(sound(window, number), Cell(layer, frame))
    settled(window)


def type_loops(window, settled, qtbot, text):
    """Choose a clip on frame 20 and type into the card's field of its loops; that field."""
    window.activateWindow()
    place(window, settled, 20)
    window.session.choose(Cell("l1", 20))
    field = window.card.clip.loops
    field.setFocus()
    field.selectAll()
    qtbot.keyClicks(field, text)
    return field


def span_end(window, layer, frame):
    scene = window.session.scene
    return span_ends(scene, scene.layer(layer))[frame]
