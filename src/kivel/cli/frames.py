"""The text about frames that were written into a folder."""

from __future__ import annotations

from collections.abc import Sequence
from typing import TYPE_CHECKING, Any

from kivel.cli.report import Report, files_as_json
from kivel.core.wording import counted

if TYPE_CHECKING:
    from kivel.core.pixels.pixels import Size
    from kivel.files.manifest.model import Manifest
    from kivel.files.output_set import Written
    from kivel.making.options.groups.output_options import FrameOutputOptions

__all__ = ["frames_document", "frames_line", "report_frames"]


def report_frames(
    report: Report,
    options: FrameOutputOptions,
    manifest: Manifest,
    files: Sequence[Written],
    notes: Sequence[str],
    **more: Any,
) -> None:
    """A line for people, a document for scripts; `more` is added to that."""
    report.line(frames_line(options, manifest, files))
    report.document({**frames_document(manifest, files), **more, "notes": list(notes)})


def frames_line(options: FrameOutputOptions, manifest: Manifest, files: Sequence[Written]) -> str:
    """How many frames of what size went where."""
    names = [page.maps["color"].file for page in manifest.pages]
    sizes = _sizes(manifest)
    span = f"{names[0]} to {names[-1]}" if len(names) > 1 else names[0]
    size = f"{sizes[0]} px" if len(sizes) == 1 else f"{sizes[0]} to {sizes[-1]} px"
    companions = [name for name in manifest.pages[0].maps if name != "color"]
    maps = f" and maps {', '.join(companions)}" if companions else ""
    outcome = _outcome(files, dry_run=options.dry_run)
    return f"{options.out}  {counted(len(names), 'frame')} of {size}: {span}{maps}, with {files[-1].path.name}{outcome}"


def frames_document(manifest: Manifest, files: Sequence[Written]) -> dict[str, Any]:
    """The same for scripts."""
    return {
        "files": files_as_json(files),
        "frames": len(manifest.pages),
        "sizes": [list(each) for each in _sizes(manifest)],
        "clips": [clip.name for clip in manifest.clips],
    }


def _sizes(manifest: Manifest) -> list[Size]:
    return sorted({page.size for page in manifest.pages})


def _outcome(files: Sequence[Written], *, dry_run: bool) -> str:
    """Return what became of all the files, in brackets; nothing when all are new."""
    counts = {name: sum(file.outcome == name for file in files) for name in ("replaced", "unchanged", "removed")}
    parts = [f"{count} {name}" for name, count in counts.items() if count]
    if dry_run:
        parts.append("nothing written: --dry-run")
    return f" ({', '.join(parts)})" if parts else ""
