"""Arguments of the commands that lay frames out on pages, and the checks that turn their text into values."""

from __future__ import annotations

import argparse
from collections.abc import Sequence
from typing import TYPE_CHECKING

from kivel.cli import options
from kivel.core.errors import UsageError

if TYPE_CHECKING:
    from kivel.core.layout.page import PageRule
    from kivel.core.layout.spacing import Spacing
    from kivel.core.pixels import Size
    from kivel.core.playback.clip import Clip
    from kivel.core.scaling import Filter
    from kivel.files.images import FrameSource
    from kivel.files.manifest.model import Page
    from kivel.sequences.pairing import MapFrames, MapRequest
    from kivel.sequences.sequence import Frames

__all__ = [
    "add_map_options",
    "add_page_options",
    "add_spacing_options",
    "clips_line",
    "count",
    "described_maps",
    "in_one_cell",
    "map_requests",
    "opened",
    "page_rule",
    "spacing",
    "step_of",
    "target_suffix",
]

_MOST_MIPS = 12
_MAP_OPTIONS = (
    ("--map", "MAP=SRC", "frames of another map in the same layout: emission=glow/ (for each SRC, or one for all)"),
    ("--map-suffix", "MAP=_x", "the map of moth_1.png is moth_1_x.png beside it"),
    ("--map-kind", "MAP=KIND", "color, mask, normal, normal-down or motion (default: by its name, else color)"),
    ("--map-scale", "MAP=1/N", "a smaller map: mask=1/2"),
)


def _mips(text: str) -> int:
    if not (text.isascii() and text.isdigit() and 1 <= int(text) <= _MOST_MIPS):
        raise argparse.ArgumentTypeError(f"expected a number of mip levels from 1 to {_MOST_MIPS}, found {text!r}")
    return int(text)


def _named(text: str) -> tuple[str, str]:
    name, separator, value = text.partition("=")
    if not (separator and value and name and name.replace("-", "").replace("_", "").isalnum()):
        raise argparse.ArgumentTypeError(f"expected MAP=VALUE, like normal=..., found {text!r}")
    if name == "color":
        raise argparse.ArgumentTypeError('"color" is what SRC gives; name another map')
    return name, value


def add_spacing_options(group: argparse._ArgumentGroup, *, gap: int = 0) -> None:
    """--gap, --margin, --skirt, --skirt-wrap, --mip-safe."""
    group.add_argument(
        "--gap", type=options.whole(0), default=gap, metavar="N", help=f"pixels between them (default: {gap})"
    )
    group.add_argument("--margin", type=options.whole(0), default=0, metavar="N", help="pixels around all (default: 0)")
    group.add_argument(
        "--skirt", type=options.whole(0), default=0, metavar="N", help="repeat each frame's edge pixels outward"
    )
    group.add_argument("--skirt-wrap", action="store_true", help="for tiles: the skirt is what follows round the edge")
    group.add_argument(
        "--mip-safe",
        type=_mips,
        metavar="N",
        help="align so that no texel of the first N mip levels mixes two frames",
    )


def add_page_options(parser: argparse.ArgumentParser, *, limit: str) -> argparse._ArgumentGroup:
    """--free, --pow2, --square, --multiple-of, --page-limit."""
    group = parser.add_argument_group("page")
    group.add_argument("--free", action="store_true", help="sides of any length (default)")
    group.add_argument("--pow2", action="store_true", help="sides that are powers of two")
    group.add_argument("--square", action="store_true", help="sides of one length")
    group.add_argument(
        "--multiple-of", type=options.whole(1), default=1, metavar="N", help="sides that are multiples of N"
    )
    group.add_argument("--page-limit", type=options.cell_size, metavar="WxH", help=limit)
    return group


def add_map_options(parser: argparse.ArgumentParser) -> argparse._ArgumentGroup:
    """--map, --map-suffix, --map-kind, --map-scale, --missing-map."""
    group = parser.add_argument_group("companion maps")
    for option, form, text in _MAP_OPTIONS:
        group.add_argument(option, type=_named, action="append", default=[], metavar=form, help=text)
    group.add_argument(
        "--missing-map",
        choices=("error", "neutral"),
        default="error",
        help="what a frame without a frame in a map is: refused (default), or neutral there",
    )
    return group


