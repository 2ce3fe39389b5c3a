"""`kivel sheet --into`: frames into the free cells of a sheet that exists."""

from __future__ import annotations

import argparse
from collections.abc import Callable
from pathlib import Path
from typing import TYPE_CHECKING

from kivel.cli import layout, options, playback
from kivel.cli.report import Report, files_as_json
from kivel.core.errors import UsageError

if TYPE_CHECKING:
    from kivel.core.layout.placement import Placement
    from kivel.files.manifest.model import Manifest, MapFile
    from kivel.files.safety import OutputSet
    from kivel.sequences.pairing import MapFrames

_OF_THE_SHEET: dict[str, object] = {
    "out": None, "columns": None, "rows": None, "cell": None, "layout": "grid", "fill": "across", "sequences": "apart",
    "gap": 0, "margin": 0, "skirt": 0, "mip_safe": None, "pow2": False, "square": False, "multiple_of": 1,
    "page_limit": None, "free": False, "row_clips": None, "fold": None, "inbetween": None, "group": [],
}  # fmt: skip
"""Options that the sheet settled when it was made, and what they are when nobody gives them."""


def run(args: argparse.Namespace) -> int:
    _refuse_layout(args)
    from kivel.files.manifest.parsing import read_manifest
    from kivel.files.manifest.text import manifest_text
    from kivel.making.free_cells import added_to, place_in_free_cells, require_same_maps
    from kivel.sequences.clips import clips_of

    report = Report(args)
    path = Path(args.into)
    manifest = read_manifest(path)
    with options.output_set(args) as out:
        args.cell = manifest.grid.cell if manifest.grid else None
        sequences, maps, notes = layout.opened(args, keep_float=False)
        frames, maps, _, scaling = layout.in_one_cell(args, sequences, maps)
        require_same_maps(manifest, maps, path)
        clips = clips_of(sequences, options.timing(args), playback.clip_requests(args))
        placements = place_in_free_cells(frames, manifest, path, options.alignment(args), step=layout.step_of(maps))
        report.notes([*notes, *scaling])
        with report.progress("reading frames", len(frames) * len(maps)) as advance:
            files = _rewritten(args, report, out, manifest, maps, placements, advance=advance)
        result = added_to(manifest, frames, placements, files, clips)
        out.add(path, [manifest_text(result).encode()])
    new = result.frames[len(manifest.frames) :]
    span = f"{len(new)} frames, {len(manifest.frames)}-{len(result.frames) - 1}"
    described = {file.file: f"added {span}" for page in files.values() for file in page.values()}
    described[path.name] = layout.clips_line(result.clips[len(manifest.clips) :])
    report.written(out.written, described, dry_run=args.dry_run)
    report.document(
        {
            "files": files_as_json(out.written),
            "added": [frame.name for frame in new],
            "frames": len(result.frames),
            "clips": [clip.name for clip in result.clips],
            "notes": [*notes, *scaling],
        }
    )
    return 0


def _refuse_layout(args: argparse.Namespace) -> None:
    given = [name for name, default in _OF_THE_SHEET.items() if getattr(args, name) != default]
    if given:
        option = f"--{given[0].replace('_', '-')}"
        raise UsageError(f"{option}: with --into the sheet is written where and as it is; leave it out")


def _rewritten(
    args: argparse.Namespace,
    report: Report,
    out: OutputSet,
    manifest: Manifest,
    maps: list[MapFrames],
    placements: list[Placement],
    *,
    advance: Callable[[], None],
) -> dict[int, dict[str, MapFile]]:
    """The pages that change, written anew; what is on them stays."""
    from kivel.making.free_cells import OldPage
    from kivel.making.pages import PageLook, page_image, whole_frame, write_page

    folder = Path(args.into).parent
    max_pixels = options.source_options(args).max_pixels
    look = PageLook(manifest.grid.skirt if manifest.grid else 0, args.skirt_wrap, args.compress)
    files: dict[int, dict[str, MapFile]] = {}
    for number in sorted({placement.page for placement in placements}):
        on_page = [(index, place) for index, place in enumerate(placements) if place.page == number]
        for one in maps:
            stored = manifest.pages[number].maps[one.name]
            old = OldPage.read(folder / stored.file, one, manifest.pages[number].size, max_pixels=max_pixels)
            of_depth = one._replace(depth=old.image.dtype.itemsize * 8)
            page_image(of_depth, on_page, old.image, look, whole_frame, jobs=options.jobs(args), advance=advance)
            files.setdefault(number, {})[one.name] = write_page(
                out, old.path, old.image, of_depth, stored.ground, args.compress,
                watched=report.watching("writing the sheet"), jobs=options.jobs(args),
            )  # fmt: skip
    return files
