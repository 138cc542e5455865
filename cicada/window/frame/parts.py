"""The window's parts: each is made once, here, and handed by name what it needs of others."""

from collections.abc import Callable
from pathlib import Path
from typing import TYPE_CHECKING

from PySide6.QtCore import QSettings, Qt
from PySide6.QtWidgets import QDialog, QMainWindow, QMenuBar, QSplitter, QVBoxLayout, QWidget

from cicada.core.model import Sound
from cicada.media.cache import SoundCache
from cicada.store.log import Log
from cicada.store.made_files import with_made_files
from cicada.window.clip.card import Card
from cicada.window.clip.chosen_clip import ChosenClip
from cicada.window.clip.commands import ClipCommands
from cicada.window.clip.comparing import Comparing
from cicada.window.clip.deciding import Deciding
from cicada.window.delivery.handing_over import HandingOver
from cicada.window.delivery.in_place import InPlace
from cicada.window.delivery.page_opening import PageOpening
from cicada.window.drawing import theme
from cicada.window.drawing.sound_pictures import SoundPictures
from cicada.window.frame.delivering import Delivering
from cicada.window.frame.dropped import Dropped
from cicada.window.frame.elsewhere_strip import ElsewhereStrip
from cicada.window.frame.escape import Escape
from cicada.window.frame.files import Files
from cicada.window.frame.foot import Foot
from cicada.window.frame.going_back import GoingBack
from cicada.window.frame.lower_half import LowerHalf
from cicada.window.frame.top import Top
from cicada.window.frame.trouble import TroubleStrip
from cicada.window.made.commands import MadeCommands
from cicada.window.picture.adding import Adding
from cicada.window.picture.commands import PictureCommands
from cicada.window.picture.view import PictureView
from cicada.window.playing.commands import PlayCommands
from cicada.window.playing.draws import Draws
from cicada.window.playing.kept import KeptRow
from cicada.window.playing.link import PlayerMaker
from cicada.window.playing.listening import Listening
from cicada.window.playing.metering import Metering
from cicada.window.playing.meters_panel import MetersPanel
from cicada.window.playing.now_sounding import NowSounding
from cicada.window.playing.pads import Pads
from cicada.window.playing.pads_panel import PadsPanel
from cicada.window.playing.rail import Rail
from cicada.window.playing.remote import Remote
from cicada.window.playing.scrubbing import Scrubbing
from cicada.window.playing.transport import Transport
from cicada.window.playing.trying import Trying
from cicada.window.playing.zones import Zones
from cicada.window.recording.input import RecorderLink
from cicada.window.recording.left_over import LeftOver
from cicada.window.recording.panel import RecordPanel
from cicada.window.recording.recording import Recording
from cicada.window.sheet.commands import SheetCommands
from cicada.window.sheet.going_about import GoingAbout
from cicada.window.sheet.layer_commands import LayerCommands
from cicada.window.sheet.mix_row import MixRow
from cicada.window.sheet.overview import Overview
from cicada.window.sheet.ruler_commands import RulerCommands
from cicada.window.sheet.scene_commands import SceneCommands
from cicada.window.sheet.scene_tabs import SceneTabs
from cicada.window.sheet.sheet import Sheet
from cicada.window.sheet.snapping import Snapping
from cicada.window.shelf.commands import ShelfCommands
from cicada.window.shelf.import_commands import ImportCommands
from cicada.window.shelf.making import Making
from cicada.window.shelf.shelf import Shelf
from cicada.window.shelf.sound_files import SoundFiles
from cicada.window.state.arranging import Arranging
from cicada.window.state.clipboard import Clipboard
from cicada.window.state.collecting import Collecting
from cicada.window.state.conditions import Conditions
from cicada.window.state.decoding import Decoding
from cicada.window.state.document import Document
from cicada.window.state.drawing_time import DrawingTime
from cicada.window.state.elsewhere import Elsewhere
from cicada.window.state.frames import Frames
from cicada.window.state.hits import Hits
from cicada.window.state.jobs import Jobs
from cicada.window.state.measuring import Measuring
from cicada.window.state.notices import Notices
from cicada.window.state.permission import Permission
from cicada.window.state.planning import Planning
from cicada.window.state.presence import Presence
from cicada.window.state.session import Session
from cicada.window.state.sounds import Sounds
from cicada.window.state.ways import Ways
from cicada.window.state.work import Work
from cicada.window.widgets.asking import Asking
from cicada.window.widgets.dialogs import show_beside
from cicada.window.widgets.when_shown import WhenShown

