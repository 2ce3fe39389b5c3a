"""Whether sheets are as a profile needs them: images, ranges of numbers, what the target has no word for."""

from __future__ import annotations

import json
import re
from collections.abc import Callable, Iterator, Sequence
from typing import TYPE_CHECKING

from kivel.core.errors import KivelError, option
from kivel.core.option_words import FADES
from kivel.core.playback.clip import Clip
from kivel.core.wording import counted, first_few
from kivel.files.profile_file import ProfileFile
from kivel.making.exports.exported_sheets import ExportedSheet
from kivel.making.exports.pack_variables import range_values, sheet_variables
from kivel.making.exports.packed_sheets import PackedSheet

if TYPE_CHECKING:
    from kivel.making.work import Work

__all__ = ["faded_otherwise", "require_as_stated", "tell_lacks", "undivided_where_used"]


def require_as_stated(file: ProfileFile, sheet: PackedSheet) -> None:
    """Require what the profile states of images, and that numbers are within their ranges.

    Raises
    ------
    KivelError
        With the value that is not, and where.
    """
    require, frames = file.profile.require, sheet.table.frames
    sizes = [page.size for page in sheet.table.pages]
    odd = next((frame for frame in frames if frame.canvas.w != frame.canvas.h), None)
    largest = require.largest_side
    least, most = require.frames or (0, len(frames))
    uneven = next((one.clip for one in sheet.table.clips if len({step.hold for step in one.steps}) > 1), None)
    clauses = {
        "one_row": (bool(sheet.grid and sheet.grid.rows == 1), _rows(sheet)),
        "square_frames": (odd is None, odd and f"frame {odd.name!r} is {odd.canvas}"),
        "powers_of_two": (all(_is_power(side) for size in sizes for side in size), f"a page is {sizes[0]} px"),
        "divided": (sheet.table.is_divided, undivided(sheet)),
        "largest_side": (max(max(size) for size in sizes) <= (largest or 1 << 30), f"a page is {max(sizes)} px"),
        "pages": (len(sizes) <= (require.pages or len(sizes)), counted(len(sizes), "page")),
        "frames": (least <= len(frames) <= most, counted(len(frames), "frame")),
        "equal_holds": (uneven is None, uneven and f'clip "{uneven.name}" has unequal holds'),
    }
    for name, (holds, found) in clauses.items():
        wanted = getattr(require, name)
        if wanted and not holds:
            what = f"{name} = {json.dumps(wanted)}"
            raise KivelError(f"{found}, and {file.path.name} requires {what}", where=sheet.where)
    for key, where, value in range_values(sheet_variables(sheet, file.profile.units)):
        low, high = file.profile.range.get(key, (value, value))
        if not low <= value <= high:
            raise KivelError(
                f"{where}: {key} is {value}, {file.path.name} allows {low:g} to {high:g}", where=sheet.where
            )
    known = {key for key, _, _ in range_values(sheet_variables(sheet, file.profile.units))}
    kinds = {key.partition(".")[0] for key in known}
    for key in file.profile.range:
        if key not in known and key.partition(".")[0] in kinds and not _may_be_missing(key):
            close = ", ".join(sorted(one for one in known if one.partition(".")[0] == key.partition(".")[0]))
            raise file.error(("range", key), f"unknown number; {close}")


_COUNTS = re.compile(r"(\{\{|\{%)[^}]*(\.|\[\s*['\"])(columns|rows)\b")


def undivided_where_used(file: ProfileFile, sheets: Sequence[PackedSheet]) -> Iterator[tuple[PackedSheet, str]]:
    """Sheets that an engine would divide wrongly, as templates write how many columns or rows there are; and why."""
    if any(_COUNTS.search(text) for text in file.templates):
        for sheet in sheets:
            if sheet.grid and not sheet.table.is_divided:
                yield sheet, f"{file.path.name} uses columns and rows, and {undivided(sheet)}"


def faded_otherwise(file: ProfileFile, sheets: Sequence[PackedSheet]) -> Iterator[tuple[PackedSheet, str]]:
    """Sheets whose frames were faded in another way than the target fades them; and why."""
    wanted = file.profile.fade
    for sheet in sheets:
        other = [fade for fade in sheet.faded if wanted and fade != wanted]
        if other:
            frames = f"some frames are cross-faded {FADES[other[0]]}"
            yield sheet, f"{file.path.name}: the target fades {FADES[wanted or other[0]]}, {frames}"


def undivided(sheet: PackedSheet) -> str:
    """Why columns and rows do not divide a page evenly."""
    grid = sheet.grid
    if grid is None:
        return "its frames are not in a grid"
    page = sheet.table.pages[0].size
    cells = f"{grid.columns} x {grid.rows} cells of {grid.cell} px"
    return f"{cells} do not divide a page of {page} px evenly, as they do with {option('divided', True)}"


def _may_be_missing(key: str) -> bool:
    """A number that some sheets and clips do not have."""
    return key in ("sheet.columns", "sheet.rows", "sheet.cell_width", "sheet.cell_height", "frame.row", "frame.column",
                   "sheet.pivot.cell.x", "sheet.pivot.cell.y", "frame.pivot.cell.x", "frame.pivot.cell.y",
                   "clip.hold", "clip.rate", "clip.repeat", "clip.frames_in_order", "clip.phase_steps")  # fmt: skip


def _rows(sheet: PackedSheet) -> str:
    return f"{counted(sheet.grid.rows, 'row')}" if sheet.grid else "its frames are not in a grid"


def _is_power(side: int) -> bool:
    return side & (side - 1) == 0


def tell_lacks(file: ProfileFile, sheet: ExportedSheet, work: Work) -> None:
    """Return what the target has no word for: told or refused, as the profile says.

    Raises
    ------
    KivelError
        If the profile refuses it, or nothing may be lost.
    """
    lacks = file.profile.lacks
    is_there: dict[str, list[str]] = {
        "blending": _those(sheet.clips, lambda clip: clip.interpolation != "step"),
        "phase": _those(sheet.clips, lambda clip: clip.phase != 0),
        "unequal_holds": _those(sheet.clips, lambda clip: len({step.hold for step in clip.steps}) > 1),
        "repeat": _those(sheet.clips, lambda clip: clip.repeat != "forever"),
        "end": _those(sheet.clips, lambda clip: clip.repeat != "forever" and clip.end != "last"),
        "then": _those(sheet.clips, lambda clip: clip.then is not None),
        "events": _those(sheet.clips, lambda clip: bool(clip.events)),
        "turned_frames": [frame.name for frame in sheet.manifest.frames if frame.turn or frame.flip],
        "other_maps": sorted({*sheet.manifest.pages[0].maps} - {"color", *file.profile.maps}),
    }
    if file.profile.image.layout != "keep":
        is_there["turned_frames"] = []
    for name, which in is_there.items():
        rule = getattr(lacks, name)
        if not which or rule in ("keep", "write-out"):
            continue
        what = f"{name.replace('_', ' ')}: {first_few(which)}"
        if rule == "refuse" or sheet.options.strict:
            raise KivelError(f'{what}; {file.path.name} says lacks.{name} = "{rule}"', where=str(sheet.path))
        work.note(f"{sheet.path}: skipped, {file.path.name} has no place for {what}")


def _those(clips: Sequence[Clip], is_so: Callable[[Clip], bool]) -> list[str]:
    return [clip.name for clip in clips if is_so(clip)]
