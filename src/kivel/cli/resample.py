"""Prints the result of `kivel resample`."""

from __future__ import annotations

from collections.abc import Sequence
from typing import TYPE_CHECKING

from kivel.cli.frames import report_frames
from kivel.cli.report import Report
from kivel.views.motion_lines import motion_document, motion_lines

if TYPE_CHECKING:
    from kivel.core.resampling import Span
    from kivel.making.frames.resample import ResampleMade
    from kivel.making.options.resample_options import ResampleOptions

__all__ = ["show"]


_SHOWN = 12
"""Mixed frames are many numbers; this many are shown, and all under --json."""


def show(made: ResampleMade, options: ResampleOptions, report: Report) -> int:
    report.line(_taken(made))
    for line in motion_lines(made.motion) if made.motion else ():
        report.line(line)
    taken = [[{"frame": share.frame, "weight": share.weight} for share in span.shares] for span in made.taken]
    more = {"of": len(made.numbers), "taken": taken, **motion_document(made.motion)}
    report_frames(report, options, made.manifest, made.files, made.notes, **more)
    return 0


def _taken(made: ResampleMade) -> str:
    """Which frames, by the numbers in their names if they have any."""
    numbers, spans = made.numbers, made.taken
    every = f"{len(spans)} of {len(numbers)} frames, {numbers[0]}-{numbers[-1]}"
    texts = [_mixed_text(span, numbers) for span in spans]
    if any(len(span.shares) > 1 for span in spans):
        each = sum(len(span.shares) for span in spans) / len(spans)
        shown = texts if len(texts) <= _SHOWN else [*texts[:4], "...", texts[-1]]
        return f"{every}: each averages about {each:.3g} frames: {', '.join(shown)}"
    return f"{every}: {', '.join(texts)}"


def _mixed_text(span: Span, numbers: Sequence[int]) -> str:
    first, last = span.shares[0].frame, span.shares[-1].frame
    return str(numbers[first]) if first == last else f"{numbers[first]}-{numbers[last]}"
