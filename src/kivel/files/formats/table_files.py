"""A table of frames and clips as CSV, JSON or a C header.

Whole numbers are exact. A number with a point is a 32-bit float, rounded once and written as the shortest text that
gives it back: a texture coordinate times its page's side is within side * 2^-25 texels of the exact one.
"""

from __future__ import annotations

import csv
import io
import json
from collections.abc import Callable, Iterator, Sequence
from typing import Any

from kivel.core.exporting.float_text import float32_quotient_text, float32_text
from kivel.core.exporting.playback_table import PlaybackTable, TableFrame, TableMotion
from kivel.core.exporting.step_tables import StepTable, TimedStep
from kivel.core.layout.grid import Grid
from kivel.core.naming import identifier
from kivel.core.playback.clip import Clip
from kivel.core.playback.groups import Group
from kivel.core.playback.properties import PROPERTIES
from kivel.files.own_digest import BLANK_DIGEST

__all__ = ["TABLE_FORMATS", "c_header_text", "csv_text", "json_table_text"]

_WHOLE_COLUMNS = (
    "page", "x", "y", "width", "height", "turn", "flip", "canvas_width", "canvas_height", "offset_x", "offset_y",
)  # fmt: skip
_PLACE_COLUMNS = (
    *_WHOLE_COLUMNS, "u", "v", "u_scale", "v_scale", "pivot_canvas_x", "pivot_canvas_y", "pivot_cell_x", "pivot_cell_y",
)  # fmt: skip
_FLIP, _PIVOTS = _PLACE_COLUMNS.index("flip"), _PLACE_COLUMNS.index("pivot_canvas_x")
_PLACES = ", ".join(f'"{column}": %s' for column in _PLACE_COLUMNS[:_PIVOTS])
_FRAME_OBJECTS = {
    False: f'{{"name": %s, {_PLACES}, "pivot": {{"canvas": [%s, %s]}}}}',
    True: f'{{"name": %s, {_PLACES}, "pivot": {{"canvas": [%s, %s], "cell": [%s, %s]}}}}',
}
"""By whether the frame lies in a cell."""
_COLUMNS = (
    "row", "clip", "name", "number", "frame", "start", "hold", "start_seconds", "hold_seconds", *_PLACE_COLUMNS,
    "timebase", "phase", *(one.name for one in PROPERTIES if one.value), "columns", "rows", "cell_width", "cell_height",
    "divided", "choose", "weight",
)  # fmt: skip
_OF_CLIPS = _COLUMNS[_COLUMNS.index("timebase") :]
_FORMULA = ("=", "+", "-", "@", "\t", "\r")


def csv_text(table: PlaybackTable) -> str:
    """A row for the sheet and one for each frame; then for each clip one for itself, its hold that of a cycle, one for
    each step with all of its frame's place, and one for each event at the tick at which it happens; then the groups,
    each with a row for each member.
    """
    lines = io.StringIO()
    writer = csv.writer(lines, lineterminator="\n")
    writer.writerow(_COLUMNS)
    writer.writerow(_row({"row": "sheet", "name": _plain(table.name), **_grid_cells(table)}))
    places = [_place_values(frame) for frame in table.frames]
    for number, (frame, place) in enumerate(zip(table.frames, places, strict=True)):
        writer.writerow(["frame", "", _plain(frame.name), number, number, *[""] * 4, *place, *[""] * len(_OF_CLIPS)])
    for clip in table.clips:
        itself, *events = map(_row, _clip_rows(clip))
        writer.writerows([itself, *_step_rows(clip, table.frames, places), *events])
    writer.writerows(map(_row, _group_rows(table.groups)))
    return lines.getvalue()


def _row(values: dict[str, Any]) -> list[Any]:
    return [values.get(column, "") for column in _COLUMNS]


def _grid_cells(table: PlaybackTable) -> dict[str, Any]:
    grid = table.sheet_grid
    if grid is None:
        return {}
    return {
        "columns": grid.columns, "rows": grid.rows, "cell_width": grid.cell.w, "cell_height": grid.cell.h,
        "divided": int(table.is_divided),
    }  # fmt: skip


def _group_rows(groups: Sequence[Group]) -> Iterator[dict[str, Any]]:
    for group in groups:
        yield {"row": "group", "name": _plain(group.name), "choose": group.choose}
        for member, weight in group.weighted():
            yield {"row": "member", "name": _plain(group.name), "clip": _plain(member), "weight": weight}


