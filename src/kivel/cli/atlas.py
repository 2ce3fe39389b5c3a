"""Prints the result of `kivel atlas`."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from kivel.cli.report import Report, clips_line, files_as_json, maps_described
from kivel.core.wording import counted, counted_from_0

if TYPE_CHECKING:
    from kivel.making.atlases.atlas import AtlasFigures, AtlasMade
    from kivel.making.options.atlas_options import AtlasOptions

__all__ = ["show"]


def show(made: AtlasMade, options: AtlasOptions, report: Report) -> int:
    manifest, figures = made.manifest, made.figures
    described = maps_described(manifest)
    for page, stored in zip(figures.pages, manifest.pages, strict=True):
        packed = counted(page.packed, "frame")
        described[stored.maps["color"].file] = f"{page.size} px: {packed} packed, {page.used:.1%} used"
    described[made.files[-1].path.name] = f"{_frames_line(figures)}; {clips_line(manifest.clips)}"
    report.written(made.files, described, dry_run=options.dry_run)
    report.document(
        {
            "files": files_as_json(made.files),
            **_as_json(figures),
            "maps": list(manifest.pages[0].maps),
            "clips": [clip.name for clip in manifest.clips],
            "notes": list(made.notes),
        }
    )
    return 0


def _as_json(figures: AtlasFigures) -> dict[str, Any]:
    plain = {name: value for name, value in figures._asdict().items() if value is not None}
    plain["pages"] = [
        {"size": list(page.size), "packed": page.packed, "used": round(page.used, 4)} for page in figures.pages
    ]
    for name in ("trimmed_share", "share_at_alpha_8"):
        plain[name] = round(plain[name], 4)
    return plain


def _frames_line(figures: AtlasFigures) -> str:
    count = figures.frames
    parts = [counted_from_0(count, "frame")]
    if figures.trimmed_share < 1:
        parts.append(f"trimmed to {figures.trimmed_share:.0%} of {'their' if count > 1 else 'its'} area")
    if figures.shared:
        mirrored = f" ({figures.mirrored} mirrored)" if figures.mirrored else ""
        parts.append(f"{figures.shared} duplicates{mirrored}")
    parts += [f"{number} {what}" for number, what in ((figures.turned, "turned"), (figures.empty, "empty")) if number]
    if figures.outline_unseen is not None and figures.box_unseen is not None:
        parts.append(
            f"transparent pixels inside: outlines {figures.outline_unseen:,.0f}, boxes {figures.box_unseen:,.0f}"
        )
    return ", ".join(parts)
