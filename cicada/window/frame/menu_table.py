"""Everything in the menus: names, keys and what they do. No key is used twice.

The table is one long function, for it reads like what it is.
"""

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QMenu

from cicada.window.frame.frame_rate_dialog import FrameRateDialog
from cicada.window.frame.help_dialogs import KeysDialog, ShapesDialog
from cicada.window.frame.history import HistoryList
from cicada.window.frame.menus import Inner, Menu
from cicada.window.frame.parts import Parts
from cicada.window.widgets.dialogs import show_beside

# Lists, tabs and fields have these keys for themselves.
OF_THE_SHEET = frozenset({
    "next", "back", "next_ten", "back_ten", "first", "last", "up", "down", "clear",
    "cut", "copy_keyframes", "duplicate", "choose_all", "choose_same", "nudge_on", "nudge_back",
    "nudge_on_ten", "nudge_back_ten", "nudge_up", "nudge_down", "insert", "insert_ten",
    "remove_frame", "remove_ten", "layer_up", "layer_down",
})  # fmt: skip
# What the menus on the picture and on the scenes' tabs offer.
ON_PICTURE = (
    "picture", "numbered", "parts", "picture_sound", "look_again", "picture_over_sheet",
    "picture_window", "picture_full",
)  # fmt: skip
ON_TAB = (
    "rename_scene", "add_scene", "duplicate_scene", "scene_on", "scene_up", "scene_length",
    "remove_scene",
)  # fmt: skip