def _step_rows(table: StepTable, frames: Sequence[TableFrame], places: Sequence[list[Any]]) -> Iterator[list[Any]]:
    """As lists in the order of the columns: of ten thousand steps, looking each up would take most of the time."""
    name = _plain(table.clip.name)
    for number, step in enumerate(table.steps):
        start, hold = (_seconds(ticks, table) for ticks in (step.start, step.hold))
        head = ["step", name, _plain(frames[step.frame].name), number, step.frame, step.start, step.hold, start, hold]
        yield [*head, *places[step.frame], *[""] * len(_OF_CLIPS)]


def _clip_rows(table: StepTable) -> Iterator[dict[str, Any]]:
    clip, name = table.clip, _plain(table.clip.name)
    yield {
        "row": "clip", "clip": name, "name": name, "hold": table.cycle_ticks, "timebase": str(clip.timebase),
        "hold_seconds": _seconds(table.cycle_ticks, table), "phase": str(table.phase_ticks),
        **{one.name: _cell(one.value(clip)) for one in PROPERTIES if one.value},
    }  # fmt: skip
    for tick, event in table.events():
        seconds = _seconds(tick, table)
        yield {"row": "event", "clip": name, "name": _plain(event), "start": tick, "start_seconds": seconds}


def _cell(value: Any) -> Any:
    """A value of a clip: texts are safe for spreadsheets, and what there is not is left empty."""
    return "" if value is None else _plain(value) if isinstance(value, str) else value


def _plain(name: str) -> str:
    """A name that a spreadsheet does not take for a formula."""
    return f"'{name}" if name.startswith(_FORMULA) else name


def _place_values(frame: TableFrame) -> list[Any]:
    """Where it is, in the order of `_PLACE_COLUMNS`, floats as texts; empty where it has no cell."""
    whole = [frame.page, *frame.rect, frame.turn, frame.flip, *frame.canvas, *frame.offset]
    cell = ("", "") if frame.cell_pivot is None else [float32_text(value) for value in frame.cell_pivot]
    return [*whole, *[float32_text(value) for value in (*frame.place, *frame.pivot)], *cell]


def _seconds(ticks: int, of: StepTable) -> str:
    timebase = of.clip.timebase
    return float32_quotient_text(ticks * timebase.denominator, timebase.numerator)


def json_table_text(table: PlaybackTable) -> str:
    """One document; fractions that time depends on are pairs of whole numbers."""
    content = {
        "format": "kivel-table",
        "version": 1,
        "digest": BLANK_DIGEST,
        "origin": table.origin,
        "half_texel": table.half_texel,
        "pages": [{"size": list(page.size), "files": page.files} for page in table.pages],
        **({"grid": _grid_object(table, table.sheet_grid)} if table.sheet_grid else {}),
        "frames": [_Ready(_frame_object(frame)) for frame in table.frames],
        "clips": [_clip_object(clip, table) for clip in table.clips],
        **({"groups": [_group_object(group) for group in table.groups]} if table.groups else {}),
        **({"motion": _motion_object(table.motion)} if table.motion else {}),
    }
    return _lines(content) + "\n"


def _grid_object(table: PlaybackTable, grid: Grid) -> dict[str, Any]:
    """The grid, and whether columns and rows divide the pages evenly."""
    lengths = {"cell": list(grid.cell), "gap": list(grid.gap), "margin": list(grid.margin)}
    return {"columns": grid.columns, "rows": grid.rows, **lengths, "fill": grid.fill, "divided": table.is_divided}


def _group_object(group: Group) -> dict[str, Any]:
    members, weights = zip(*group.weighted(), strict=True)
    return {"name": group.name, "choose": group.choose, "members": list(members), "weights": list(weights)}


def _motion_object(known: TableMotion) -> dict[str, Any]:
    """The map by which clips are warped, as a manifest says it."""
    motion = known.motion
    return {
        "map": known.map,
        "reach": list(motion.reach),
        "parts": known.parts,
        "bits": known.depth,
        "at": "middle",
        "wrap": motion.wraps,
        "pairs": [list(pair) for pair in motion.pairs],
    }


class _Ready(str):
    """JSON already."""


