"""Who tells whom: what one part says and another does, in one place."""

from functools import partial

from PySide6.QtCore import QPoint
from PySide6.QtGui import QKeySequence, QShortcut
from PySide6.QtWidgets import QMenu

from cicada.core.ways import VALUES
from cicada.window.frame.menu_table import ON_PICTURE, ON_TAB, ask_frame_rate, show_history
from cicada.window.frame.menus import Menus
from cicada.window.frame.parts import Parts
from cicada.window.state.guard import guard
from cicada.window.widgets.asking import tell
from cicada.window.widgets.fields import TypedField
from cicada.window.widgets.menus import pop_up


def connect(parts: Parts, menus: Menus) -> None:
    """Connect all parts with each other."""
    _what_is_said(parts)
    _project_and_file(parts, menus)
    _the_sheet(parts, menus)
    _the_card(parts, menus)
    _the_shelf(parts, menus)
    _picture_and_playing(parts, menus)
    _the_keys(parts)


def _what_is_said(p: Parts) -> None:
    """What is said, and where."""
    say = p.notices.say
    p.notices.said.connect(p.foot.say)
    p.notices.told.connect(say)
    p.notices.told.connect(partial(tell, p))
    p.document.refused.connect(say)
    p.planning.refused.connect(say)
    p.frames.trouble.connect(say)
    p.listening.refused.connect(say)
    p.transport.told.connect(say)
    p.elsewhere.told.connect(say)
    p.trouble.copied.connect(lambda: say("Copied: paste it where it is to be sent."))


def _project_and_file(p: Parts, menus: Menus) -> None:
    """The project, its file, and what is decoded of it."""
    p.document.changed.connect(guard.try_again)
    p.document.saved_state_changed.connect(menus.refresh)
    p.document.became.connect(p.sound_files.look_at_sources)
    p.document.became.connect(p.collecting.settle)
    p.files.leaving.connect(p.transport.stop)
    p.elsewhere_strip.copy_wanted.connect(p.files.save_as)
    p.elsewhere_strip.taken.connect(p.files.ask_about_outside)
    p.files.saved.connect(p.going_back.after_save)
    p.presence.changed.connect(p.decoding.look)
    p.decoding.decoded.connect(p.transport.load)


def _the_sheet(p: Parts, menus: Menus) -> None:
    """The sheet, its menus and the scenes' tabs."""
    p.sheet.scrubbed.connect(p.scrubbing.scrub)
    p.sheet.let_go_of_playhead.connect(p.scrubbing.let_go)
    p.sheet.stepped.connect(p.scrubbing.step)
    p.sheet.range_marked.connect(p.on_playing.mark_range)
    p.sheet.sound_dropped.connect(p.arranging.drop)
    p.sheet.files_dropped.connect(p.dropped.on_sheet)
    p.sheet.picture_dropped.connect(p.dropped.on_picture)
    p.sheet.menu_wanted.connect(lambda at: menus.pop_up(p.on_sheet.cell_menu(), at))
    p.sheet.ruler_menu_wanted.connect(lambda at, frame: menus.pop_up(p.on_rulers.menu(frame), at))
    p.sheet.point_menu_wanted.connect(lambda at, actions: menus.pop_up(actions, at))
    p.sheet.way_chosen.connect(p.deciding.take)
    p.sheet.plays_wanted.connect(lambda at: _plays_menu(p, menus, at))
    for signal in (p.recording.moved, p.recording.changed):
        signal.connect(lambda: p.sheet.show_growing(p.recording.growing()))
    p.on_rulers.frame_rate_wanted = partial(ask_frame_rate, p)
    p.on_sheet.files_wanted.connect(p.imports.paste)
    p.on_sheet.history_wanted.connect(lambda: show_history(p))
    p.scenes.add_wanted.connect(p.on_scene.add_scene)
    p.scenes.menu_wanted.connect(lambda at: menus.pop_up(ON_TAB, at))


def _the_card(p: Parts, menus: Menus) -> None:
    """The card's buttons."""
    p.card.clip.asked.connect(p.on_clip.show)
    p.card.clip.looked_at.connect(p.on_clip.look_at)
    p.on_clip.others_wanted.connect(menus.do)


def _the_shelf(p: Parts, menus: Menus) -> None:
    """The shelf and the details of its sounds."""
    p.shelf.import_wanted.connect(p.imports.import_sounds)
    p.shelf.files_dropped.connect(p.dropped.on_shelf)
    p.shelf.menu_wanted.connect(lambda at: menus.pop_up(p.on_shelf.menu(), at))
    p.shelf.details_wanted.connect(p.lower_half.show_details)
    p.shelf.strip.summary_wanted.connect(p.imports.show_summary)
    p.on_shelf.details_wanted.connect(p.lower_half.show_details)
    p.remote.other.connect(p.pads.told)
    p.making.made.connect(p.lower_half.open_details)
    p.on_shelf.to_be_seen.connect(p.lower_half.show_side)
    p.on_made.to_be_seen.connect(p.lower_half.show_side)
    p.session.sounds_chosen.connect(lambda: menus.switch(p.on_shelf.possible()))
    details = p.shelf.details
    details.keep_wanted.connect(p.sound_files.keep_or_link)
    details.used_wanted.connect(p.on_shelf.show_used)
    details.replace_wanted.connect(p.on_shelf.replace_everywhere)
    details.copy_wanted.connect(p.sound_files.work_on_copy)
    details.take_changed_wanted.connect(p.sound_files.take_changed)
    details.take_wanted.connect(p.sound_files.use_take)
    p.imports.with_what_is_known = p.with_what_is_known
    p.handing_over.opened.connect(p.files.open_file)
    details.making_wanted.connect(p.on_made.change)
    details.other_take_wanted.connect(p.sound_files.other_take)


def _picture_and_playing(p: Parts, menus: Menus) -> None:
    """The picture, and what plays."""
    p.picture.files_dropped.connect(p.dropped.on_picture)
    p.picture.menu_wanted.connect(lambda at: _picture_menu(p, menus, at))
    p.adding.sounds_found.connect(p.imports.import_files)
    p.on_picture.panel_wanted.connect(p.lower_half.show_beside)
    p.on_picture.window_opened.connect(menus.lend)
    p.remote.told.connect(p.notices.say)
    p.remote.raise_wanted.connect(p.activateWindow)
    p.remote.quit_wanted.connect(p.close)
    p.on_playing.silence_wanted.connect(p.escape.silence)


def _the_keys(p: Parts) -> None:
    """Where the keys go when something has been typed."""
    for number in range(max(map(len, VALUES.values()))):
        key = QShortcut(QKeySequence(str(number + 1)), p)
        key.activated.connect(partial(p.deciding.hear, number))
    p.card.left.connect(p.sheet.setFocus)
    p.scenes.named.connect(p.sheet.setFocus)
    for field in p.findChildren(TypedField):
        field.left.connect(p.sheet.setFocus)


def _picture_menu(parts: Parts, menus: Menus, at: QPoint) -> None:
    menu = QMenu(parts)
    menu.addActions([menus.actions[name] for name in ON_PICTURE])
    parts.on_picture.over_menu(menu.addMenu("Over the picture"))
    pop_up(menu, at)


def _plays_menu(parts: Parts, menus: Menus, at: QPoint) -> None:
    menu = QMenu(parts)
    parts.on_scene.plays_menu(menu)
    menu.addAction(menus.actions["plays"])
    pop_up(menu, at)
