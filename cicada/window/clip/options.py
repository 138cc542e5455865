"""What can be chosen on the clip card: the value, the words, and what they mean."""

PARTS = ("When", "Which part", "What ends it", "How loud")
# The part of the card that each control of the sentence is in.
PART_OF = {
    "frame": 0, "sync": 0, "loops": 0, "if_sounding": 0, "sound": 1, "ends": 2,
}  # fmt: skip
SYNC = [
    ("locked", "Locked", "Belongs to the picture: waits when it waits, ends with the span"),
    ("free", "Free", "Started by the picture, then runs on by its own clock"),
    ("hold", "Hold picture", "The picture stands still on this frame until the sound is over"),
]
IF_SOUNDING = [
    ("on_top", "On top", "Start anyway"),
    ("skip", "Leave out", "Do not start"),
    ("restart", "Start over", "End what sounds, and start"),
]
QUEUE = [("queue", "Wait until the layer is quiet", "Start when this layer's sounds are over")]
ENDS = [
    ("ring", "Rings out", "Plays all its loops, however long the span is"),
    ("span", "With its span", "Fades out when the picture leaves the span"),
]
TARGETS = [
    ("layer", "This layer", "Silence what this layer sounds"),
    ("sound", "One sound", "Silence one sound, wherever it is placed"),
    ("all", "Everything", "Silence everything"),
]


PAST_SCENE = [
    ("rings", "Rings past the scene", "What sounds at the scene's end goes on into the next"),
    ("stops", "Ends with it", "What sounds at the scene's end is cut there"),
]
BUSY = [
    ("sound", "This sound", "“It” is any sounding of the same sound, on any layer"),
    ("layer", "This layer", "“It” is anything that sounds on the layer"),
]
OFF = [("on", "On", "It takes part"), ("off", "Off", "As if it were not there")]
FADE_SHAPES = [
    ("linear", "Straight", "Even in level"),
    ("power", "Round", "Even in loudness"),
    ("smooth", "Smooth", "Slow at both ends"),
]
LINE_OVER = [
    ("run", "Whole clip", "The lines run once, over all its loops"),
    ("loop", "Each loop", "Every loop has the lines to itself"),
]
# What can be done while nothing is chosen: the row's name, and words, command and tip of each.
AT_THE_PLAYHEAD = (
    ("this frame", (
        ("Mark it", "mark", "Put a mark on the playhead's frame (M)"),
        ("Wait for a press", "press", "Let the picture wait there for a press (W)"),
    )),
    ("from here", (
        ("Play", "play", "Play from the playhead (Space)"),
        ("Tempo…", "tempo", "Say how fast beats go from here on (Shift+B)"),
    )),
    ("sounds", (
        ("Import sounds…", "import", "Put sound files on the shelf (Ctrl+I)"),
        ("Add a layer", "add_layer", "Add a layer at the bottom (Ctrl+L)"),
    )),
    ("picture", (
        ("Add to the picture…", "picture", "Images, a video or a drawing (Ctrl+P)"),
    )),
)  # fmt: skip
