"""What `kivel layer` says."""

from __future__ import annotations

from typing import TYPE_CHECKING

from kivel.cli.frames import report_frames
from kivel.cli.report import Report

if TYPE_CHECKING:
    from kivel.making.frames.layer import LayerMade
    from kivel.making.options.layer_options import LayerOptions

__all__ = ["EXAMPLES", "show"]

EXAMPLES = """\
examples:
  kivel layer "lantern/lantern_#.png" "lantern/lantern_#_emission.png blend=plus-lighter matte" -o lit/
      a lantern, and its own light, bright on black, added on top

  kivel layer "vane/vane_#.png" "moth/ blend=normal offset=70,8" -o visited/ --until common
      a moth's five frames over a turntable's 120, repeated until both end together

a layer is written SRC blend=NAME opacity=N offset=X,Y matte; matte is for what is bright on black: cut out first; the
blends are those of W3C Compositing:
  normal, multiply, screen, overlay, darken, lighten, color-dodge, color-burn, hard-light, soft-light, difference,
  exclusion, hue, saturation, color, luminosity, plus-lighter
"""


def show(made: LayerMade, options: LayerOptions, report: Report) -> int:
    layers = [layer._asdict() for layer in made.layers]
    report_frames(report, options, made.manifest, made.files, made.notes, layers=layers)
    return 0
