"""An inspection as tables for the terminal."""

from __future__ import annotations

from collections.abc import Sequence

from rich.table import Table

from kivel.core.looping.likeness import Slide
from kivel.core.playback.clip import DEFAULT_HOLD, Clip
from kivel.core.playback.groups import Group
from kivel.core.playback.notation import format_seconds
from kivel.core.playback.properties import PROPERTIES
from kivel.core.survey import identical_frames, strongest_alpha, union
from kivel.sequences.choosing import ListedSeries
from kivel.sequences.inspection import Inspection, PageCheck
from kivel.views.loop_lines import seam_text
from kivel.views.motion_lines import motion_text
from kivel.views.tables import add_row, plain_table

__all__ = ["clip_table", "group_table", "page_table", "series_table", "summary_table"]

_LISTED = 6
_HARDLY = 0.02
"""Pixels a frame that are not told."""
_ALPHA = {
    "none": "none, every pixel is opaque",
    "binary": "binary: pixels are opaque or transparent",
    "soft": "soft",
}
_PREMULTIPLIED = {True: ", looks premultiplied", False: ", straight", None: ""}


def series_table(series: Sequence[ListedSeries]) -> Table:
    """A line for each series of a folder."""
    table = plain_table()
    table.add_column("series", overflow="fold", min_width=8)
    for name in ("frames", "numbers", "size"):
        table.add_column(name, justify="right", no_wrap=True)
    table.add_column("pattern", overflow="fold", min_width=12)
    for one in series:
        numbers = f"{one.numbers[0]}-{one.numbers[1]}" if one.numbers else ""
        sizes = str(one.sizes[0][0]) + (f" and {len(one.sizes) - 1} more" if len(one.sizes) > 1 else "")
        add_row(table, one.name, str(one.frames), numbers, sizes, one.pattern)
    return table


def summary_table(inspection: Inspection) -> Table:
    """Return what is there, a line for each question."""
    table = Table(box=None, show_header=False, pad_edge=False, padding=(0, 2, 0, 0))
    table.add_column(style="bold", no_wrap=True)
    table.add_column(overflow="fold")
    for name, value in _summary(inspection):
        add_row(table, name, value)
    return table


def _summary(inspection: Inspection) -> list[tuple[str, str]]:
    frames = inspection.frames
    count = len(frames.frames)
    rows = [("frames", f"{count}, 0-{count - 1}" if count > 1 else "1")]
    numbers = inspection.numbers
    if numbers:
        rows.append(("numbers", f"{min(numbers)}-{max(numbers)}, missing: {inspection.gaps_text()}"))
    bounds = union(survey.bounds for survey in inspection.surveys)
    alpha = strongest_alpha(inspection.surveys)
    empty = [number for number, survey in enumerate(inspection.surveys) if survey.bounds is None]
    rows += [
        ("size", _counted([(f"{size} px", n) for size, n in inspection.sizes], count)),
        ("stored as", _counted(inspection.modes, count)),
        ("light", inspection.light.text()),
        ("alpha", _ALPHA[alpha] + _PREMULTIPLIED[inspection.looks_premultiplied] + _added_light(inspection)),
        ("drawn box", f"{bounds.size} px at {bounds.x}, {bounds.y}" if bounds else "none, all frames are empty"),
        *_reached(inspection),
        ("identical", _groups(identical_frames(inspection.surveys))),
        *_motion_rows(inspection, alpha != "none"),
        *([("motion", motion_text(inspection.vectors))] if inspection.vectors else []),
        ("length", _length(inspection)),
        ("files", _bytes(inspection.file_bytes)),
        ("texture", f"{_bytes(inspection.texture_bytes)} uncompressed, {frames.depth} bits a channel"),
    ]
    if empty:
        rows.insert(
            rows.index(("identical", _groups(identical_frames(inspection.surveys)))),
            ("transparent", f"frames without a visible pixel: {_numbers(empty)}"),
        )
    return rows


def _added_light(inspection: Inspection) -> str:
    count = sum(survey.adds_light for survey in inspection.surveys)
    of = "" if count == len(inspection.surveys) else f" in {count} of {len(inspection.surveys)} frames"
    return f"; some light has no alpha{of}, to be added to the scene" if count else ""


def _motion_rows(inspection: Inspection, has_alpha: bool) -> list[tuple[str, str]]:
    motion = inspection.motion
    if motion is None:
        return _loop_rows(inspection)
    rows = [("nearly same", _groups(motion.nearly_same, " ~ "))]
    if motion.wander:
        what = "alpha" if has_alpha else "brightness"
        box = motion.wander
        rows.append(
            (
                "mass",
                f"the centre of {what} wanders by up to {box.farthest:.1f} px from its mean"
                f" (x {box.left:.1f} to {box.right:.1f}, y {box.top:.1f} to {box.bottom:.1f})",
            )
        )
    if motion.slide:
        rows.append(("slide", _slide(motion.slide)))
    if motion.mirror:
        kept, count = motion.mirror.kept, len(inspection.frames.frames)
        text = f"the second half goes back: frames 0-{kept - 1} as ping-pong are the same, {count - kept} frames fewer"
        rows.append(("mirrored", text + (", each end twice" if motion.mirror.hold_ends else "")))
    return rows + _loop_rows(inspection)


