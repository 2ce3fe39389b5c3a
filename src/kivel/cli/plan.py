"""Say which layouts a sequence could have: columns and rows, sheet size, waste, memory, and what would fit a page."""

from __future__ import annotations

import argparse
from typing import TYPE_CHECKING, Any

from kivel.cli import layout, options
from kivel.cli.report import Report

if TYPE_CHECKING:
    from kivel.core.layout.choices import LargestCell, NextPage, WorthHaving
    from kivel.core.pixels import Size

_EXAMPLES = """\
examples:
  kivel plan spore/
      the sheets that forty frames could make, what they waste, and their memory in five formats

  kivel plan "vane/vane_#.png" --page 2048x2048 --gap 2
      also the largest cell in which all frames fit that page, and what to do for half of it
"""

_WHY = "least area among sheets at most twice as long as wide, the nearest to a square of those"


def add_arguments(parser: argparse.ArgumentParser) -> None:
    parser.epilog = _EXAMPLES
    options.add_frame_options(parser)
    group = parser.add_argument_group("layout")
    group.add_argument("--cell", type=options.cell_size, metavar="WxH", help="cell size (default: that of the frames)")
    group.add_argument("--page", type=options.cell_size, metavar="WxH", help="what would fit this page?")
    layout.add_spacing_options(group)
    layout.add_page_options(parser, limit="the largest page; more frames go on more pages (default: no limit)")
    options.add_general_options(parser)
    parser.set_defaults(map_scale=[])


def run(args: argparse.Namespace) -> int:
    from kivel.core.layout.choices import largest_cell, next_page_down, worth_having
    from kivel.core.layout.sheet_plan import SheetRequest
    from kivel.core.pixels import Size
    from kivel.sequences.opening import open_sources
    from kivel.sequences.sequence import matched

    report = Report(args)
    request = SheetRequest(spacing=layout.spacing(args), rule=layout.page_rule(args))
    frames = matched(
        open_sources(args.sources, options.source_options(args, keep_float=True)),
        odd_size=args.odd_size,
        align=options.alignment(args),
    )
    report.notes(frames.notes)
    count, frame = len(frames.frames), frames.frames[0].size
    cell = Size(*args.cell) if args.cell else frame
    layouts = worth_having(count, cell, request)
    page = Size(*args.page) if args.page else None
    fitting = largest_cell(count, frame, page, request) if page else None
    smaller = [next_page_down(count, cell, one, request) for one in _pages(page, layouts)]
    report.line(f"{frames.stem}: {layout.count(count, 'frame')} of {frame} px\n")
    _print_tables(report, layouts, frame)
    for line in _advice(count, frame, page, fitting, smaller):
        report.line(line)
    report.document(
        {
            "name": frames.stem,
            "frames": count,
            "size": list(frame),
            "why": _WHY,
            "layouts": [_document(one, frame) for one in layouts],
            "page": _fitting_document(fitting),
            "next_pages": [
                {"page": list(one.page), "holds": one.holds, "all_at": _fitting_document(one.all_at)} for one in smaller
            ],
            "notes": list(frames.notes),
        }
    )
    return 0


def _pages(page: Size | None, layouts: list[WorthHaving]) -> list[Size]:
    """Pages to ask the next one down of: the one given, else that of powers of two."""
    if page:
        return [page]
    return [one.plan.page for one in layouts if "power of two" in one.label and one.plan.pages == 1][:1]


def _print_tables(report: Report, layouts: list[WorthHaving], frame: Size) -> None:
    from kivel.views.plan_tables import layout_table, memory_table

    report.tables([layout_table(layouts, frame), memory_table(layouts)])
    report.line(f"\nbest is what `kivel sheet` makes: {_WHY}")


def _advice(
    count: int, frame: Size, page: Size | None, fitting: LargestCell | None, smaller: list[NextPage]
) -> list[str]:
    lines = []
    if page and fitting is None:
        lines.append(f"{count} frames do not fit a {page} page at any size")
    if fitting:
        lines.append(f"{_all_in(count, fitting)}{_against(frame, fitting.cell)}")
    for one in smaller:
        holds = f"holds {one.holds} of {count} frames at {frame} px"
        if one.holds < count and one.holds > 1:
            holds += f" (drop {count - one.holds}: kivel resample --count {one.holds})"
        cells = f", or all in cells of {one.all_at.cell}" if one.all_at and one.holds < count else ""
        lines.append(f"next page down, {one.page}: {holds}{cells}")
    return lines


def _all_in(count: int, fitting: LargestCell) -> str:
    frames = layout.count(count, "frame")
    return (
        f"{frames} fit {fitting.page} at {fitting.cell} px: {fitting.columns} columns x {fitting.rows} rows, "
        f"{fitting.unused.w} px unused to the right, {fitting.unused.h} below"
    )


def _against(frame: Size, cell: Size) -> str:
    share = cell.w / frame.w
    return "" if cell == frame else f"; {share:.0%} of their size" if share < 1 else "; they need not shrink"


def _document(one: WorthHaving, frame: Size) -> dict[str, Any]:
    from kivel.core.layout.memory import FORMATS, texture_bytes

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
