"""Say what is there: frames, gaps, sizes, alpha, timing, memory; and whether a manifest still holds."""

from __future__ import annotations

import argparse
from pathlib import Path
from typing import TYPE_CHECKING

from kivel.cli import options
from kivel.cli.report import Report
from kivel.core.errors import UsageError

if TYPE_CHECKING:
    from rich.table import Table

    from kivel.sequences.inspection import Inspection, PageCheck

_EXAMPLES = """\
examples:
  kivel inspect "vane/vane_#.png"
      a long render: are all frames there, of one size, with the alpha they should have?

  kivel inspect spore.kivel.json --chart spore-chart.png
      a sheet: is its image what the manifest says? and a picture of how its frames change, and where they wander
"""


def add_arguments(parser: argparse.ArgumentParser) -> None:
    parser.epilog = _EXAMPLES
    options.add_sources(parser, needed=False)
    group = parser.add_argument_group("frames")
    options.add_range(group)
    group = parser.add_argument_group("output")
    group.add_argument("--chart", metavar="OUT.png", help="draw the changes, the seam and the path of the mass")
    group.add_argument("--force", action="store_true", help="overwrite a chart that is there")
    parser.set_defaults(dry_run=False)
    parser.add_argument("--schema", action="store_true", help="print the JSON Schema of a manifest, and nothing else")
    options.add_general_options(parser)


def run(args: argparse.Namespace) -> int:
    if args.schema:
        from kivel.files.manifest.parsing import schema_text

        print(schema_text(), end="")
        return 0
    if not args.sources:
        raise UsageError("nothing to inspect: give a folder, files, a pattern or a manifest")
    report = Report(args)
    pages = _checked_pages(args)
    broken = [page for page in pages if page.state not in ("as stated", "other pixels")]
    inspection = None if broken else _inspection(args, report, pages)
    tables = _tables(inspection, pages)
    if inspection:
        report.notes(inspection.frames.notes)
    if not args.json and not args.quiet:
        report.tables(tables)
    if args.chart and inspection:
        _draw_chart(args, report, inspection)
    report.document(inspection.document() if inspection else {"pages": [_page(page) for page in pages]})
    return 0 if all(page.state == "as stated" for page in pages) else 1


def _draw_chart(args: argparse.Namespace, report: Report, inspection: Inspection) -> None:
    from kivel.files.png.write import encode_png
    from kivel.views.inspection_chart import draw_inspection

    if inspection.motion is None:
        raise UsageError("--chart needs two frames or more, all of one size")
    target = Path(args.chart)
    with options.output_set(args, with_manifest=False) as out:
        drawn = draw_inspection(inspection, lambda index: inspection.frames.frames[index].load())
        out.add(target, encode_png(drawn, compress="small"))
    report.line("")
    report.written(out.written, {target.name: "chart of changes, seam and mass, 1280x800 px"}, dry_run=False)


def _page(page: PageCheck) -> dict[str, object]:
    return page._asdict() | {"size": list(page.size)}


def _checked_pages(args: argparse.Namespace) -> tuple[PageCheck, ...]:
    """What became of a manifest's pages; nothing for other sources."""
    if len(args.sources) > 1 or not args.sources[0].endswith(".json"):
        return ()
    from kivel.files.manifest.parsing import read_manifest
    from kivel.sequences.inspection import check_pages

    path = Path(args.sources[0])
    return check_pages(read_manifest(path), path, max_pixels=options.source_options(args).max_pixels)


def _inspection(args: argparse.Namespace, report: Report, pages: tuple[PageCheck, ...]) -> Inspection:
    from kivel.sequences.inspection import inspect_frames
    from kivel.sequences.opening import open_sources

    frames = open_sources(args.sources, options.source_options(args, keep_float=True))
    with report.progress("reading frames", len(frames.frames)) as advance:
        return inspect_frames(frames, jobs=options.jobs(args), advance=advance)._replace(pages=pages)


def _tables(inspection: Inspection | None, pages: tuple[PageCheck, ...]) -> list[Table]:
    from kivel.views.inspection_tables import clip_table, group_table, page_table, summary_table

    tables = [summary_table(inspection)] if inspection else []
    if inspection and inspection.clips:
        tables.append(clip_table(inspection.clips))
        groups = inspection.frames.manifest.groups if inspection.frames.manifest else ()
        tables += [group_table(groups)] if groups else []
    if pages:
        tables.append(page_table(pages))
    return tables
