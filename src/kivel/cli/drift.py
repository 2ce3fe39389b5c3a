"""What `kivel drift` says."""

from __future__ import annotations

from typing import TYPE_CHECKING

from kivel.cli.frames import report_frames
from kivel.cli.report import Report

if TYPE_CHECKING:
    from kivel.making.frames.drift import DriftMade
    from kivel.making.options.drift_options import DriftOptions

__all__ = ["EXAMPLES", "show"]

EXAMPLES = """\
examples:
  kivel drift "moss.png scroll=0,1 by=swell.png strength=6 by-scroll=1,0" -o moss-drift/ --count 48
      moss that flows down while a swell runs through it from the left, closed after 48 frames

  kivel drift "moss.png scroll=1,0" "moss.png scroll=-1,0 blend=screen opacity=0.4" -o moss-two/ --count 32 --pixel
      two layers against each other, moved by whole pixels

a tile is written IMAGE scroll=X,Y by=IMAGE strength=PX angle=DEGREES by-scroll=X,Y blend=NAME opacity=N
"""


def show(made: DriftMade, options: DriftOptions, report: Report) -> int:
    from kivel.views.loop_lines import seam_text

    report_frames(report, options, made.manifest, made.files, made.notes, closes=made.closes, seam=made.seam._asdict())
    closes = "is" if made.closes else "is NOT"
    report.line(f"  seam     frame {options.count} {closes} frame 0, bit for bit; {seam_text(made.seam)}")
    return 0