def _loop_rows(inspection: Inspection) -> list[tuple[str, str]]:
    """How the sequence loops, or each of several clips, as far as that can be judged."""
    if not inspection.seams:
        return [("loop", seam_text(inspection.motion.seam))] if inspection.motion else []
    rows: list[tuple[str, str]] = []
    judged = [(clip, seam) for clip, seam in zip(inspection.clips, inspection.seams, strict=True) if seam]
    for clip, seam in judged[:_LISTED]:
        how = "plays as ping-pong" if clip.alternates else "plays once" if clip.repeat == 1 else seam_text(seam)
        rows.append(("" if rows else "loop", f"{clip.name}: {how}"))
    if len(judged) > _LISTED:
        rows.append(("", f"and {len(judged) - _LISTED} clips more"))
    return rows


def _slide(slide: Slide) -> str:
    """How it moves, and the step that would cancel it."""
    ways = (("to the right", "to the left"), ("down", "up"))
    told = [abs(value) >= _HARDLY for value in slide]
    parts = [
        f"{abs(value):.2g} px a frame {way[value < 0]}"
        for value, way, said in zip(slide, ways, told, strict=True)
        if said
    ]
    dx, dy = (f"{-value:.3g}" if said else "0" for value, said in zip(slide, told, strict=True))
    return f"moves {' and '.join(parts)}: shift {dx} {dy} each would cancel it"


def _reached(inspection: Inspection) -> list[tuple[str, str]]:
    """Borders that the picture may be cut by."""
    count = len(inspection.frames.frames)
    parts = [
        f"{side} in all frames"
        if len(numbers) == count
        else f"{side} in frame{'s' if len(numbers) > 1 else ''} {_numbers(numbers)}"
        for side, numbers in inspection.reached.items()
        if numbers
    ]
    return [("border", f"reached {'; '.join(parts)}: cut off, or touching it")] if parts else []


def _counted(values: Sequence[tuple[str, int]], total: int) -> str:
    if len(values) == 1:
        return values[0][0]
    rest = len(values) - _LISTED
    listed = ", ".join(f"{value} ({count} of {total})" for value, count in values[:_LISTED])
    return listed + (f" and {rest} more" if rest > 0 else "")


def _groups(groups: list[list[int]], sign: str = " = ") -> str:
    if not groups:
        return "none"
    rest = len(groups) - _LISTED
    listed = "; ".join(sign.join(map(str, group)) for group in groups[:_LISTED])
    return listed + (f"; and {rest} more groups" if rest > 0 else "")


def _numbers(numbers: list[int]) -> str:
    rest = len(numbers) - 2 * _LISTED
    return ", ".join(map(str, numbers[: 2 * _LISTED])) + (f" and {rest} more" if rest > 0 else "")


def _length(inspection: Inspection) -> str:
    if inspection.clips:
        rest = len(inspection.clips) - _LISTED
        listed = ", ".join(f"{format_seconds(clip.length)} ({clip.name})" for clip in inspection.clips[:_LISTED])
        return listed + (f" and {rest} more" if rest > 0 else "")
    if inspection.stated_length is not None:
        return f"{format_seconds(inspection.stated_length)}, as its files state"
    count = len(inspection.frames.frames)
    return f"not stated; {format_seconds(count * DEFAULT_HOLD)} at {1 / DEFAULT_HOLD} a second"


def _bytes(count: int) -> str:
    value, unit = float(count), "B"
    for larger in ("kB", "MB", "GB"):
        if value < 1000:
            break
        value, unit = value / 1000, larger
    return f"{value:.0f} B" if unit == "B" else f"{value:.3g} {unit}" if value < 100 else f"{value:.0f} {unit}"


def page_table(pages: Sequence[PageCheck]) -> Table:
    """Whether the files are what the manifest says: every one that is not, and of many that are, how many."""
    table = _listing("page", "map", "size", "file")
    good = [page for page in pages if page.state == "as stated"]
    shown = good if len(good) <= 2 * _LISTED else good[:1]
    for page in pages:
        if page.state != "as stated":
            add_row(table, page.file, page.map, str(page.size), f"{page.state}: {page.detail}", last_style="bold red")
        elif page in shown:
            more = f", and {len(good) - 1} more pages" if len(shown) < len(good) else ""
            add_row(table, page.file, page.map, str(page.size), f"as stated{more}", last_style="green")
    return table


def clip_table(clips: Sequence[Clip]) -> Table:
    """The clips and their playback; what is as usual in all of them is left out."""
    rows = [_clip_row(clip) for clip in clips]
    columns = [name for name in rows[0] if any(row[name] for row in rows)]
    table = _listing(*columns)
    for row in rows:
        add_row(table, *(row[name] for name in columns))
    return table


def _clip_row(clip: Clip) -> dict[str, str]:
    return {
        "clip": clip.name,
        "steps": str(len(clip.steps)),
        "timebase": str(clip.timebase),
        "length": format_seconds(clip.length),
        **{one.name: one.short(clip) for one in PROPERTIES if one.short},
    }


def group_table(groups: Sequence[Group]) -> Table:
    """The groups of clips."""
    table = _listing("group", "choose", "clips")
    for group in groups:
        add_row(table, group.name, group.choose, ", ".join(group.members))
    return table


def _listing(*columns: str) -> Table:
    table = plain_table()
    for column in columns:
        table.add_column(column)
    return table