def table(parts: Parts) -> list[Menu]:
    """The menus, in the order of the bar."""
    files, back, sheet = parts.files, parts.going_back, parts.sheet
    clip, playing, pictures = parts.on_clip, parts.on_playing, parts.on_picture
    lower = parts.lower_half
    return [
        Menu("&Project", [
            ("new", "New…", "Ctrl+N", files.new),
            ("open", "Open…", "Ctrl+O", files.open),
            Inner("Recent", files.fill_recent),
            ("demo", "Open the demo", "Ctrl+Shift+D", files.open_demo),
            None,
            ("save", "Save", "Ctrl+S", files.save),
            ("save_as", "Save under another name…", "Ctrl+Shift+S", files.save_as),
            ("copy", "Save a copy…", "Ctrl+Alt+S", files.save_copy),
            ("versions", "Earlier versions…", "Ctrl+Alt+O", back.show_versions),
            ("unfinished", "Unfinished work…", "Ctrl+Alt+U", back.show_unfinished),
            ("leftovers", "What unsaved projects left…", "Ctrl+Alt+L", back.show_leftovers),
            None,
            ("settings", "Settings…", "Ctrl+,", files.settings),
            ("frame_rate", "Frame rate…", "Ctrl+Alt+F", lambda: ask_frame_rate(parts)),
            ("mixdown", "Mixdown…", "Ctrl+M", parts.delivering.mixdown),
            ("deliver", "Deliver…", "Ctrl+Shift+J", parts.show_delivery),
            ("pack", "Pack for handing over…", "Ctrl+Alt+X", parts.handing_over.pack),
            ("open_archive", "Open an archive…", "Ctrl+Alt+Y", parts.handing_over.open_archive),
            ("terms", "Write the sounds and their terms…", "Ctrl+Alt+G",
             parts.handing_over.write_terms),
            None,
            ("quit", "Quit", "Ctrl+Q", parts.close),
        ]),
        Menu("&Edit", [
            *parts.on_sheet.editing(),
            Inner("What inserted frames move", parts.on_sheet.scopes),
        ]),
        Menu("&Shelf", [
            *parts.on_shelf.entries(),
            None,
            *parts.on_made.entries(),
            Inner("Make a sound here", parts.on_made.menu),
        ]),
        Menu("P&lace", [
            *parts.on_sheet.placing(),
            ("make_pad", "Make a pad of what is chosen", "Ctrl+Alt+M", parts.pads_panel.make_pad),
            None,
            *parts.on_rulers.entries(),
        ]),
        Menu("S&hape", [*clip.entries(), *(Inner(*each) for each in clip.menus())], clip.look_at),
        Menu("La&yer", [
            *parts.on_layer.entries(),
            Inner("Its level follows", parts.on_layer.follow_menu),
        ]),
        Menu("S&cene", [*parts.on_scene.entries(), None, *pictures.entries()]),
        Menu("Pl&ay", [
            *playing.entries(),
            ("record", "Record, or end it", "Ctrl+Alt+I", parts.record_now),
            ("drift", "What runs ahead of the picture…", "Ctrl+Alt+A", parts.on_rulers.show_drift),
            ("osc", "Open Sound Control, on or off", "Ctrl+Shift+O", parts.remote.switch_osc),
            None,
            *parts.draws.entries(),
            *parts.going_about.entries(),
            *(Inner(*each) for each in playing.menus()),
        ]),
        Menu("&View", [
            ("closer", "Zoom in", "+", lambda: sheet.zoom(1.5)),
            ("farther", "Zoom out", "-", lambda: sheet.zoom(1 / 1.5)),
            ("fit", "The whole scene", "0", sheet.fit),
            ("fit_chosen", "What is chosen", "9", parts.going_about.fit_chosen),
            ("waits", "Open the waits, or close them", "Shift+A",
             lambda: sheet.open_waits(on=not sheet.waits_open)),
            ("unit", "Seconds, timecode or beats", "Shift+U", sheet.next_unit),
            ("snap", "Snap, or not", "B", sheet.snapping.switch),
            ("night", "Night or day", "Ctrl+Shift+B", parts.switch_night),
            None,
            ("wide_picture", "Widen the picture", "Ctrl+1", lambda: lower.widen(parts.picture)),
            ("wide_card", "Widen the clip card", "Ctrl+2", lambda: lower.widen(parts.card)),
            ("wide_shelf", "Widen the shelf", "Ctrl+3", lambda: lower.widen(lower.side)),
            ("sounding", "What sounds now, or the shelf", "Ctrl+4",
             lambda: lower.show_beside(parts.sounding)),
            ("meters", "Meters, or the shelf", "Ctrl+9", lambda: lower.show_beside(parts.meters)),
            ("pads", "Pads, or the shelf", "Ctrl+0", lambda: lower.show_beside(parts.pads_panel)),
            ("cabinet", "The cabinet, or the shelf", "Shift+Q",
             lambda: lower.show_beside(parts.cabinet_place)),
            ("recording", "Recording, or the shelf", "Shift+I",
             lambda: lower.show_beside(parts.record_panel)),
            ("play_pads", "Play the pads, or not", "Ctrl+Alt+K",
             lambda: parts.pads.play(on=not parts.pads.played)),
            *pictures.views(),
            Inner("Snap to", parts.on_sheet.snaps),
            Inner("Over the picture", pictures.over_menu),
        ]),
        Menu("&Help", [
            ("keys", "Keys", "F1", lambda: show_keys(parts)),
            ("shapes", "Shapes on the sheet", "Shift+F1", lambda: show_beside(ShapesDialog(parts))),
            ("sentence", "Say what the chosen clip does", "Ctrl+Space",
             parts.on_sheet.say_what_sounds),
            ("about", "About Cicada", "Ctrl+F1", lambda: about(parts)),
        ]),
    ]  # fmt: skip


def show_keys(parts: Parts) -> None:
    """List all keys."""
    direct = Qt.FindChildOption.FindDirectChildrenOnly
    show_beside(KeysDialog(parts, parts.menu_bar.findChildren(QMenu, options=direct)))


def ask_frame_rate(parts: Parts, fps: tuple[int, int] | None = None) -> None:
    """Change the frame rate, once what that does has been seen; ``fps`` is offered."""
    dialog = FrameRateDialog(parts, parts.planning, parts.sheet, parts.session.scene_id)
    if fps is not None:
        dialog.offer(fps)
    if dialog.exec():
        parts.document.do(dialog.edit)
    dialog.end()
    dialog.deleteLater()


def show_history(parts: Parts) -> None:
    """List every step that can be taken back or done again."""
    show_beside(HistoryList(parts, parts.document))


def about(parts: Parts) -> None:
    """Say what this is."""
    from cicada import __version__

    title, detail = f"Cicada {__version__}", "The sheet draws what will sound."
    parts.asking.choose(title, ["Go on"], safe=0, detail=detail)
