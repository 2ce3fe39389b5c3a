"""Describes what a profile's templates are given: plain values, counted as the profile says.

Every number with a point is a 32-bit float, rounded once, with the shortest text that gives it back.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator
from fractions import Fraction
from pathlib import PurePosixPath
from typing import Any

from kivel.core.exporting.float_text import float32_text
from kivel.core.exporting.playback_table import PlaybackTable, TableFrame
from kivel.core.exporting.step_tables import StepTable, TimedStep
from kivel.core.named_tuples import NamedTuple
from kivel.core.playback.groups import Group
from kivel.files.manifest.names import COLOR
from kivel.files.profile_file import Units
from kivel.making.exports.packed_sheets import PackedSheet, group_of

__all__ = [
    "VARIABLE_HELP",
    "clip_variables",
    "frame_variables",
    "group_variables",
    "map_variables",
    "range_values",
    "sheet_variables",
]

Variables = dict[str, Any]

VARIABLE_HELP = {
    "sheet": "a sheet: its pages, its grid and what is on it",
    "frames": "each frame: where it is, in pixels and in texture coordinates",
    "clips": "each clip: its steps as they show, ping-pong written out",
    "clip": "the clip that the file is for (each = clip)",
    "group": "the group that the file is for (each = group)",
    "frame": "the frame that the file is for (each = frame)",
    "map": "the companion map that the file is for (each = map)",
    "groups": "each group of clips",
    "sheets": "all sheets of the pack, each with its frames, clips and groups (each = pack)",
}


def sheet_variables(sheet: PackedSheet, units: Units, maps: Iterable[str] = ()) -> Variables:
    """The sheet with its frames, clips and groups; `maps` are those that sheets may have."""
    frames = [frame_variables(sheet, number, units) for number in range(len(sheet.table.frames))]
    clips = [clip_variables(sheet, table, units) for table in sheet.table.clips]
    return {
        "sheet": _sheet(sheet, units, maps),
        "frames": frames,
        "clips": clips,
        "groups": [group_variables(group) for group in sheet.groups],
    }


def _sheet(sheet: PackedSheet, units: Units, maps: Iterable[str]) -> Variables:
    table, grid = sheet.table, sheet.grid
    first = units.first_index
    count = len(table.frames)
    pages = [
        {"index": number + first, "width": page.size.w, "height": page.size.h, "image": sheet.images[COLOR][number]}
        for number, page in enumerate(table.pages)
    ]
    canvases = {frame.canvas for frame in table.frames}
    return {
        "name": sheet.name,
        "folder": sheet.path.absolute().parent.name,
        "clip": sheet.clip,
        "image": sheet.images[COLOR][0],
        "stem": PurePosixPath(sheet.images[COLOR][0]).stem,
        "maps": {**dict.fromkeys(maps), **{name: files[0] for name, files in sheet.images.items()}},
        "pages": pages,
        "width": pages[0]["width"],
        "height": pages[0]["height"],
        "columns": grid.columns if grid else None,
        "rows": grid.rows if grid else None,
        "cell_width": grid.cell.w if grid else None,
        "cell_height": grid.cell.h if grid else None,
        "same_size": len(canvases) == 1,
        "frame_count": count,
        "first_index": first,
        "last_index": count - 1 + first,
        "divided": table.is_divided,
        "pivot": _pivot(table.frames[0], units),
        "premultiplied": table.shown.alpha == "premultiplied",
        "motion": _motion(table, first),
    }


def _motion(table: PlaybackTable, first: int) -> Variables | None:
    """The map of motion: its name, its reach as the sheet stores it, its size as one part of this many, its pairs."""
    known = table.motion
    if known is None:
        return None
    pairs = [{"earlier": start + first, "later": end + first} for start, end in known.motion.pairs]
    return {
        "map": known.map, "reach_x": known.motion.reach.x, "reach_y": known.motion.reach.y, "parts": known.parts,
        "bits": known.depth, "wraps": known.motion.wraps, "pairs": pairs,
    }  # fmt: skip


def frame_variables(sheet: PackedSheet, number: int, units: Units) -> Variables:
    frame, first = sheet.table.frames[number], units.first_index
    page = sheet.table.pages[frame.page].size
    below = page.h - frame.rect.bottom if units.origin == "bottom" else frame.rect.y
    row, column = sheet.grid.place_of(frame.rect) if sheet.grid else (None, None)
    return {
        "index": number + first,
        "name": frame.name,
        "page": frame.page + first,
        "row": None if row is None else row + first,
        "column": None if column is None else column + first,
        "x": frame.rect.x,
        "y": below,
        "width": frame.rect.w,
        "height": frame.rect.h,
        "canvas_width": frame.canvas.w,
        "canvas_height": frame.canvas.h,
        "offset_x": frame.offset.x,
        "offset_y": frame.offset.y,
        "turned": bool(frame.turn),
        "mirrored_x": "x" in frame.flip,
        "mirrored_y": "y" in frame.flip,
        "u": _float(frame.place.u),
        "v": _float(frame.place.v),
        "u_scale": _float(frame.place.u_scale),
        "v_scale": _float(frame.place.v_scale),
        "pivot": _pivot(frame, units),
    }


def clip_variables(sheet: PackedSheet, table: StepTable, units: Units) -> Variables:
    """A clip; its times are in seconds, or whole ticks of the profile's timebase."""
    clip, first = table.clip, units.first_index
    time = _times(table, units)
    holds = {step.hold for step in table.steps}
    used = [step.frame for step in table.steps]
    in_order = used == list(range(used[0], used[0] + len(used)))
    same = holds.pop() if len(holds) == 1 else None
    cycle = Fraction(table.cycle_ticks) / clip.timebase
    return {
        "name": clip.name,
        "group": group_of(sheet.groups, clip.name),
        "groups": [group.name for group in sheet.groups if clip.name in group.members],
        "steps": [_step(sheet, number, step, units, time) for number, step in enumerate(table.steps)],
        "step_count": len(table.steps),
        "first_frame": min(used) + first,
        "last_frame": max(used) + first,
        "in_order": in_order,
        "frames_in_order": len(used) if in_order else None,
        "hold": None if same is None else time(same),
        "rate": None if same is None else _float(clip.timebase / same),
        "mean_rate": _float(len(used) / cycle),
        "length": time(table.cycle_ticks),
        "steps_from_phase": [
            _step(sheet, number, step, units, time) for number, step in enumerate(_from_phase(table, units))
        ],
        "phase_time": time(table.phase_ticks) if units.time == "seconds" else round(table.phase_ticks),
        "phase_steps": None if clip.phase % 1 else int(clip.phase % len(table.steps)),
        "interpolation": clip.interpolation,
        "forever": clip.repeat == "forever",
        "repeat": None if clip.repeat == "forever" else clip.repeat,
        "end": clip.end,
        "then": clip.then,
        "direction": clip.direction,
        "blends": clip.interpolation != "step",
        "events": [{"name": name, "time": time(tick)} for tick, name in table.events()],
    }


