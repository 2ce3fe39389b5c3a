"""Stack sequences frame by frame, each with a blend, an opacity and an offset."""

from __future__ import annotations

import argparse
from typing import TYPE_CHECKING

from kivel.cli import options
from kivel.cli.report import Report
from kivel.core.errors import located

if TYPE_CHECKING:
    from kivel.making.layering import SequenceLayer
    from kivel.sequences.opening import SourceOptions

_EXAMPLES = """\
examples:
  kivel layer "lantern/lantern_#.png" "lantern/lantern_#_emission.png blend=plus-lighter matte" -o lit/
      a lantern, and its own light, bright on black, added on top

  kivel layer "vane/vane_#.png" "moth/ blend=normal offset=70,8" -o visited/ --frames common
      a moth's five frames over a turntable's 120, repeated until both end together

a layer is written SRC blend=NAME opacity=N offset=X,Y matte; matte is for what is bright on black: cut out first; the
blends are those of W3C Compositing:
  normal, multiply, screen, overlay, darken, lighten, color-dodge, color-burn, hard-light, soft-light, difference,
  exclusion, hue, saturation, color, luminosity, plus-lighter
"""


def _share(text: str) -> float:
    from kivel.core.layers import LAYER

    opacity = next(parameter for parameter in LAYER if parameter.name == "opacity")
    share: float = options.checked(opacity.read)(text)
    return share


def add_arguments(parser: argparse.ArgumentParser) -> None:
    parser.epilog = _EXAMPLES
    parser.add_argument("base", metavar="BASE", help="the sequence at the bottom; the result has its size")
    parser.add_argument("over", nargs="+", metavar="OVER", help='what goes over it: "SRC blend=screen opacity=0.5"')
    group = parser.add_argument_group("frames")
    options.add_range(group)
    group = parser.add_argument_group("stack")
    group.add_argument(
        "--frames",
        choices=("longest", "base", "common"),
        default="longest",
        help="how many: as the longest (default), as the base, or until all end together; shorter ones repeat",
    )
    group.add_argument("--opacity", type=_share, default=1.0, metavar="N", help="of the result, 0 to 1 (default: 1)")
    group.add_argument(
        "--linear", action="store_true", help="blend in linear light (default: on sRGB values, as browsers do)"
    )
    options.add_output_options(parser, "DIR")
    options.add_compress_option(parser)
    options.add_general_options(parser)


def run(args: argparse.Namespace) -> int:
    from kivel.cli.frame_output import write_frames
    from kivel.core.layers import stack_length
    from kivel.making.layering import layered_clips, layered_frames

    report = Report(args)
    settings = options.source_options(args, keep_float=True)
    layers = [_layer(text, f"layer {number}", settings) for number, text in enumerate((args.base, *args.over))]
    count = stack_length([len(layer.frames.frames) for layer in layers], args.frames)
    clips, notes = layered_clips(layers, count)
    write_frames(
        args,
        report,
        layered_frames(layers, count, opacity=args.opacity, linear=args.linear),
        stem=layers[0].frames.stem,
        clips=clips,
        notes=[*(note for layer in layers for note in layer.frames.notes), *notes],
        more=lambda: {"layers": [{"name": layer.frames.stem, "frames": len(layer.frames.frames)} for layer in layers]},
    )
    return 0


def _layer(text: str, where: str, settings: SourceOptions) -> SequenceLayer:
    """A sequence with what is written behind it."""
    from kivel.core.layers import LAYER
    from kivel.core.prepare.written import parse_source
    from kivel.making.layering import SequenceLayer
    from kivel.sequences.opening import open_sources
    from kivel.sequences.sequence import matched

    with located(where):
        source, values = parse_source(text, LAYER)
    frames = matched(open_sources([source], settings), odd_size="pad", align="center")
    return SequenceLayer(frames, values, values.pop("matte"))