def spacing(args: argparse.Namespace) -> Spacing:
    """--gap, --margin, --skirt, --mip-safe; and the blocks that smaller maps need."""
    from math import lcm

    from kivel.core.layout.spacing import Spacing

    if args.skirt_wrap and not args.skirt:
        raise UsageError("--skirt-wrap says how, --skirt N how far; pass both")
    parts = lcm(*_parts(args).values()) if args.map_scale else 1
    if args.skirt % parts:
        raise UsageError(f"a skirt of {args.skirt} px does not divide by {parts}, which --map-scale needs")
    return Spacing(args.gap, args.margin, args.skirt, (1 << (args.mip_safe or 0)) * parts)


def page_rule(args: argparse.Namespace, *, default_limit: tuple[int, int] | None = None) -> PageRule:
    """--pow2, --square, --multiple-of, --page-limit."""
    from kivel.core.layout.page import PageRule
    from kivel.core.pixels import Size

    multiple = args.multiple_of
    if args.free and (args.pow2 or args.square or multiple > 1):
        raise UsageError("--free leaves the page's sides free; leave out --pow2, --square and --multiple-of")
    if args.pow2 and multiple & (multiple - 1):
        raise UsageError(f"no power of two is a multiple of {multiple}; leave out --pow2 or --multiple-of")
    limit = args.page_limit or default_limit
    return PageRule(args.pow2, args.square, multiple, Size(*limit) if limit else None)


def map_requests(args: argparse.Namespace) -> list[MapRequest]:
    """The maps asked for, in the order of their names' first mention."""
    from kivel.core.contents import CONTENTS
    from kivel.sequences.pairing import MapRequest

    names = dict.fromkeys(name for name, _ in [*args.map, *args.map_suffix])
    suffixes, kinds, parts = dict(args.map_suffix), dict(args.map_kind), _parts(args)
    for option, given in (("--map-kind", kinds), ("--map-scale", parts)):
        for name in given:
            if name not in names:
                raise UsageError(f"{option} {name}: there is no map {name!r}; give its frames by --map or --map-suffix")
    for name, kind in kinds.items():
        if kind not in CONTENTS:
            raise UsageError(f"--map-kind {name}={kind}: expected {', '.join(CONTENTS)}")
    requests = []
    for name in names:
        sources = tuple(source for other, source in args.map if other == name)
        if sources and name in suffixes:
            raise UsageError(f"map {name}: give --map or --map-suffix, not both")
        content = CONTENTS[kinds[name]] if name in kinds else None
        requests.append(MapRequest(name, sources, suffixes.get(name), content, parts.get(name, 1)))
    return requests


def _parts(args: argparse.Namespace) -> dict[str, int]:
    parts = {}
    for name, text in args.map_scale:
        one, _, number = text.partition("/")
        if one != "1" or not number.isdigit() or not 1 <= int(number) <= 16:
            raise UsageError(f"--map-scale {name}={text}: expected 1/2, 1/3, ... to 1/16")
        parts[name] = int(number)
    return parts


def opened(
    args: argparse.Namespace, *, keep_float: bool, series: bool = False, one_size: bool = True
) -> tuple[list[Frames], list[MapFrames], list[str]]:
    """The sequences, the colour map and its companions, and notes.

    Under `series` a folder may hold several; under `one_size` each sequence is made of one size.
    """
    from kivel.making.sheet_cells import all_frames
    from kivel.sequences.opening import open_sequences
    from kivel.sequences.pairing import base_map
    from kivel.sequences.sequence import matched

    settings = options.source_options(args, keep_float=keep_float)
    settings = settings._replace(companions=tuple(suffix for _, suffix in args.map_suffix), series=series)
    sequences = open_sequences(args.sources, settings)
    if one_size:
        align = options.alignment(args)
        sequences = [matched(sequence, odd_size=args.odd_size, align=align) for sequence in sequences]
    notes = [note for sequence in sequences for note in sequence.notes]
    maps = [base_map(all_frames(sequences))]
    if args.map or args.map_suffix or args.map_kind or args.map_scale:
        from kivel.sequences.pairing import companion_maps

        neutral = args.missing_map == "neutral"
        companions, said = companion_maps(sequences, map_requests(args), settings, neutral=neutral)
        maps += companions
        notes += said
    return sequences, maps, notes + _maps_left(sequences, maps)


