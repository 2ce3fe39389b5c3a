"""Arguments that commands share, and the checks that turn their text into values."""

from __future__ import annotations

import argparse
from collections.abc import Callable
from typing import TYPE_CHECKING, Any, TypeVar

from kivel.core.errors import KivelError

if TYPE_CHECKING:
    from pathlib import Path

    from kivel.core.pixels import Align
    from kivel.core.playback.clip import Timing
    from kivel.files.safety import OutputSet
    from kivel.sequences.opening import SourceOptions

__all__ = [
    "add_compress_option",
    "add_frame_options",
    "add_general_options",
    "add_kind",
    "add_output_options",
    "add_range",
    "add_sources",
    "add_timing_options",
    "alignment",
    "backdrop",
    "cell_size",
    "checked",
    "jobs",
    "lengths",
    "notation",
    "output_set",
    "source_options",
    "timing",
    "whole",
]

Value = TypeVar("Value")

_ALIGNMENTS = ["top-left", "top", "top-right", "left", "center", "right", "bottom-left", "bottom", "bottom-right"]


def checked(read: Callable[[str], Value]) -> Callable[[str], Value]:
    """`read` as an argparse type: its `KivelError` becomes the parser's own message."""

    def convert(text: str) -> Value:
        try:
            return read(text)
        except KivelError as error:
            raise argparse.ArgumentTypeError(str(error)) from error

    return convert


def whole(least: int) -> Callable[[str], int]:
    """A whole number from `least`."""

    def read(text: str) -> int:
        if not (text.isascii() and text.isdigit()) or int(text) < least:
            raise KivelError(f"expected a whole number from {least}, found {text!r}")
        return int(text)

    return checked(read)


def cell_size(text: str) -> tuple[int, int]:
    """`64x32`: width and height in pixels."""
    width, separator, height = text.lower().partition("x")
    if not (separator and width.isdigit() and height.isdigit() and int(width) and int(height)):
        raise argparse.ArgumentTypeError(f"expected WIDTHxHEIGHT in pixels, like 64x64, found {text!r}")
    return int(width), int(height)


def notation(name: str) -> Callable[[str], Any]:
    """A reader of `kivel.core.playback.notation` as an argparse type, loaded when there is something to read."""

    def read(text: str) -> object:
        from kivel.core.playback import notation

        reader: Callable[[str], object] = getattr(notation, name)
        return checked(reader)(text)

    return read


def backdrop(text: str) -> Any:
    """`checker`, `none` or a colour."""
    from kivel.core.compose import parse_backdrop

    return checked(parse_backdrop)(text)


def lengths(text: str) -> tuple[int, int]:
    """`24-48`, or `24` alone: from and to how many frames."""
    first, separator, last = text.partition("-")
    if not (first.isdigit() and (last.isdigit() or not separator) and 2 <= int(first) <= int(last or first)):
        raise argparse.ArgumentTypeError(f"expected MIN-MAX frames from 2 on, like 24-48, found {text!r}")
    return int(first), int(last or first)


def _exposure(text: str) -> float:
    try:
        stops = float(text)
    except ValueError:
        stops = float("nan")
    if not -32 <= stops <= 32:
        raise argparse.ArgumentTypeError(f"expected stops from -32 to 32, like 1.5, found {text!r}")
    return stops


def _number_range(text: str) -> object:
    from kivel.core.numbering import parse_number_range

    return checked(parse_number_range)(text)


def add_general_options(parser: argparse.ArgumentParser) -> None:
    """--json, -q, -v, --jobs, --max-pixels: every command has them."""
    group = parser.add_argument_group("general")
    group.add_argument("--json", action="store_true", help="print the result as one JSON document")
    group.add_argument("-q", "--quiet", action="store_true", help="print errors only")
    group.add_argument("-v", "--verbose", action="store_true", help="show where in Kivel a bug is")
    group.add_argument("--jobs", type=whole(1), metavar="N", help="threads (default: one for each processor)")
    group.add_argument(
        "--max-pixels",
        type=whole(1),
        metavar="N",
        help="refuse images that state more pixels (default: 268435456, a 16384x16384 page)",
    )


def add_output_options(parser: argparse.ArgumentParser, what: str, *, needed: bool = True) -> None:
    """-o, --force, --dry-run."""
    group = parser.add_argument_group("output")
    group.add_argument("-o", "--out", required=needed, metavar=what, help=f"where to write: {what}")
    group.add_argument("--force", action="store_true", help="overwrite files that Kivel did not write")
    group.add_argument("--dry-run", action="store_true", help="say what would be written, and write nothing")


