"""Prints the result of `kivel plan`."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from kivel.cli.arguments import command_line
from kivel.cli.report import Report
from kivel.core.layout.memory import FORMATS, texture_bytes
from kivel.core.wording import counted
from kivel.making.options.resample_options import ResampleOptions
from kivel.making.options.sheet_options import SheetOptions
from kivel.making.sheets.plan import WHY
from kivel.views.plan_tables import layout_table, memory_table, motion_table

if TYPE_CHECKING:
    from kivel.core.layout.choices import LargestCell, WorthHaving
    from kivel.core.pixels.pixels import Size
    from kivel.making.options.plan_options import PlanOptions
    from kivel.making.sheets.plan import PlanMade

__all__ = ["show"]


def show(made: PlanMade, options: PlanOptions, report: Report) -> int:
    report.line(f"{made.name}: {counted(made.frames, 'frame')} of {made.size} px")
    report.line("")
    report.tables([layout_table(made.layouts, made.size), memory_table(made.layouts)])
    report.line("")
    if made.file_bytes:
        sizes = ", ".join(f"{_about(length)} ({compress})" for compress, length in made.file_bytes.items())
        report.line(f"as PNG about {sizes}, judged by {counted(made.sampled, 'frame')}")
    report.line(f"best is what `kivel sheet` makes: {WHY}")
    report.line("")
    for one, command in zip(made.layouts, made.commands, strict=True):
        report.line(f"{one.plan.page}: {_typed(command)}")
    for line in _advice(made):
        report.line(line)
    if made.counts:
        report.line("")
        report.line("error of the frames that are left out (root mean square, of 255):")
        report.tables([motion_table(made.counts)])
    for line in _enough(made, options):
        report.line(line)
    report.document(
        {
            "name": made.name,
            "frames": made.frames,
            "size": list(made.size),
            "why": WHY,
            "layouts": [_document(one, made.size) for one in made.layouts],
            "commands": [_typed(command) for command in made.commands],
            "page": _fitting_document(made.fitting),
            "as_they_are": made.as_they_are if made.page else None,
            "fitting_commands": [_typed(command) for command in made.fitting_commands],
            "file_bytes": dict(made.file_bytes),
            "next_pages": [
                {"page": list(one.page), "holds": one.holds, "all_at": _fitting_document(one.all_at)}
                for one in made.next_pages
            ],
            **_motion_document(made),
            "notes": list(made.notes),
        }
    )
    return 0


def _enough(made: PlanMade, options: PlanOptions) -> list[str]:
    """How few frames miss no more than was asked for."""
    if made.enough is None:
        return []
    with_motion, faded = made.enough
    said = f"at most {options.error:g}: {counted(with_motion, 'frame')} with motion, {faded} without"
    if with_motion == made.frames:
        return [f"{said}; those are all frames, so no motion map is needed"]

    given: dict[str, Any] = {"sources": list(options.sources), "out": f"{made.name}-{with_motion}"}
    given |= {"count": str(with_motion), "motion": "True"}
    given |= {name: "True" for name in ("one-shot", "tile") if options.given(name)}
    return [said, f"  {command_line('resample', ResampleOptions, given)}"]


def _motion_document(made: PlanMade) -> dict[str, Any]:
    """Nothing where it was not asked for."""
    if not made.counts and made.enough is None:
        return {}
    counts = [
        {
            "count": len(one.frames),
            "frames": list(one.frames),
            "error": round(one.error, 4),
            "faded": round(one.faded, 4),
            "bytes": one.bytes,
            "faded_bytes": one.faded_bytes,
        }
        for one in made.counts
    ]
    enough = None if made.enough is None else {"motion": made.enough[0], "faded": made.enough[1]}
    return {"motion": {"counts": counts, "enough": enough}}


def _about(length: int) -> str:
    """Bytes as people say them, by thousands."""
    return f"{length / 1e6:.3g} MB" if length >= 1e6 else f"{length / 1e3:.3g} kB"


def _typed(given: dict[str, list[str]]) -> str:
    """The command to paste."""
    return command_line(
        "sheet", SheetOptions, {name: texts if name == "sources" else texts[0] for name, texts in given.items()}
    )


def _advice(made: PlanMade) -> list[str]:
    lines = []
    count, frame = made.frames, made.size
    if made.page and made.fitting is None:
        lines.append(f"{count} frames do not fit a {made.page} page at any size")
    if made.fitting:
        lines += ["", f"{_all_in(count, made.fitting)}{_against(frame, made.fitting.cell)}"]
        lines.append(f"  {_typed(made.fitting_commands[0])}")
    if made.page and 0 < made.as_they_are < count:
        lines.append(f"{made.as_they_are} of {count} frames fit {made.page} at their own size, evenly thinned")
        lines.append(f"  {_typed(made.fitting_commands[1])}")
    lines += [""] if made.next_pages else []
    for one in made.next_pages:
        holds = f"holds {one.holds} of {count} frames at {frame} px"
        if one.holds < count and one.holds > 1:
            holds += f" (drop {count - one.holds}: kivel resample --count {one.holds})"
        cells = f", or all in cells of {one.all_at.cell}" if one.all_at and one.holds < count else ""
        lines.append(f"next page down, {one.page}: {holds}{cells}")
    return lines


def _all_in(count: int, fitting: LargestCell) -> str:
    return (
        f"{counted(count, 'frame')} fit {fitting.page} at {fitting.cell} px: {fitting.columns} columns x "
        f"{fitting.rows} rows, {fitting.unused.w} px unused to the right, {fitting.unused.h} below"
    )


def _against(frame: Size, cell: Size) -> str:
    share = cell.w / frame.w
    return "" if cell == frame else f"; {share:.0%} of their size" if share < 1 else "; no scaling needed"


def _document(one: WorthHaving, frame: Size) -> dict[str, Any]:
    plan = one.plan
    return {
        "label": one.label,
        "columns": plan.grid.columns,
        "rows": plan.grid.rows,
        "cell": list(plan.grid.cell),
        "sheet": list(plan.page),
        "pages": plan.pages,
        "empty": plan.empty,
        "used": round(float(one.used(frame)), 4),
        "bytes": {name: plan.pages * texture_bytes(plan.page, stored) for name, stored in FORMATS.items()},
        "bytes_with_mips": {
            name: plan.pages * texture_bytes(plan.page, stored, mips=True) for name, stored in FORMATS.items()
        },
    }


def _fitting_document(fitting: LargestCell | None) -> dict[str, Any] | None:
    if fitting is None:
        return None
    return {name: list(value) if isinstance(value, tuple) else value for name, value in fitting._asdict().items()}
