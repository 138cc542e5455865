"""Moving and copying several keyframes at once, by frames and layers, as edits."""

from collections.abc import Collection, Iterable
from itertools import pairwise

from msgspec.structs import replace

from cicada.core.editing import Cell, Edit, Several, frame_of
from cicada.core.keyframe_edits import ClearKeyframes, MoveKeyframes, PutKeyframes
from cicada.core.model import Clip, Keyframe, Rest, Scene, keyframe_at
from cicada.core.placed import span_ends


def with_their_rests(scene: Scene, cells: Iterable[Cell]) -> frozenset[Cell]:
    """Keyframes, and with clips the rests that give them their room."""
    found = set(cells)
    layers = {cell.layer for cell in found}
    for layer in scene.layers:
        if layer.id not in layers:
            continue
        for keyframe, following in pairwise(sorted(layer.keyframes, key=frame_of)):
            if Cell(layer.id, keyframe.frame) not in found:
                continue
            if isinstance(keyframe, Clip) and isinstance(following, Rest):
                found.add(Cell(layer.id, following.frame))
    return frozenset(found)


class Shift:
    """Chosen keyframes on their way: by some frames and some layers, as far as the scene goes."""

    def __init__(self, scene: Scene, cells: Collection[Cell]) -> None:
        self.scene, self.cells = scene, frozenset(cells)
        self.all = with_their_rests(scene, cells)
        self._rows = {layer.id: row for row, layer in enumerate(scene.layers)}
        self._ids = [layer.id for layer in scene.layers]

    def within(self, by: int, rows: int) -> tuple[int, int]:
        """The nearest shift that keeps all of them inside the scene; of nothing there is none."""
        if not self.cells:
            return 0, 0
        frames = [cell.frame for cell in self.cells]
        layers = [self._rows[cell.layer] for cell in self.cells]
        by = max(-min(frames), min(by, self.scene.length - 1 - max(frames)))
        return by, max(-min(layers), min(rows, len(self._ids) - 1 - max(layers)))

    def behind(self) -> int:
        """By how many frames copies of them go so that they stand right behind them."""
        frames = [cell.frame for cell in self.cells]
        ends = {layer.id: span_ends(self.scene, layer) for layer in self.scene.layers}
        over = [ends[cell.layer].get(cell.frame, self.scene.length) for cell in self.cells]
        return self.within(max(*over, max(frames) + 1) - min(frames), 0)[0]

    def moved(self, cell: Cell, by: int, rows: int) -> Cell:
        """Where one of them comes to stand."""
        return Cell(self._ids[self._rows[cell.layer] + rows], cell.frame + by)

    def _moves(self, by: int, rows: int) -> list[tuple[Cell, Cell]]:
        """From where to where; a rest that falls off the scene's end is left out."""
        return [
            (cell, self.moved(cell, by, rows))
            for cell in sorted(self.all)
            if cell in self.cells or cell.frame + by < self.scene.length
        ]

    def moving(self, by: int, rows: int) -> Edit | None:
        """The edit that moves them; None if they stay where they are."""
        if not self.cells or (not by and not rows):
            return None
        moves = self._moves(by, rows)
        edit = MoveKeyframes(moves=tuple(moves))
        dropped = self.all - {cell for cell, _ in moves}
        if not dropped:
            return edit
        return Several(named=edit.title, edits=(ClearKeyframes(cells=tuple(sorted(dropped))), edit))

    def copying(self, by: int, rows: int, verb: str = "copy") -> Edit | None:
        """The edit that puts copies of them there."""
        if not self.cells or (not by and not rows):
            return None
        layers = {layer.id: layer for layer in self.scene.layers}
        put: list[tuple[str, Keyframe]] = []
        for cell, target in self._moves(by, rows):
            keyframe = keyframe_at(layers[cell.layer], cell.frame)
            if keyframe is not None:
                put.append((target.layer, replace(keyframe, frame=target.frame)))
        many = f"{len(self.cells)} keyframes" if len(self.cells) > 1 else "the keyframe"
        return PutKeyframes(keyframes=tuple(put), named=f"{verb} {many}")
