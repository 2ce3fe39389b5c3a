"""A sheet as glTF: its clips side by side, each on a rectangle, or on a mesh that is cut to what it shows."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import replace
from fractions import Fraction
from typing import TYPE_CHECKING, Literal

import numpy as np

from kivel.core.errors import UsageError, option
from kivel.core.exporting.quads import NO_QUAD, quad_of
from kivel.core.named_tuples import NamedTuple
from kivel.core.outline import outlined
from kivel.core.pixels.pixels import Rect, full_scale, is_opaque
from kivel.core.playback.schedule import schedule
from kivel.files.formats.gltf_files import GltfClip, GltfPage, MeshPoint, glb_bytes

if TYPE_CHECKING:
    from numpy.typing import NDArray

    from kivel.core.exporting.playback_table import TableFrame
    from kivel.core.exporting.quads import Quad
    from kivel.core.playback.schedule import Shot
    from kivel.making.exports.exported_sheets import ExportedSheet, ToExport

__all__ = ["GltfMade", "gltf_of"]

_Alpha = Literal["opaque", "mask", "blend"]


class GltfMade(NamedTuple):
    """The file, and what a person should know of it."""

    content: bytes
    notes: tuple[str, ...]


def gltf_of(what: ToExport) -> GltfMade:
    """Put clips in order from left to right, the largest canvas one unit high.

    Raises
    ------
    UsageError
        If there are no clips, colours are premultiplied, or a mesh cannot be cut to frames that are trimmed apart.
    """
    table, sheet = what.table, what.sheet
    sheet.require_bytes("glTF")
    if sheet.is_premultiplied:
        raise UsageError(
            f"{sheet.path}: its colours are premultiplied, which glTF does not support; use straight alpha"
        )
    quads = [quad_of(frame, table.pages[frame.page].size, half_texel=table.half_texel) for frame in table.frames]
    if not what.clips:
        raise UsageError(f"{sheet.path}: it has no clips, and a glTF shows only clips")
    unit = max(frame.canvas.h for frame in table.frames)
    alphas = [_alpha_of(sheet, number) for number in range(len(table.pages))]
    clips, right, notes = [], Fraction(0), [f"one unit is {unit} px; clips are side by side, their pivots at height 0"]
    for one in table.clips:
        plan = schedule(replace(one.clip, interpolation="step"), blends=Fraction(1), others=sheet.others)
        shown = [_shown(shot, table.frames, quads) for shot in plan.shots]
        left = min(quad.left for _, quad, _ in shown)
        right -= left
        mesh: tuple[MeshPoint, ...] = ()
        if sheet.options.outline:
            numbers = sorted({shot.frame for shot in plan.shots if shot.frame is not None})
            mesh = _mesh_around(sheet, one.clip.name, table.frames, numbers, alphas)
            notes.append(f'clip "{one.clip.name}": its mesh has {len(mesh)} points, {_area(mesh):.0%} of the rectangle')
        clips.append(GltfClip(one.clip.name, shown, right, mesh))
        right += max(quad.left + quad.width for _, quad, _ in shown) + Fraction(unit, 8)
    pages = [GltfPage(sheet.page_png(number), alpha) for number, alpha in enumerate(alphas)]
    return GltfMade(glb_bytes(clips, pages, unit, nearest=sheet.is_crisp), tuple(notes))


def _shown(shot: Shot, frames: Sequence[TableFrame], quads: Sequence[Quad]) -> tuple[int, Quad, Fraction]:
    if shot.frame is None:
        return 0, NO_QUAD, shot.seconds
    return frames[shot.frame].page, quads[shot.frame], shot.seconds


def _alpha_of(sheet: ExportedSheet, number: int) -> _Alpha:
    """How the alpha of a page is taken: as is asked for, else as its pixels need it."""
    page = sheet.page(number)
    if sheet.options.alpha is not None:
        return sheet.options.alpha
    hard = np.isin(page[..., 3], (0, 255)).all()
    return "opaque" if is_opaque(page) else "mask" if hard else "blend"


def _mesh_around(
    sheet: ExportedSheet, name: str, frames: Sequence[TableFrame], numbers: Sequence[int], alphas: Sequence[_Alpha]
) -> tuple[MeshPoint, ...]:
    """Return the corners, as shares of the rectangle, of one polygon around all that the frames of a clip show."""
    boxes = {_box_of(frames[number]) for number in numbers}
    boxes.discard(None)
    if not boxes:
        return ()
    box = boxes.pop()
    if box is None or boxes:
        raise UsageError(
            f'{sheet.path}: clip "{name}": {option("outline")} needs frames that are trimmed alike; make a sheet, '
            f"or an atlas with {option('no-trim', True)}"
        )
    visible = _joined(_visible(sheet, number, box, alphas[frames[number].page]) for number in numbers)
    around = outlined(visible, sheet.options.outline)
    if around is None:
        return ()
    return tuple((x / box.w, y / box.h) for x, y in around.points)


def _box_of(frame: TableFrame) -> Rect | None:
    """Return where a frame's pixels are on its canvas; None of one that has none."""
    width, height = frame.rect.size[::-1] if frame.turn else frame.rect.size
    return Rect(int(frame.offset.x), int(frame.offset.y), width, height) if width and height else None


def _joined(masks: Iterable[NDArray[np.bool_]]) -> NDArray[np.bool_]:
    every = iter(masks)
    joined = next(every)
    for mask in every:
        joined = joined | mask
    return joined


def _visible(sheet: ExportedSheet, number: int, box: Rect, alpha: _Alpha) -> NDArray[np.bool_]:
    """Return which pixels may show: under smooth sampling they reach into their neighbours."""
    image = sheet.frame(number)
    values = box.of(image)[..., 3]
    if alpha == "opaque":
        return np.ones(values.shape, bool)
    mask = values >= full_scale(image) / 2 if alpha == "mask" and sheet.is_crisp else values > 0
    if sheet.is_crisp:
        return np.asarray(mask)
    wide = np.pad(mask, 1)
    down = wide[:-2] | wide[1:-1] | wide[2:]
    return np.asarray(down[:, :-2] | down[:, 1:-1] | down[:, 2:])


def _area(mesh: Sequence[MeshPoint]) -> float:
    """Return the share of the rectangle that a mesh covers (the shoelace formula)."""
    after = [*mesh[1:], *mesh[:1]]
    return abs(sum(x * next_y - next_x * y for (x, y), (next_x, next_y) in zip(mesh, after, strict=True))) / 2
