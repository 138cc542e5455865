"""What is done again and again on the sheet."""


def names(window):
    return [layer.name for layer in window.session.scene.layers]