def _from_phase(table: StepTable, units: Units) -> list[_TurnedStep]:
    """The steps of a cycle that begins at the phase; the step that it falls into is divided."""
    phase = table.phase_ticks if units.time == "seconds" else Fraction(round(table.phase_ticks))
    cycle = table.cycle_ticks
    turned = []
    for step in (*table.steps, *(step._replace(start=step.start + cycle) for step in table.steps)):
        start = max(Fraction(step.start), phase)
        end = min(Fraction(step.start + step.hold), phase + cycle)
        if start < end:
            turned.append(_TurnedStep(step.frame, start - phase, end - start))
    return turned


def map_variables(sheet: PackedSheet, name: str) -> Variables:
    """A companion map: its name and its image, that of the first page."""
    image = sheet.images[name][0]
    return {"name": name, "image": image, "stem": PurePosixPath(image).stem}


def group_variables(group: Group) -> Variables:
    members, weights = zip(*group.weighted(), strict=True)
    return {"name": group.name, "members": list(members), "choose": group.choose, "weights": list(weights)}


def range_values(variables: Variables) -> Iterator[tuple[str, str, Any]]:
    """Every number that a range may be about: `step.hold`, where it is, and its value."""
    yield from _numbers("sheet", "the sheet", variables["sheet"])
    for frame in variables["frames"]:
        yield from _numbers("frame", f"frame {frame['name']!r}", frame)
    for clip in variables["clips"]:
        where = f'clip "{clip["name"]}"'
        yield from _numbers("clip", where, clip)
        for step in clip["steps"]:
            yield from _numbers("step", f"{where}, step {step['index']}", step)
        for event in clip["events"]:
            yield from _numbers("event", f"{where}, event {event['name']!r}", event)


def _numbers(kind: str, where: str, values: Variables) -> Iterator[tuple[str, str, Any]]:
    for name, value in values.items():
        if isinstance(value, dict):
            yield from _numbers(f"{kind}.{name}", where, value)
        elif isinstance(value, (int, float)) and not isinstance(value, bool):
            yield f"{kind}.{name}", where, value


class _TurnedStep(NamedTuple):
    """A step of a cycle that begins at the phase, in ticks."""

    frame: int
    start: Fraction
    hold: Fraction


def _step(
    sheet: PackedSheet, number: int, step: TimedStep | _TurnedStep, units: Units, time: Callable[[Fraction | int], Any]
) -> Variables:
    frame: TableFrame = sheet.table.frames[step.frame]
    return {
        "index": number + units.first_index,
        "frame": step.frame + units.first_index,
        "frame_name": frame.name,
        "start": time(step.start),
        "hold": time(step.hold),
    }


def _times(table: StepTable, units: Units) -> Callable[[Fraction | int], Any]:
    if units.time == "ticks":
        return lambda ticks: int(ticks)
    return lambda ticks: _float(Fraction(ticks) / table.clip.timebase)


def _pivot(frame: TableFrame, units: Units) -> Variables:
    """As a share of the frame's canvas, and of its cell where it has one."""
    return {"canvas": _point(frame.pivot, units), "cell": frame.cell_pivot and _point(frame.cell_pivot, units)}


def _point(place: tuple[Fraction, Fraction], units: Units) -> Variables:
    x, y = place
    return {"x": _float(x), "y": _float(y if units.origin == "top" else 1 - y)}


def _float(value: Fraction) -> float:
    return float(float32_text(value))
