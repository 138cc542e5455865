"""Are sound and picture together? A flash held against a beep, and a correction by hand."""

from PySide6.QtCore import QRectF, Qt
from PySide6.QtGui import QHideEvent, QPainter, QPaintEvent
from PySide6.QtWidgets import (
    QDialog,
    QHBoxLayout,
    QLabel,
    QPushButton,
    QSlider,
    QSpinBox,
    QVBoxLayout,
    QWidget,
)
from typing_extensions import override

from cicada.window.drawing import theme
from cicada.window.playing.transport import Transport

MOST = 500
# How long the flash stays, in seconds.
FLASH = 0.08


class Flash(QWidget):
    """Bright while the beep that is audible begins; a mark runs towards it."""

    def __init__(self) -> None:
        super().__init__()
        self.setFixedHeight(90)
        self.setAccessibleName("Flash")
        self.share: float | None = None

    def show_share(self, share: float | None) -> None:
        """Show how much of the second between two beeps is over; None: nothing beeps."""
        self.share = share
        self.update()

    @property
    def lit(self) -> bool:
        """Whether it is bright."""
        return self.share is not None and self.share < FLASH

    @override
    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.fillRect(self.rect(), theme.INK if self.lit else theme.ROW_OTHER)
        if self.share is not None:
            x = self.width() * self.share
            painter.fillRect(QRectF(x - 1, 0, 3, self.height()), theme.MOSS)


class TogetherDialog(QDialog):
    """The flash, the beep, and how much later the device is than it says."""

    def __init__(self, parent: QWidget, transport: Transport) -> None:
        super().__init__(parent)
        self._transport = transport
        self.setWindowTitle("Sound and picture together")
        self.setMinimumWidth(460)
        column = QVBoxLayout(self)
        column.setContentsMargins(20, 18, 20, 18)
        column.setSpacing(12)
        self.device = QLabel()
        self.device.setFont(theme.font(15, 600))
        self.device.setWordWrap(True)
        column.addWidget(self.device)
        words = QLabel(
            "The flash should come with the beep. If it comes before the beep, sound is late: "
            "move to the right. What is set is remembered for this device."
        )
        words.setWordWrap(True)
        words.setObjectName("soft")
        column.addWidget(words)
        self.flash = Flash()
        column.addWidget(self.flash)
        row = QHBoxLayout()
        row.addWidget(QLabel("Sound is later than the device says by"))
        self.spin = QSpinBox()
        self.spin.setRange(-MOST, MOST)
        self.spin.setSuffix(" ms")
        self.spin.setAccessibleName("Correction")
        row.addWidget(self.spin)
        row.addStretch(1)
        column.addLayout(row)
        self.slider = QSlider(Qt.Orientation.Horizontal)
        self.slider.setRange(-MOST, MOST)
        self.slider.setAccessibleName("Correction")
        column.addWidget(self.slider)
        buttons = QHBoxLayout()
        self.beep = QPushButton("Beep and flash")
        self.beep.clicked.connect(self._toggle)
        close = QPushButton("Close")
        close.clicked.connect(self.close)
        buttons.addWidget(self.beep)
        buttons.addStretch(1)
        buttons.addWidget(close)
        column.addLayout(buttons)
        self.slider.valueChanged.connect(self.spin.setValue)
        self.spin.valueChanged.connect(self.slider.setValue)
        self.spin.valueChanged.connect(lambda ms: self._transport.devices.correct(ms / 1000))
        self._transport.tested.connect(self._show_sample)
        self._transport.state_changed.connect(self._show_state)
        self._transport.devices.changed.connect(self._show_device)
        self._show_device()

    def _show_device(self) -> None:
        devices = self._transport.devices.known
        title = next((d.title for d in devices.there if d.name == devices.used), devices.used)
        self.device.setText(title or "No sound device: nothing can be heard")
        self.spin.setValue(round(self._transport.devices.correction * 1000))

    def _toggle(self) -> None:
        if self._transport.testing:
            self._transport.stop()
        else:
            self._transport.test()

    def _show_state(self) -> None:
        self.beep.setText("Stop" if self._transport.testing else "Beep and flash")
        if not self._transport.testing:
            self.flash.show_share(None)

    def _show_sample(self, sample: float) -> None:
        rate = self._transport.plan.rate
        self.flash.show_share(sample % rate / rate)

    @override
    def hideEvent(self, event: QHideEvent) -> None:
        if self._transport.testing:
            self._transport.stop()
        super().hideEvent(event)