if TYPE_CHECKING:
    from cicada.window.cabinet.cabinet import Cabinet, KeeperLink
    from cicada.window.cabinet.panel import CabinetPanel


class Parts(QMainWindow):
    """All parts, made and put where they stand; what goes on between them is in connections.

    The order matters in one place only: what is made first hears of the playhead first.
    """

    def __init__(
        self,
        cache: SoundCache,
        recovery: Path,
        make_player: PlayerMaker,
        settings: QSettings,
        make_recorder: Callable[[], RecorderLink],
        make_keeper: "Callable[[Path, Path], KeeperLink]",
    ) -> None:
        super().__init__()
        self.settings = settings
        self._know(cache, recovery)
        self._play(make_player, cache)
        self._record(recovery.parent / "recordings", make_recorder, make_keeper)
        self._show(cache)
        self._do()
        self._lay_out()

    def _know(self, cache: SoundCache, recovery: Path) -> None:
        """What the window knows."""
        self.collecting = Collecting()
        self.notices = Notices()
        self.document = Document(
            recovery, lambda project, file: with_made_files(project, file, cache)
        )
        self.session = Session(self.document)
        self.permission = Permission(self.document, recovery.parent / "allowed.json")
        self.presence = Presence(self.document, cache, self.permission)
        self.conditions = Conditions(self.session)
        self.planning = Planning(self.document, self.presence, self.conditions)
        self.ways = Ways(self.session, self.planning, self.conditions)
        self.sounds = Sounds(self.document, self.presence, cache)
        self.frames = Frames(self.document, self.permission)
        self.drawing_time = DrawingTime(self.document, self.frames)
        self.elsewhere = Elsewhere(self.document, recovery.parent / "claims")
        self.jobs = Jobs()
        self.work = Work(self.document, self.presence, cache, self.jobs, self.notices)
        self.measuring = Measuring(self.document, self.presence, self.jobs, cache)
        self.hits = Hits(self.document, self.presence, self.jobs, cache)
        self.decoding = Decoding(
            self.document, self.planning, self.presence, self.sounds, self.work, self.notices
        )  # fmt: skip
        self.arranging = Arranging(self.session, self.planning, self.notices)
        self.asking = Asking(self, self.document)
        self.clipboard = Clipboard(self.session, self.asking.choose, self.notices)
        self.log = Log(recovery.parent / "cicada.log")

    def _play(self, make_player: PlayerMaker, cache: SoundCache) -> None:
        """What plays, and before all else that follows the playhead, the picture."""
        self.transport = Transport(
            self.session, self.planning, self.presence, self.conditions, make_player, self.settings
        )
        self.metering = Metering(
            self.transport, self.planning, self.presence, self.sounds, cache, self.jobs
        )
        self.remote = Remote(self.session, self.transport, self.metering)
        self.scrubbing = Scrubbing(self.planning, self.transport)
        self.pads = Pads(self.session, self.conditions, self.transport, self.sounds, self.notices)
        self.zones = Zones(self.session, self.conditions, self.pads, self.notices)
        self.picture = PictureView(self.session, self.frames, self.transport, self.zones)
        self.listening = Listening(
            self.document, self.transport, self.presence, self.measuring, self.jobs, cache,
            self.settings,
        )  # fmt: skip
        self.trying = Trying(self.session, self.planning, self.transport, self.notices)

    def _record(
        self,
        folder: Path,
        make_recorder: Callable[[], RecorderLink],
        make_keeper: "Callable[[Path, Path], KeeperLink]",
    ) -> None:
        """What records, and what is collected across projects."""
        self.recording = Recording(
            self.session, self.conditions, self.transport, self.work, self.notices,
            self.settings, folder, make_recorder,
        )  # fmt: skip
        self._cabinet: Cabinet | None = None
        self._cabinet_folder, self._make_keeper = folder.parent, make_keeper
        self.left_over = LeftOver(self.document, self.work, self.asking, self.notices, folder)

    def show_delivery(self) -> None:
        """Show the recipes of the project, to be changed and delivered."""
        # Loaded when it is wanted, and not as a window begins.
        from cicada.window.delivery.dialog import DeliveryDialog

        show_beside(DeliveryDialog(
            self, self.session, self.work, self.listening, self.heard_in_place, self.pages,
            self.asking, self.settings,
        ))  # fmt: skip

    def record_now(self) -> None:
        """Begin to record, or end it; the panel is in sight meanwhile."""
        if not self.record_panel.isVisible():
            self.lower_half.show_beside(self.record_panel)
            self.lower_half.show_side()
        self.recording.toggle()

    def _show(self, cache: SoundCache) -> None:
        """What is seen."""
        pictures = self.sound_pictures = SoundPictures(self.sounds.peaks)
        self.mix_row = MixRow(self.planning, self.presence, cache, self.sounds, self.jobs)
        self.sheet = Sheet(
            self.session, self.planning, self.conditions, self.trying, self.sounds, pictures,
            self.frames, self.mix_row, self.hits, Snapping(), self.ways,
        )  # fmt: skip
        self.overview = Overview(self.sheet)
        self.scenes = SceneTabs(self.session)
        self.chosen_clip = ChosenClip(self.sheet, self.planning, self.notices)
        self.comparing = Comparing(self.chosen_clip, self.transport, self.work)
        self.deciding = Deciding(self.chosen_clip, self.ways, self.conditions, self.transport)
        self.card = Card(
            self.session, self.planning, self.arranging, self.comparing, self.sounds, self.notices
        )
        self.sound_files = SoundFiles(
            self.session, self.presence, self.sounds, self.work, self.asking, self.notices
        )
        self.shelf = Shelf(
            self.session, self.sounds, pictures, self.presence, self.measuring, self.listening,
            self.sound_files, self.notices,
        )  # fmt: skip
        self.rail = Rail(
            self.session, self.transport, self.scrubbing, self.conditions, self.planning,
            self.metering,
        )  # fmt: skip
        self.sounding = NowSounding(self.session, self.planning, self.transport)
        self.meters = MetersPanel(self.session, self.metering)
        self.pads_panel = PadsPanel(
            self.session,
            self.conditions,
            self.pads,
            self.zones,
            KeptRow(
                self.session,
                self.conditions,
                self.planning,
                self.transport.giving,
                self.asking,
                self.notices,
            ),
            self.notices,
        )
        self.record_panel = RecordPanel(
            self.session, self.conditions, self.recording, self.listening, self.asking
        )
        self.imports = ImportCommands(
            self.session, self.shelf, self.sounds, self.listening, self.arranging, self.decoding,
            self.work, self.notices, self.settings,
        )  # fmt: skip
        self.cabinet_place = WhenShown(self._made_cabinet_panel)
        self.menu_bar = QMenuBar()
        self.top = Top(self.session, self.planning, self.menu_bar, self.scenes)
        self.lower_half = LowerHalf(
            self.rail,
            self.picture,
            self.card,
            self.shelf,
            self.sounding,
            self.meters,
            self.pads_panel,
            self.record_panel,
            self.cabinet_place,
        )
        self.foot = Foot(self.document, self.lower_half.buttons)
        self.trouble = TroubleStrip(self.log)
        self.elsewhere_strip = ElsewhereStrip(self.document, self.elsewhere)
        # The sheet's half, which the picture may be laid over.
        self.upper = QWidget()

    @property
    def cabinet(self) -> "Cabinet":
        """The sounds of this machine; loaded when somebody first looks at them."""
        if self._cabinet is None:
            from cicada.window.cabinet.cabinet import Cabinet

            self._cabinet = Cabinet(
                self.transport, self.jobs, self._cabinet_folder, self._make_keeper
            )
        return self._cabinet

    def with_what_is_known(self, sound: Sound) -> Sound:
        """A sound that comes onto the shelf, with what was said of it in the cabinet."""
        return sound if self._cabinet is None else self._cabinet.with_what_is_known(sound)

    def close_cabinet(self) -> None:
        """End the keeper, if there is one."""
        if self._cabinet is not None:
            self._cabinet.close()

    def _made_cabinet_panel(self) -> "CabinetPanel":
        from cicada.window.cabinet.panel import CabinetPanel

        return CabinetPanel(
            self.session, self.cabinet, self.listening, self.trying, self.imports, self.work,
            self.asking, self.notices,
        )  # fmt: skip

    @property
    def cabinet_panel(self) -> "CabinetPanel":
        """What is seen of the cabinet."""
        return self.cabinet_place.part()

    def _do(self) -> None:
        """What can be done, room by room."""
        asking, notices, session = self.asking, self.notices, self.session
        self.going_about = GoingAbout(self.sheet, self.scrubbing, notices)
        self.on_sheet = SheetCommands(
            self.sheet, self.arranging, self.clipboard, self.trying, notices
        )
        self.on_layer = LayerCommands(self.sheet, self.arranging, asking, notices)
        self.on_scene = SceneCommands(session, self.scenes, asking, notices)
        self.on_rulers = RulerCommands(
            self.sheet,
            self.planning,
            self.transport,
            self.going_about,
            self.jobs,
            self.work,
            asking,
        )
        self.on_clip = ClipCommands(
            self.chosen_clip, self.comparing, self.deciding, self.card, self.sounds, self.hits,
            self.clipboard, self.transport, self.work, asking,
        )  # fmt: skip
        self.making = Making(session, self.shelf, asking, notices)
        self.on_made = MadeCommands(session, self.listening, self.work, asking, notices)
        self.on_shelf = ShelfCommands(
            session, self.shelf, self.imports, self.sound_files, self.making, self.listening,
            self.trying, self.decoding, self.work, asking, notices,
        )  # fmt: skip
        self.adding = Adding(session, self.frames, asking, notices)
        self.on_picture = PictureCommands(
            session, self.frames, self.picture, self.adding, self.transport, self.upper, notices,
            self.settings,
        )  # fmt: skip
        self.draws = Draws(self.document, self.conditions, notices)
        self.on_playing = PlayCommands(
            session, self.conditions, self.transport, self.rail, self.drawing_time, asking, notices
        )
        self.files = Files(session, self.permission, asking, notices, self.settings)
        self.going_back = GoingBack(self.files, self.jobs, asking, notices, self.sheet.grab)
        self.heard_in_place = InPlace(
            self.session, self.planning, self.transport, self.conditions, self.work, notices
        )
        self.pages = PageOpening()
        self.handing_over = HandingOver(self.document, self.work, asking, notices)
        self.delivering = Delivering(
            self.document, self.presence, self.conditions, self.work, asking, notices
        )
        self.dropped = Dropped(self.files, self.imports, self.adding)
        self.escape = Escape(
            self.sheet,
            self.trying,
            self.transport,
            self.listening,
            self.deciding,
            self.on_picture,
            self.lower_half,
            self.pads,
            self.zones,
            self.recording,
        )

        # What waits for a timer, a signal or another program ends with the window.
        for each in (
            self.sound_files, self.comparing, self.deciding, self.on_playing, self.on_picture,
            self.on_shelf, self.on_made, self.on_sheet, self.on_clip, self.files,
            self.going_back, self.adding, self.dropped,
        ):  # fmt: skip
            each.setParent(self)

    def _lay_out(self) -> None:
        middle = QWidget()
        column = _column(middle)
        column.addWidget(self.top)
        above = _column(self.upper)
        above.addWidget(self.sheet, 1)
        above.addWidget(self.overview)
        below = QWidget()
        under = _column(below)
        under.addWidget(self.lower_half, 1)
        under.addWidget(self.elsewhere_strip)
        under.addWidget(self.trouble)
        under.addWidget(self.foot)
        self.halves = QSplitter(Qt.Orientation.Vertical)
        self.halves.setHandleWidth(4)
        self.halves.setChildrenCollapsible(False)
        self.halves.addWidget(self.upper)
        self.halves.addWidget(below)
        self.halves.setSizes([434, 328])
        # The lower half has what it needs; the sheet takes what a larger window gives.
        self.halves.setStretchFactor(0, 1)
        self.halves.setStretchFactor(1, 0)
        column.addWidget(self.halves, 1)
        self.setCentralWidget(middle)

    def switch_night(self) -> None:
        """Change between warm paper and its night version."""
        theme.use(night=not theme.is_night())
        self.settings.setValue("window/night", theme.is_night())
        self.setStyleSheet(theme.style())
        # Those that stand beside it have the look set on themselves.
        for dialog in self.findChildren(QDialog):
            dialog.setStyleSheet(theme.style())
        self.sound_pictures.forget()
        self.rail.dress()
        self.card.clip.dress()
        self.card.refresh()
        self.sheet.redraw()
        for part in self.findChildren(QWidget):
            part.update()


def _column(inside: QWidget) -> QVBoxLayout:
    column = QVBoxLayout(inside)
    column.setContentsMargins(0, 0, 0, 0)
    column.setSpacing(0)
    return column