def add_compress_option(parser: argparse.ArgumentParser) -> None:
    """--compress."""
    parser.add_argument(
        "--compress",
        choices=("fast", "small"),
        default="fast",
        help="PNG: fast (default), or small: grey or palette where nothing is lost, and a harder search",
    )


def add_sources(parser: argparse.ArgumentParser, *, needed: bool = True) -> None:
    """SRC."""
    parser.add_argument(
        "sources",
        nargs="+" if needed else "*",
        metavar="SRC",
        help="a folder, files, a pattern in quotes (*, or # for the number), an animated image, or a manifest",
    )


def add_range(group: argparse._ArgumentGroup) -> None:
    """--range, --layers-as, --exposure."""
    group.add_argument("--range", type=_number_range, metavar="A-B", help="only the files with these numbers")
    group.add_argument(
        "--layers-as",
        choices=("layers", "groups"),
        help="what is a frame in OpenRaster: each layer, or each group (default: groups where there are any)",
    )
    group.add_argument(
        "--exposure",
        type=_exposure,
        metavar="STOPS",
        help="OpenEXR to 8-bit sRGB, brightened by so many stops",
    )


def add_frame_options(parser: argparse.ArgumentParser) -> None:
    """SRC and how to make one sequence of it."""
    add_sources(parser)
    group = parser.add_argument_group("frames")
    add_range(group)
    group.add_argument(
        "--odd-size",
        choices=("error", "skip", "pad"),
        default="error",
        help="frames of another size than most: refuse (default), leave out, or pad all to the largest",
    )
    group.add_argument(
        "--align",
        choices=_ALIGNMENTS,
        default="center",
        metavar="PLACE",
        help=f"where a smaller frame lies: {', '.join(_ALIGNMENTS)} (default: center)",
    )


def add_timing_options(parser: argparse.ArgumentParser) -> None:
    """--fps, --hold, --timebase, --repeat."""
    group = parser.add_argument_group("timing")
    rate = group.add_mutually_exclusive_group()
    rate.add_argument(
        "--fps",
        type=notation("parse_rate"),
        metavar="R",
        help="frames a second: 12, 24000/1001 (default: what an animated image states, else 12)",
    )
    rate.add_argument(
        "--hold",
        type=notation("parse_hold"),
        metavar="T",
        help="how long each frame shows: ticks (2) or a time (80ms, 0.5s, 1/12s)",
    )
    group.add_argument(
        "--timebase",
        type=notation("parse_rate"),
        metavar="R",
        help="ticks a second (default: 60 for --hold in ticks)",
    )
    group.add_argument(
        "--repeat", type=notation("parse_repeat"), metavar="N", help="how often it plays: a count or forever (default)"
    )


def add_kind(group: argparse._ArgumentGroup) -> None:
    """--as."""
    group.add_argument(
        "--as",
        dest="kind",
        choices=("color", "mask", "normal", "normal-down"),
        default="color",
        help="what the values mean: color (default); mask: no gamma, alpha apart; normal: vectors, green up; "
        "normal-down: green down",
    )


def source_options(args: argparse.Namespace, *, keep_float: bool = False) -> SourceOptions:
    """How to read sources, from the arguments; `keep_float` for commands that can write float frames."""
    from pathlib import Path

    from kivel.files.images import DEFAULT_MAX_PIXELS
    from kivel.sequences.opening import SourceOptions

    target = Path(args.out) if getattr(args, "out", None) else None
    return SourceOptions(
        args.max_pixels or DEFAULT_MAX_PIXELS,
        getattr(args, "range", None),
        target,
        getattr(args, "layers_as", None),
        getattr(args, "exposure", None),
        keep_float,
    )


def alignment(args: argparse.Namespace) -> Align:
    """--align; the parser has checked it."""
    align: Align = args.align
    return align


def timing(args: argparse.Namespace) -> Timing:
    """How long frames show, from the arguments."""
    from kivel.core.playback.clip import Timing

    return Timing(args.fps, args.hold, args.timebase, args.repeat)


def jobs(args: argparse.Namespace) -> int:
    """How many threads."""
    from kivel.files.threads import default_jobs

    return args.jobs or default_jobs()


def output_set(args: argparse.Namespace, *, with_manifest: bool = True) -> OutputSet:
    """Where a command gathers its files.

    One that writes no manifest beside them replaces nothing of its own accord: a page that a manifest knows is part
    of a sheet.
    """
    from kivel.files.images import DEFAULT_MAX_PIXELS
    from kivel.files.ownership import written_by_kivel
    from kivel.files.safety import OutputSet

    def is_ours(path: Path) -> bool:
        return with_manifest and written_by_kivel(path, max_pixels=args.max_pixels or DEFAULT_MAX_PIXELS)

    return OutputSet(force=args.force, is_ours=is_ours, dry_run=args.dry_run)
