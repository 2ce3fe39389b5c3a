"""Prints the result of `kivel layer`."""

from __future__ import annotations

from typing import TYPE_CHECKING

from kivel.cli.frames import report_frames
from kivel.cli.report import Report

if TYPE_CHECKING:
    from kivel.making.frames.layer import LayerMade
    from kivel.making.options.layer_options import LayerOptions

__all__ = ["show"]


def show(made: LayerMade, options: LayerOptions, report: Report) -> int:
    layers = [layer._asdict() for layer in made.layers]
    report_frames(report, options, made.manifest, made.files, made.notes, layers=layers)
    return 0