def _frame_object(frame: TableFrame) -> str:
    """Floats as their texts: of ten thousand frames, `json` would take most of the time."""
    values = _place_values(frame)
    values[_FLIP] = f'"{frame.flip}"'
    in_cell = frame.cell_pivot is not None
    values = values if in_cell else values[:-2]
    return _FRAME_OBJECTS[in_cell] % (json.dumps(frame.name, ensure_ascii=False), *values)


def _members(values: dict[str, Any]) -> str:
    return ", ".join([f'"{key}": {value}' for key, value in values.items()])


def _clip_object(table: StepTable, of: PlaybackTable) -> dict[str, Any]:
    clip = table.clip
    return {
        "name": clip.name,
        "timebase": [clip.timebase.numerator, clip.timebase.denominator],
        "cycle": table.cycle_ticks,
        "repeat": None,
        **{one.name: value for one in PROPERTIES if one.value and (value := one.value(clip)) not in ("forever", None)},
        "phase": [table.phase_ticks.numerator, table.phase_ticks.denominator],
        "steps": _Ready(f"[{', '.join(_step_object(step, table) for step in table.steps)}]"),
        "keys": _Ready(f"[{', '.join(_key(step, table, of) for step in table.steps)}]"),
        "events": [{"tick": tick, "name": name} for tick, name in table.events()],
    }


def _step_object(step: TimedStep, table: StepTable) -> str:
    start, hold = (_seconds(ticks, table) for ticks in (step.start, step.hold))
    return f'{{"frame": {step.frame}, "start": {step.start}, "hold": {step.hold}, "seconds": [{start}, {hold}]}}'


def _key(step: TimedStep, table: StepTable, of: PlaybackTable) -> str:
    """For a curve that holds each value until the next: seconds, u, v."""
    place = of.frames[step.frame].place
    return f"[{_seconds(step.start, table)}, {float32_text(place.u)}, {float32_text(place.v)}]"


def _lines(content: dict[str, Any]) -> str:
    """JSON with a line for each object of a list."""
    parts = []
    for key, value in content.items():
        if isinstance(value, list):
            items = ",\n    ".join(map(_item, value))
            parts.append(f"  {json.dumps(key)}: [\n    {items}\n  ]" if value else f"  {json.dumps(key)}: []")
        else:
            parts.append(f"  {json.dumps(key)}: {json.dumps(value)}")
    return "{\n" + ",\n".join(parts) + "\n}"


def _item(item: Any) -> str:
    """An object, of which members may be JSON already."""
    if isinstance(item, _Ready):
        return item
    if not isinstance(item, dict):
        return json.dumps(item, ensure_ascii=False)
    return f"{{{_members({key: _item(value) for key, value in item.items()})}}}"


def c_header_text(table: PlaybackTable) -> str:
    """C99 and C++11: the grid, constant arrays of frames, steps, events, clips and groups, and how many of each."""
    return "\n".join(_header_lines(table)) + "\n"


def _header_lines(table: PlaybackTable) -> Iterator[str]:
    name = identifier(table.name, "table")
    guard = f"{name.upper()}_TABLE_H"
    yield from (f"#ifndef {guard}", f"#define {guard}", "")
    yield f"/* digest: {BLANK_DIGEST} */"
    yield f"/* Texture coordinates count from the {table.origin} left. */"
    for what, value in _grid_cells(table).items():
        yield f"#define {name.upper()}_{what.upper()} {value}"
    yield ""
    yield from _struct(name, "frame", _FRAME_FIELDS if table.sheet_grid else (*_FRAME_FIELDS[:-1], _NO_CELL))
    yield from _struct(name, "step", ("int frame;", "long long start, hold;", "float start_seconds, hold_seconds;"))
    yield from _struct(name, "event", ("int clip;", "long long tick;", "const char *name;"))
    yield from _struct(name, "clip", _CLIP_FIELDS)
    yield from _struct(name, "member", ("int clip, weight;",))
    yield from _struct(name, "group", _GROUP_FIELDS)
    yield from _array(name, "frame", [_c_frame(frame) for frame in table.frames])
    yield from _array(name, "step", [_c_step(step, clip) for clip in table.clips for step in clip.steps])
    events = [(number, *event) for number, clip in enumerate(table.clips) for event in clip.events()]
    yield from _array(name, "event", [f"{number}, {tick}, {_c_string(event)}" for number, tick, event in events])
    firsts = [sum(len(other.steps) for other in table.clips[:number]) for number in range(len(table.clips))]
    yield from _array(name, "clip", [_c_clip(clip, first) for clip, first in zip(table.clips, firsts, strict=True)])
    yield from _c_groups(name, table)
    yield f"#endif /* {guard} */"


