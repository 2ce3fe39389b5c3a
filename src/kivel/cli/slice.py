"""What `kivel slice` says."""

from __future__ import annotations

from typing import TYPE_CHECKING

from kivel.cli.frames import report_frames
from kivel.cli.report import Report

if TYPE_CHECKING:
    from kivel.making.slice import SliceMade, SliceOptions

__all__ = ["EXAMPLES", "show"]

EXAMPLES = """\
examples:
  kivel slice moth.kivel.json -o moth-frames/
      every frame of the sheet as its manifest says, with its maps and its timing

  kivel slice beetle.png -o beetle-frames/ --columns 7 --rows 3
      a plain image, 7 columns and 3 rows; the empty cells of its short last row are left out
"""


def show(made: SliceMade, options: SliceOptions, report: Report) -> int:
    report_frames(report, options, made.manifest, made.files, made.notes)
    return 0
