"""Findings on a map of motion: whether clips can be warped by it, and whether that is better than fading."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from pathlib import Path

import numpy as np

from kivel.core.checks.findings import Finding, Spot
from kivel.core.errors import option
from kivel.core.motion.pairs import why_not_warped
from kivel.core.pixels.pixels import full_scale
from kivel.files.manifest.model import Manifest
from kivel.files.safety import shown
from kivel.sequences.between_frames import motion_map
from kivel.sequences.made_motion import stored_pairs
from kivel.sequences.placed import motion_of_manifest, sequence_of_manifest
from kivel.sequences.settings import SourceSettings

__all__ = ["motion_findings", "unserved_findings"]

_CUT_OFF = 0.01
_WORSE = 1.02
"""Rounded to 8 bits, a motion that does nothing may be off by so much."""


def unserved_findings(manifest: Manifest, path: Path) -> Iterator[Finding]:
    """Clips that are to be warped, and cannot be; a map that none is warped by."""
    file, motion = shown(path), motion_of_manifest(manifest)
    warped = [clip for clip in manifest.clips if clip.interpolation == "motion"]
    for clip in warped:
        reason = why_not_warped(clip, motion)
        if reason:
            fix = f"kivel retime {file} {option('clip', clip.name)} {option('interpolation', 'linear')}"
            yield Finding(
                "motion-unserved", "error", Spot(file, clip=clip.name), None, f"uses motion, but {reason}", fix
            )
    if motion and not warped and manifest.clips:
        text = "no clip uses its motion map"
        fix = f"kivel retime {file} {option('interpolation', 'motion')}"
        yield Finding("motion-unused", "note", Spot(file), None, text, fix)


def motion_findings(
    manifest: Manifest, path: Path, *, max_pixels: int, jobs: int, advance: Callable[[], None]
) -> Iterator[Finding]:
    """Pairs that are better faded, and vectors that are cut off; `advance` is called after each frame."""
    if motion_of_manifest(manifest) is None:
        return
    sequence = sequence_of_manifest(manifest, path, SourceSettings(max_pixels, with_motion=True))
    known = motion_map(sequence.maps)
    if known is None or known.motion is None:
        return
    cut_off = []
    # what a fitted motion rebuilds was seen when it was made; it need not make the two frames meet
    found = stored_pairs(sequence, known, jobs=jobs, advance=advance)
    worse = [(pair.distrust or 0.0, pair.earlier) for pair in found if pair.ratio is None]
    for first, _ in known.motion.pairs:
        codes = known.load(first)
        full = full_scale(codes)
        ends = np.isin(codes[..., :2], (0, 1, full)).any(axis=-1)
        cut_off.append((float(ends.mean()), first))
    where = manifest.pages[0].maps[known.name].file
    for figures, limit, code, text in (
        (cut_off, _CUT_OFF, "motion-cut-off", "of its vectors are at the limit and may be too short"),
        (
            worse,
            _WORSE,
            "motion-worse",
            "of their difference remains when two frames are warped to meet: cross-fading leaves less",
        ),
    ):
        figure, frame = max(figures, default=(0.0, 0))
        if figure > limit:
            spot = Spot(where, map=known.name, frame=manifest.frames[frame].name)
            fix = f"kivel sheet with {option('motion', True)} makes a new one"
            yield Finding(code, "warning", spot, round(figure, 3), f"{figure:.0%} {text}", fix)