def _c_groups(name: str, table: PlaybackTable) -> Iterator[str]:
    """The members of all groups, one after the other, and the groups."""
    places = {clip.clip.name: place for place, clip in enumerate(table.clips)}
    members = [[f"{places[member]}, {weight}" for member, weight in group.weighted()] for group in table.groups]
    yield from _array(name, "member", [row for rows in members for row in rows])
    groups = []
    for number, (group, own) in enumerate(zip(table.groups, members, strict=True)):
        first = sum(map(len, members[:number]))
        groups.append(f"{_c_string(group.name)}, {first}, {len(own)}, {int(group.choose == 'random')}")
    yield from _array(name, "group", groups)


_FRAME_FIELDS = (
    "const char *name;",
    "int page, x, y, width, height, turn, flip_x, flip_y;",
    "int canvas_width, canvas_height, offset_x, offset_y;",
    "float u, v, u_scale, v_scale, pivot_canvas_x, pivot_canvas_y, pivot_cell_x, pivot_cell_y;",
)
_NO_CELL = "float u, v, u_scale, v_scale, pivot_canvas_x, pivot_canvas_y;"
_GROUP_FIELDS = (
    "const char *name;",
    "int first_member, member_count, random; /* random: one member is picked, by weight */",
)
_CLIP_FIELDS = (
    "const char *name, *then; /* then: what follows, or empty */",
    "int first_step, step_count;",
    "long long timebase_over, timebase_under; /* ticks to the second, a fraction */",
    "long long cycle, repeat; /* ticks; how often, -1 for ever */",
    "int end, linear; /* end: 0 last, 1 first, 2 none */",
    "float phase; /* ticks */",
)


def _struct(name: str, what: str, fields: tuple[str, ...]) -> list[str]:
    return [f"typedef struct {name}_{what} {{", *(f"    {field}" for field in fields), f"}} {name}_{what};", ""]


def _array(name: str, what: str, rows: list[str]) -> list[str]:
    """C has no array of nothing: then there is a count alone."""
    count = f"#define {name.upper()}_{what.upper()}_COUNT {len(rows)}"
    if not rows:
        return [count, ""]
    return [count, f"static const {name}_{what} {name}_{what}s[] = {{", *(f"    {{{row}}}," for row in rows), "};", ""]


def _c_frame(frame: TableFrame) -> str:
    flips = (int("x" in frame.flip), int("y" in frame.flip))
    whole = [frame.page, *frame.rect, frame.turn, *flips, *frame.canvas, *frame.offset]
    floats = [f"{float32_text(value)}f" for value in (*frame.place, *frame.pivot, *(frame.cell_pivot or ()))]
    return ", ".join([_c_string(frame.name), *map(str, whole), *floats])


def _c_step(step: TimedStep, of: StepTable) -> str:
    floats = [f"{_seconds(ticks, of)}f" for ticks in (step.start, step.hold)]
    return ", ".join([str(step.frame), str(step.start), str(step.hold), *floats])


def _c_clip(table: StepTable, first: int) -> str:
    clip: Clip = table.clip
    repeat = -1 if clip.repeat == "forever" else clip.repeat
    end = ("last", "first", "none").index(clip.end)
    whole = [first, len(table.steps), clip.timebase.numerator, clip.timebase.denominator, table.cycle_ticks, repeat]
    linear = int(clip.blends)  # without a shader that warps, what is to be warped is faded
    return ", ".join(
        [
            _c_string(clip.name),
            _c_string(clip.then or ""),
            *map(str, whole),
            str(end),
            str(linear),
            f"{float32_text(table.phase_ticks)}f",
        ]
    )


def _c_string(text: str) -> str:
    """UTF-8 in octal escapes where it is not plain: three digits, so that none runs into what follows."""
    plain = "".join(
        chr(byte) if 32 <= byte < 127 and chr(byte) not in '"\\?' else f"\\{byte:03o}" for byte in text.encode()
    )
    return f'"{plain}"'


TABLE_FORMATS: dict[str, Callable[[PlaybackTable], str]] = {
    ".csv": csv_text,
    ".json": json_table_text,
    ".h": c_header_text,
}
"""By the suffix of the file."""
