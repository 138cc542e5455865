"""What lies in the project's sounds folder that nothing needs any more, and its removal."""

from PySide6.QtCore import Qt
from PySide6.QtWidgets import (
    QDialog,
    QHBoxLayout,
    QLabel,
    QPushButton,
    QTreeWidget,
    QTreeWidgetItem,
    QVBoxLayout,
    QWidget,
)

from cicada.disk.why import size_text
from cicada.store.sounds_folder import Unused
from cicada.window.drawing import theme
from cicada.window.words.quantities import count


class TidyDialog(QDialog):
    """Lists every file that would go; nothing goes without the button."""

    def __init__(self, parent: QWidget, folder: str, files: list[Unused]) -> None:
        super().__init__(parent)
        self.setWindowTitle("Tidy the sounds folder")
        self.setStyleSheet(theme.style())
        self.resize(640, 380)
        column = QVBoxLayout(self)
        column.setContentsMargins(18, 14, 18, 14)
        column.setSpacing(10)
        freed = size_text(sum(file.size for file in files))
        self.words = QLabel(
            f"{count(len(files), 'file')} in {folder} "
            f"{'belongs' if len(files) == 1 else 'belong'} to no sound, no take and no step that "
            f"can be undone. Removing {'it' if len(files) == 1 else 'them'} frees {freed} and "
            "cannot be undone."
        )
        self.words.setWordWrap(True)
        column.addWidget(self.words)
        tree = QTreeWidget()
        tree.setHeaderLabels(["File", "Size"])
        tree.setRootIsDecorated(False)
        tree.setAccessibleName("Files that would go")
        for file in files:
            item = QTreeWidgetItem([file.path.name, size_text(file.size)])
            item.setTextAlignment(1, Qt.AlignmentFlag.AlignRight)
            tree.addTopLevelItem(item)
        tree.setColumnWidth(0, 450)
        column.addWidget(tree, 1)
        row = QHBoxLayout()
        row.addStretch(1)
        leave = QPushButton("Keep them")
        leave.clicked.connect(self.reject)
        leave.setDefault(True)
        row.addWidget(leave)
        self.remove = QPushButton(f"Remove {count(len(files), 'file')}")
        self.remove.clicked.connect(self.accept)
        row.addWidget(self.remove)
        column.addLayout(row)