def _maps_left(sequences: list[Frames], maps: list[MapFrames]) -> list[str]:
    """The maps that manifests among the sources have, and that nobody asked for."""
    names = {one.name for one in maps}
    notes = []
    for sequence in sequences:
        pages = sequence.manifest.pages if sequence.manifest else ()
        left = sorted({name for page in pages for name in page.maps} - names)
        name = f"{sequence.stem}.kivel.json"
        notes += [f"{name}: its map {one} is left; pass --map {one}={name} to take it along" for one in left]
    return notes


def in_one_cell(
    args: argparse.Namespace, sequences: list[Frames], maps: list[MapFrames]
) -> tuple[list[FrameSource], list[MapFrames], Size, list[str]]:
    """The frames as they lie in cells, scaled where that is asked for; the maps likewise; the cell; and notes."""
    from kivel.core.pixels import Size
    from kivel.making.sheet_cells import all_frames, scaled_to_cell

    frames = list(all_frames(sequences))
    largest = Size(max(frame.size.w for frame in frames), max(frame.size.h for frame in frames))
    cell = Size(*args.cell) if args.cell else largest
    if not args.scale_to_cell:
        sizes = list(dict.fromkeys(sequence.frames[0].size for sequence in sequences))
        notes = [f"frames of {', '.join(map(str, sizes))} px share cells of {cell}"] if len(sizes) > 1 else []
        return frames, maps, cell, notes
    sizes = scaled_to_cell(frames, cell)
    how: Filter | None = "nearest" if args.scale_to_cell == "nearest" else None
    scaled = [frame._replace(size=size) for frame, size in zip(frames, sizes, strict=True)]
    changes = dict.fromkeys(f"{a.size} to {b.size}" for a, b in zip(frames, scaled, strict=True) if a.size != b.size)
    notes = [f"frames scaled to the cell ({args.scale_to_cell}): {', '.join(changes)} px"] if changes else []
    return scaled, [one.resized(sizes, how) for one in maps], cell, notes


def step_of(maps: list[MapFrames]) -> int:
    """What places must divide by for all maps."""
    from math import lcm

    return lcm(*(one.parts for one in maps))


def target_suffix(name: str) -> str:
    """`.png`, or `.exr` for float pages; anything else is refused."""
    for suffix in (".png", ".exr"):
        if name.lower().endswith(suffix):
            return suffix
    raise UsageError(f"expected a name that ends in .png, found {name!r} (.exr for float frames)")


def described_maps(pages: Sequence[Page]) -> dict[str, str]:
    """What is said of each companion map's file."""
    return {
        file.file: f'map "{name}"' + (f", {file.scale} as large" if file.scale else "")
        for page in pages
        for name, file in page.maps.items()
        if name != "color"
    }


def clips_line(clips: tuple[Clip, ...]) -> str:
    """The first clip, and how many there are."""
    from kivel.core.playback.notation import format_repeat, format_seconds

    if not clips:
        return "no clips"
    clip = clips[0]
    more = f", and {count(len(clips) - 1, 'more clip')}" if len(clips) > 1 else ""
    steps = count(len(clip.steps), "step")
    return f'clip "{clip.name}": {steps}, {format_seconds(clip.length)}, {format_repeat(clip.repeat)}{more}'


def count(number: int, thing: str) -> str:
    """`1 cell`, `2 cells`."""
    return f"{number} {thing}" if number == 1 else f"{number} {thing}s"
