"""Made by `python tests/stubs.py`, from the declarations of options."""

from collections.abc import Callable, Iterable, Mapping, Sequence
from fractions import Fraction
from os import PathLike
from typing import Any, Literal

from numpy.typing import NDArray

from kivel.core.errors import KivelError as KivelError
from kivel.core.errors import UsageError as UsageError
from kivel.files.manifest.model import Manifest as Manifest
from kivel.files.output_set import Written as Written
from kivel.making.atlases.atlas import AtlasMade as AtlasMade
from kivel.making.checking.check import CheckMade as CheckMade
from kivel.making.cutting.handled_sheets import HandledSheets as HandledSheets
from kivel.making.exports.export import ExportMade as ExportMade
from kivel.making.exports.profile import ProfileMade as ProfileMade
from kivel.making.frames.channels import ChannelsMade as ChannelsMade
from kivel.making.frames.layer import LayerMade as LayerMade
from kivel.making.frames.loop import LoopMade as LoopMade
from kivel.making.frames.prep import PrepMade as PrepMade
from kivel.making.frames.resample import ResampleMade as ResampleMade
from kivel.making.frames.scroll import ScrollMade as ScrollMade
from kivel.making.looking.inspect import InspectMade as InspectMade
from kivel.making.looking.preview import PreviewMade as PreviewMade
from kivel.making.playback.retime import RetimeMade as RetimeMade
from kivel.making.playback.timeline import TimelineMade as TimelineMade
from kivel.making.sheets.plan import PlanMade as PlanMade
from kivel.making.sheets.sheet_cells import SheetMade as SheetMade
from kivel.making.work import Cancelled as Cancelled
from kivel.making.work import Note as Note
from kivel.making.work import Progress as Progress
from kivel.recipe.build import BuildError as BuildError
from kivel.recipe.build import BuildMade as BuildMade

__version__: str

__all__ = [
    "__version__",
    "inspect",
    "prep",
    "loop",
    "layer",
    "scroll",
    "channels",
    "resample",
    "plan",
    "sheet",
    "atlas",
    "slice",
    "adopt",
    "again",
    "retime",
    "timeline",
    "export",
    "profile",
    "check",
    "preview",
    "build",
    "BuildError",
    "KivelError",
    "UsageError",
    "Cancelled",
    "Note",
    "Progress",
    "AtlasMade",
    "BuildMade",
    "ChannelsMade",
    "CheckMade",
    "ScrollMade",
    "ExportMade",
    "HandledSheets",
    "InspectMade",
    "LayerMade",
    "LoopMade",
    "Manifest",
    "PlanMade",
    "PrepMade",
    "PreviewMade",
    "ProfileMade",
    "ResampleMade",
    "RetimeMade",
    "SheetMade",
    "TimelineMade",
    "Written",
]

def inspect(
    *sources: str | PathLike[str] | Sequence[str | PathLike[str]],
    fps: float | Fraction | str | None = None,
    frames: Iterable[NDArray[Any]] = ...,
    range: tuple[int, int] | str | None = None,
    series: str | None = None,
    layers_as: Literal['layers', 'groups'] | None = None,
    exposure: float | str | None = None,
    chart: str | PathLike[str] | None = None,
    force: bool | None = False,
    schema: bool | None = False,
    jobs: int | str | None = None,
    max_pixels: int | str | None = None,
    watch: Callable[[Note | Progress], object] | None = None,
) -> InspectMade:
    """Show what is there: frames, gaps, sizes, alpha, timing and memory. For a manifest, also whether its images still
    match.

    Parameters
    ----------
    sources : SRC
        folder, files, "pattern_#.png", animated image or manifest; # is the number, * is anything; quote patterns
    fps : R
        frame rate: 12, 24000/1001; of the source; it goes along, thinned frames hold longer (default: the source's,
        else not stated)
    frames : TEXT
        arrays of images, (height, width, 4), in place of sources
    range : A-B
        only these frames: 20-83 by their numbers, or 1.5s-3s by the time at which they begin
    series : NAME
        which sequence of several in a folder, by name or pattern; of a manifest, which clip
    layers_as : layers|groups
        OpenRaster: each layer is a frame, or each group (default: groups if there are any)
    exposure : STOPS
        convert OpenEXR to 8-bit sRGB, brightened by this many stops
    chart : OUT.png
        draw a chart of the changes between frames, the seam and the path of the centre of mass
    force : bool
        overwrite files that Kivel did not write
    schema : bool
        print the JSON Schema, and nothing else; of manifests
    jobs : N
        number of jobs that run in parallel (default: one per processor)
    max_pixels : N
        refuse images with more pixels (default: 268435456, a 16384x16384 page)
    watch : callable
        is called with each Note and Progress; an exception that it raises stops the work

    Raises
    ------
    KivelError
        If it cannot be done; then nothing is written.
    """

def prep(
    *sources: str | PathLike[str] | Sequence[str | PathLike[str]],
    fps: float | Fraction | str | None = None,
    frames: Iterable[NDArray[Any]] = ...,
    range: tuple[int, int] | str | None = None,
    series: str | None = None,
    layers_as: Literal['layers', 'groups'] | None = None,
    exposure: float | str | None = None,
    as_: Literal['color', 'mask', 'normal', 'normal-down', 'motion'] | None = None,
    step: str | Sequence[str] | None = ...,
    map: str | tuple[str, float | str | PathLike[str]] | Sequence[str | tuple[str, float | str | PathLike[str]]] | Mapping[str, float | str | PathLike[str]] | None = ...,
    map_suffix: str | tuple[str, float | str | PathLike[str]] | Sequence[str | tuple[str, float | str | PathLike[str]]] | Mapping[str, float | str | PathLike[str]] | None = ...,
    map_kind: str | tuple[str, float | str | PathLike[str]] | Sequence[str | tuple[str, float | str | PathLike[str]]] | Mapping[str, float | str | PathLike[str]] | None = ...,
    missing_map: Literal['error', 'neutral'] | None = 'error',
    colors: int | str | None = None,
    palette: str | PathLike[str] | None = None,
    own_colors: bool | None = False,
    dither: Literal['none', 'ordered'] | None = 'none',
    name: str | None = None,
    out: str | PathLike[str] | None = None,
    force: bool | None = False,
    dry_run: bool | None = False,
    compress: Literal['fast', 'small', 'least'] | None = 'fast',
    indexed: Literal['keep', 'never', 'smallest'] | None = 'keep',
    fresh_clips: bool | None = False,
    jobs: int | str | None = None,
    max_pixels: int | str | None = None,
    watch: Callable[[Note | Progress], object] | None = None,
) -> PrepMade:
    """Prepare frames by a chain of steps, in the order given: matte, trim, scale, colour and more.

    Parameters
    ----------
    sources : SRC
        folder, files, "pattern_#.png", animated image or manifest; # is the number, * is anything; quote patterns
    fps : R
        frame rate: 12, 24000/1001; of the source; it goes along, thinned frames hold longer (default: the source's,
        else not stated)
    frames : TEXT
        arrays of images, (height, width, 4), in place of sources
    range : A-B
        only these frames: 20-83 by their numbers, or 1.5s-3s by the time at which they begin
    series : NAME
        which sequence of several in a folder, by name or pattern; of a manifest, which clip
    layers_as : layers|groups
        OpenRaster: each layer is a frame, or each group (default: groups if there are any)
    exposure : STOPS
        convert OpenEXR to 8-bit sRGB, brightened by this many stops
    as_ : color|mask|normal|normal-down|motion
        what the values mean: color, mask, normal, motion; mask: no gamma, separate alpha; normal: green up; normal-
        down: green down (default: the source's, else color)
    step : "NAME ..."
        a step of prep: its name, then its values and key=value; repeat the option for a chain
    map : MAP=SRC
        companion map, laid out alike: emission=glow/; one for each SRC, or one for all
    map_suffix : MAP=_x
        companion map by file name: normal=_n for moth_1_n.png
    map_kind : MAP=KIND
        kind of a map: color, mask, normal, normal-down or motion (default: by its name, else color)
    missing_map : error|neutral
        if a map lacks a frame: error (default), or fill in its neutral value
    colors : N
        at most N colours, alpha included, the same for all frames and pages of a map
    palette : FILE
        use the colours of this file: an image, or lines of #RRGGBB or #RRGGBBAA
    own_colors : bool
        choose the colours among those that the frames have; none is mixed
    dither : none|ordered
        dithering of few colours: none (default), or ordered, a pattern that stays fixed in the cell
    name : NAME
        call the clip NAME; else one sequence's is called after the file or folder made
    out : DIR
        where to write
    force : bool
        overwrite files that Kivel did not write
    dry_run : bool
        print what would be written, and write nothing
    compress : fast|small|least
        PNG: fast (default), small (10% less) or least (20% less); slower; the pixels never change
    indexed : keep|never|smallest
        palette PNG: keep the palette that all frames have, with its order (default); never; or smallest, where that
        makes the file smaller
    fresh_clips : bool
        discard timing, clips and pivots set since the first run
    jobs : N
        number of jobs that run in parallel (default: one per processor)
    max_pixels : N
        refuse images with more pixels (default: 268435456, a 16384x16384 page)
    watch : callable
        is called with each Note and Progress; an exception that it raises stops the work

    Raises
    ------
    KivelError
        If it cannot be done; then nothing is written.
    """

def loop(
    *sources: str | PathLike[str] | Sequence[str | PathLike[str]],
    fps: float | Fraction | str | None = None,
    odd_size: Literal['error', 'skip', 'pad', 'scale'] | None = 'error',
    align: Literal['top-left', 'top', 'top-right', 'left', 'center', 'right', 'bottom-left', 'bottom', 'bottom-right'] | None = 'center',
    frames: Iterable[NDArray[Any]] = ...,
    range: tuple[int, int] | str | None = None,
    series: str | None = None,
    layers_as: Literal['layers', 'groups'] | None = None,
    exposure: float | str | None = None,
    as_: Literal['color', 'mask', 'normal', 'normal-down', 'motion'] | None = None,
    find: tuple[int, int] | str | None = None,
    pick: int | str | None = None,
    close: int | str | None = None,
    no_warp: bool | None = False,
    sides: bool | None = False,
    fade: Literal['linear', 'stored'] | None = 'linear',
    map: str | tuple[str, float | str | PathLike[str]] | Sequence[str | tuple[str, float | str | PathLike[str]]] | Mapping[str, float | str | PathLike[str]] | None = ...,
    map_suffix: str | tuple[str, float | str | PathLike[str]] | Sequence[str | tuple[str, float | str | PathLike[str]]] | Mapping[str, float | str | PathLike[str]] | None = ...,
    map_kind: str | tuple[str, float | str | PathLike[str]] | Sequence[str | tuple[str, float | str | PathLike[str]]] | Mapping[str, float | str | PathLike[str]] | None = ...,
    missing_map: Literal['error', 'neutral'] | None = 'error',
    name: str | None = None,
    out: str | PathLike[str] | None = None,
    force: bool | None = False,
    dry_run: bool | None = False,
    compress: Literal['fast', 'small', 'least'] | None = 'fast',
    indexed: Literal['keep', 'never', 'smallest'] | None = 'keep',
    fresh_clips: bool | None = False,
    jobs: int | str | None = None,
    max_pixels: int | str | None = None,
    watch: Callable[[Note | Progress], object] | None = None,
) -> LoopMade:
    """Check how well a sequence loops, find the part that loops best, or close a loop with a cross-fade.

    Parameters
    ----------
    sources : SRC
        folder, files, "pattern_#.png", animated image or manifest; # is the number, * is anything; quote patterns
    fps : R
        frame rate: 12, 24000/1001; of the source; it goes along, thinned frames hold longer (default: the source's,
        else not stated)
    odd_size : error|skip|pad|scale
        frames of another size: error (default), skip, pad, scale; pad: all to the largest; scale: to the usual size
    align : PLACE
        put frames of different sizes on one canvas, aligned: center, bottom, top-left, ... (default: center)
    frames : TEXT
        arrays of images, (height, width, 4), in place of sources
    range : A-B
        only these frames: 20-83 by their numbers, or 1.5s-3s by the time at which they begin
    series : NAME
        which sequence of several in a folder, by name or pattern; of a manifest, which clip
    layers_as : layers|groups
        OpenRaster: each layer is a frame, or each group (default: groups if there are any)
    exposure : STOPS
        convert OpenEXR to 8-bit sRGB, brightened by this many stops
    as_ : color|mask|normal|normal-down|motion
        what the values mean: color, mask, normal, motion; mask: no gamma, separate alpha; normal: green up; normal-
        down: green down (default: the source's, else color)
    find : MIN-MAX
        rank the windows of MIN to MAX frames that loop best
    pick : RANK
        which of the listed candidates to use (default: 1)
    close : K
        close the loop over K frames and write it: the frames after it (else its last K) blend into its first K
    no_warp : bool
        cross-fade only, never warp frames (default: warp where that is better)
    sides : bool
        frames are tiles: check whether their sides meet
    fade : linear|stored
        cross-fade in linear light (default), or in stored values, for targets that blend bytes
    map : MAP=SRC
        companion map, laid out alike: emission=glow/; one for each SRC, or one for all
    map_suffix : MAP=_x
        companion map by file name: normal=_n for moth_1_n.png
    map_kind : MAP=KIND
        kind of a map: color, mask, normal, normal-down or motion (default: by its name, else color)
    missing_map : error|neutral
        if a map lacks a frame: error (default), or fill in its neutral value
    name : NAME
        call the clip NAME; else one sequence's is called after the file or folder made
    out : DIR
        where to write
    force : bool
        overwrite files that Kivel did not write
    dry_run : bool
        print what would be written, and write nothing
    compress : fast|small|least
        PNG: fast (default), small (10% less) or least (20% less); slower; the pixels never change
    indexed : keep|never|smallest
        palette PNG: keep the palette that all frames have, with its order (default); never; or smallest, where that
        makes the file smaller
    fresh_clips : bool
        discard timing, clips and pivots set since the first run
    jobs : N
        number of jobs that run in parallel (default: one per processor)
    max_pixels : N
        refuse images with more pixels (default: 268435456, a 16384x16384 page)
    watch : callable
        is called with each Note and Progress; an exception that it raises stops the work

    Raises
    ------
    KivelError
        If it cannot be done; then nothing is written.
    """

def layer(
    base: str | PathLike[str] | None,
    /,
    *over: str | PathLike[str] | Sequence[str | PathLike[str]],
    range: tuple[int, int] | str | None = None,
    series: str | None = None,
    layers_as: Literal['layers', 'groups'] | None = None,
    exposure: float | str | None = None,
    until: Literal['longest', 'base', 'common'] | None = 'longest',
    opacity: float | str | None = 1.0,
    linear: bool | None = False,
    map: str | tuple[str, float | str | PathLike[str]] | Sequence[str | tuple[str, float | str | PathLike[str]]] | Mapping[str, float | str | PathLike[str]] | None = ...,
    map_suffix: str | tuple[str, float | str | PathLike[str]] | Sequence[str | tuple[str, float | str | PathLike[str]]] | Mapping[str, float | str | PathLike[str]] | None = ...,
    map_kind: str | tuple[str, float | str | PathLike[str]] | Sequence[str | tuple[str, float | str | PathLike[str]]] | Mapping[str, float | str | PathLike[str]] | None = ...,
    missing_map: Literal['error', 'neutral'] | None = 'error',
    name: str | None = None,
    out: str | PathLike[str] | None = None,
    force: bool | None = False,
    dry_run: bool | None = False,
    compress: Literal['fast', 'small', 'least'] | None = 'fast',
    indexed: Literal['keep', 'never', 'smallest'] | None = 'keep',
    fresh_clips: bool | None = False,
    jobs: int | str | None = None,
    max_pixels: int | str | None = None,
    watch: Callable[[Note | Progress], object] | None = None,
) -> LayerMade:
    """Stack sequences frame by frame, each with a blend mode, an opacity and an offset.

    Parameters
    ----------
    base : BASE
        the bottom sequence; the result has its size
    over : OVER
        layers above it, from the bottom up: "SRC blend=screen opacity=0.5"
    range : A-B
        only these frames: 20-83 by their numbers, or 1.5s-3s by the time at which they begin
    series : NAME
        which sequence of several in a folder, by name or pattern; of a manifest, which clip
    layers_as : layers|groups
        OpenRaster: each layer is a frame, or each group (default: groups if there are any)
    exposure : STOPS
        convert OpenEXR to 8-bit sRGB, brightened by this many stops
    until : longest|base|common
        length of the result: until the longest ends (default), the base ends, or all end together; shorter ones
        repeat
    opacity : N
        opacity of the result, 0 to 1 (default: 1)
    linear : bool
        blend in linear light (default: in sRGB, as browsers do)
    map : MAP=SRC
        companion map, laid out alike: emission=glow/; one for each SRC, or one for all
    map_suffix : MAP=_x
        companion map by file name: normal=_n for moth_1_n.png
    map_kind : MAP=KIND
        kind of a map: color, mask, normal, normal-down or motion (default: by its name, else color)
    missing_map : error|neutral
        if a map lacks a frame: error (default), or fill in its neutral value
    name : NAME
        call the clip NAME; else one sequence's is called after the file or folder made
    out : DIR
        where to write
    force : bool
        overwrite files that Kivel did not write
    dry_run : bool
        print what would be written, and write nothing
    compress : fast|small|least
        PNG: fast (default), small (10% less) or least (20% less); slower; the pixels never change
    indexed : keep|never|smallest
        palette PNG: keep the palette that all frames have, with its order (default); never; or smallest, where that
        makes the file smaller
    fresh_clips : bool
        discard timing, clips and pivots set since the first run
    jobs : N
        number of jobs that run in parallel (default: one per processor)
    max_pixels : N
        refuse images with more pixels (default: 268435456, a 16384x16384 page)
    watch : callable
        is called with each Note and Progress; an exception that it raises stops the work

    Raises
    ------
    KivelError
        If it cannot be done; then nothing is written.
    """

def scroll(
    *tiles: str | PathLike[str] | Sequence[str | PathLike[str]],
    count: int | str | None,
    filter: Literal['nearest', 'smooth'] | None = 'smooth',
    fps: float | Fraction | str | None = None,
    hold: int | Fraction | str | None = None,
    timebase: float | Fraction | str | None = None,
    repeat: int | str | None = None,
    map: str | tuple[str, float | str | PathLike[str]] | Sequence[str | tuple[str, float | str | PathLike[str]]] | Mapping[str, float | str | PathLike[str]] | None = ...,
    map_suffix: str | tuple[str, float | str | PathLike[str]] | Sequence[str | tuple[str, float | str | PathLike[str]]] | Mapping[str, float | str | PathLike[str]] | None = ...,
    map_kind: str | tuple[str, float | str | PathLike[str]] | Sequence[str | tuple[str, float | str | PathLike[str]]] | Mapping[str, float | str | PathLike[str]] | None = ...,
    missing_map: Literal['error', 'neutral'] | None = 'error',
    name: str | None = None,
    out: str | PathLike[str] | None = None,
    force: bool | None = False,
    dry_run: bool | None = False,
    compress: Literal['fast', 'small', 'least'] | None = 'fast',
    indexed: Literal['keep', 'never', 'smallest'] | None = 'keep',
    fresh_clips: bool | None = False,
    jobs: int | str | None = None,
    max_pixels: int | str | None = None,
    watch: Callable[[Note | Progress], object] | None = None,
) -> ScrollMade:
    """Make a looping sequence from tiles that scroll, with a grey image to displace them.

    Parameters
    ----------
    tiles : TILE
        from the bottom up: "IMAGE scroll=1,0 by=..."
    count : N
        number of frames to make
    filter : nearest|smooth
        sampling: nearest for pixel art, or smooth (default: smooth)
    fps : R
        frame rate: 12, 24000/1001; in frames a second (default: the source's, else 12)
    hold : T
        frame duration: ticks (2) or a time (80ms, 0.5s, 1/12s)
    timebase : R
        ticks a second (default: 60 for a hold in ticks)
    repeat : N
        how often it plays: a count, or forever; forever is a loop (default: the source's, else forever)
    map : MAP=SRC
        companion map, laid out alike: emission=glow/; one for each SRC, or one for all
    map_suffix : MAP=_x
        companion map by file name: normal=_n for moth_1_n.png
    map_kind : MAP=KIND
        kind of a map: color, mask, normal, normal-down or motion (default: by its name, else color)
    missing_map : error|neutral
        if a map lacks a frame: error (default), or fill in its neutral value
    name : NAME
        call the clip NAME; else one sequence's is called after the file or folder made
    out : DIR
        where to write
    force : bool
        overwrite files that Kivel did not write
    dry_run : bool
        print what would be written, and write nothing
    compress : fast|small|least
        PNG: fast (default), small (10% less) or least (20% less); slower; the pixels never change
    indexed : keep|never|smallest
        palette PNG: keep the palette that all frames have, with its order (default); never; or smallest, where that
        makes the file smaller
    fresh_clips : bool
        discard timing, clips and pivots set since the first run
    jobs : N
        number of jobs that run in parallel (default: one per processor)
    max_pixels : N
        refuse images with more pixels (default: 268435456, a 16384x16384 page)
    watch : callable
        is called with each Note and Progress; an exception that it raises stops the work

    Raises
    ------
    KivelError
        If it cannot be done; then nothing is written.
    """

def channels(
    *,
    as_: Literal['color', 'mask', 'normal', 'normal-down', 'motion'] | None = None,
    range: tuple[int, int] | str | None = None,
    series: str | None = None,
    layers_as: Literal['layers', 'groups'] | None = None,
    exposure: float | str | None = None,
    red: str | PathLike[str] | float | None = None,
    green: str | PathLike[str] | float | None = None,
    blue: str | PathLike[str] | float | None = None,
    alpha: str | PathLike[str] | float | None = None,
    name: str | None = None,
    out: str | PathLike[str] | None = None,
    force: bool | None = False,
    dry_run: bool | None = False,
    compress: Literal['fast', 'small', 'least'] | None = 'fast',
    indexed: Literal['keep', 'never', 'smallest'] | None = 'keep',
    fresh_clips: bool | None = False,
    jobs: int | str | None = None,
    max_pixels: int | str | None = None,
    watch: Callable[[Note | Progress], object] | None = None,
) -> ChannelsMade:
    """Make one sequence whose red, green, blue and alpha come from several: channel packing.

    Parameters
    ----------
    as_ : color|mask|normal|normal-down|motion
        what the values mean: color, mask, normal, motion; mask: no gamma, separate alpha; normal: green up; normal-
        down: green down (default: color if red, green and blue are one picture's, else mask)
    range : A-B
        only these frames: 20-83 by their numbers, or 1.5s-3s by the time at which they begin
    series : NAME
        which sequence of several in a folder, by name or pattern; of a manifest, which clip
    layers_as : layers|groups
        OpenRaster: each layer is a frame, or each group (default: groups if there are any)
    exposure : STOPS
        convert OpenEXR to 8-bit sRGB, brightened by this many stops
    red : SRC[:CHANNEL]
        source of red: SRC, SRC:brightness (or red, green, blue, alpha), or a number from 0 to 1 (default: 0)
    green : SRC[:CHANNEL]
        source of green (default: 0)
    blue : SRC[:CHANNEL]
        source of blue (default: 0)
    alpha : SRC[:CHANNEL]
        source of alpha: glow/:brightness (default: 1)
    name : NAME
        call the clip NAME; else one sequence's is called after the file or folder made
    out : DIR
        where to write
    force : bool
        overwrite files that Kivel did not write
    dry_run : bool
        print what would be written, and write nothing
    compress : fast|small|least
        PNG: fast (default), small (10% less) or least (20% less); slower; the pixels never change
    indexed : keep|never|smallest
        palette PNG: keep the palette that all frames have, with its order (default); never; or smallest, where that
        makes the file smaller
    fresh_clips : bool
        discard timing, clips and pivots set since the first run
    jobs : N
        number of jobs that run in parallel (default: one per processor)
    max_pixels : N
        refuse images with more pixels (default: 268435456, a 16384x16384 page)
    watch : callable
        is called with each Note and Progress; an exception that it raises stops the work

    Raises
    ------
    KivelError
        If it cannot be done; then nothing is written.
    """

def resample(
    *sources: str | PathLike[str] | Sequence[str | PathLike[str]],
    fps: float | Fraction | str | None = None,
    odd_size: Literal['error', 'skip', 'pad', 'scale'] | None = 'error',
    align: Literal['top-left', 'top', 'top-right', 'left', 'center', 'right', 'bottom-left', 'bottom', 'bottom-right'] | None = 'center',
    frames: Iterable[NDArray[Any]] = ...,
    range: tuple[int, int] | str | None = None,
    series: str | None = None,
    layers_as: Literal['layers', 'groups'] | None = None,
    exposure: float | str | None = None,
    as_: Literal['color', 'mask', 'normal', 'normal-down', 'motion'] | None = None,
    count: int | str | None,
    one_shot: bool | None = False,
    mix: bool | None = False,
    no_warp: bool | None = False,
    pace: str | None = None,
    even: bool | None = False,
    motion: bool | None = False,
    motion_bits: Literal['8', '16'] | None = '8',
    motion_size: Literal['half', 'full'] | None = None,
    tile: bool | None = False,
    fade: Literal['linear', 'stored'] | None = 'linear',
    map: str | tuple[str, float | str | PathLike[str]] | Sequence[str | tuple[str, float | str | PathLike[str]]] | Mapping[str, float | str | PathLike[str]] | None = ...,
    map_suffix: str | tuple[str, float | str | PathLike[str]] | Sequence[str | tuple[str, float | str | PathLike[str]]] | Mapping[str, float | str | PathLike[str]] | None = ...,
    map_kind: str | tuple[str, float | str | PathLike[str]] | Sequence[str | tuple[str, float | str | PathLike[str]]] | Mapping[str, float | str | PathLike[str]] | None = ...,
    missing_map: Literal['error', 'neutral'] | None = 'error',
    name: str | None = None,
    out: str | PathLike[str] | None = None,
    force: bool | None = False,
    dry_run: bool | None = False,
    compress: Literal['fast', 'small', 'least'] | None = 'fast',
    indexed: Literal['keep', 'never', 'smallest'] | None = 'keep',
    fresh_clips: bool | None = False,
    jobs: int | str | None = None,
    max_pixels: int | str | None = None,
    watch: Callable[[Note | Progress], object] | None = None,
) -> ResampleMade:
    """Make fewer or more frames of the same motion, evenly spaced or with easing. The clip keeps its length.

    Parameters
    ----------
    sources : SRC
        folder, files, "pattern_#.png", animated image or manifest; # is the number, * is anything; quote patterns
    fps : R
        frame rate: 12, 24000/1001; of the source; it goes along, thinned frames hold longer (default: the source's,
        else not stated)
    odd_size : error|skip|pad|scale
        frames of another size: error (default), skip, pad, scale; pad: all to the largest; scale: to the usual size
    align : PLACE
        put frames of different sizes on one canvas, aligned: center, bottom, top-left, ... (default: center)
    frames : TEXT
        arrays of images, (height, width, 4), in place of sources
    range : A-B
        only these frames: 20-83 by their numbers, or 1.5s-3s by the time at which they begin
    series : NAME
        which sequence of several in a folder, by name or pattern; of a manifest, which clip
    layers_as : layers|groups
        OpenRaster: each layer is a frame, or each group (default: groups if there are any)
    exposure : STOPS
        convert OpenEXR to 8-bit sRGB, brightened by this many stops
    as_ : color|mask|normal|normal-down|motion
        what the values mean: color, mask, normal, motion; mask: no gamma, separate alpha; normal: green up; normal-
        down: green down (default: the source's, else color)
    count : N
        number of frames to make
    one_shot : bool
        include both ends; by default the result is a loop
    mix : bool
        average frames instead of picking the nearest; in linear light; in-betweens are warped where that is better
    no_warp : bool
        cross-fade only, never warp frames (default: warp where that is better)
    pace : EASING
        easing: ease-in-out, "cubic-bezier(0.3, 0, 0.7, 1)"; a function of CSS
    even : bool
        with motion: keep evenly spaced frames; by default those from which the rest is rebuilt best
    motion : bool
        use a motion map: players warp frames into the next
    motion_bits : 8|16
        bits of the motion map (default: 8, which loses less than 0.1%)
    motion_size : half|full
        size of the motion map: full rebuilds more, and takes four times the memory (default: half; full for frames
        up to 64 px)
    tile : bool
        with motion: frames are tiles, motion wraps around
    fade : linear|stored
        cross-fade in linear light (default), or in stored values, for targets that blend bytes
    map : MAP=SRC
        companion map, laid out alike: emission=glow/; one for each SRC, or one for all
    map_suffix : MAP=_x
        companion map by file name: normal=_n for moth_1_n.png
    map_kind : MAP=KIND
        kind of a map: color, mask, normal, normal-down or motion (default: by its name, else color)
    missing_map : error|neutral
        if a map lacks a frame: error (default), or fill in its neutral value
    name : NAME
        call the clip NAME; else one sequence's is called after the file or folder made
    out : DIR
        where to write
    force : bool
        overwrite files that Kivel did not write
    dry_run : bool
        print what would be written, and write nothing
    compress : fast|small|least
        PNG: fast (default), small (10% less) or least (20% less); slower; the pixels never change
    indexed : keep|never|smallest
        palette PNG: keep the palette that all frames have, with its order (default); never; or smallest, where that
        makes the file smaller
    fresh_clips : bool
        discard timing, clips and pivots set since the first run
    jobs : N
        number of jobs that run in parallel (default: one per processor)
    max_pixels : N
        refuse images with more pixels (default: 268435456, a 16384x16384 page)
    watch : callable
        is called with each Note and Progress; an exception that it raises stops the work

    Raises
    ------
    KivelError
        If it cannot be done; then nothing is written.
    """

def plan(
    *sources: str | PathLike[str] | Sequence[str | PathLike[str]],
    odd_size: Literal['error', 'skip', 'pad', 'scale'] | None = 'error',
    align: Literal['top-left', 'top', 'top-right', 'left', 'center', 'right', 'bottom-left', 'bottom', 'bottom-right'] | None = 'center',
    frames: Iterable[NDArray[Any]] = ...,
    range: tuple[int, int] | str | None = None,
    series: str | None = None,
    layers_as: Literal['layers', 'groups'] | None = None,
    exposure: float | str | None = None,
    cell: tuple[int, int] | str | None = None,
    fit_page: tuple[int, int] | str | None = None,
    divided: bool | None = False,
    motion: bool | None = False,
    error: float | str | None = None,
    one_shot: bool | None = False,
    tile: bool | None = False,
    gap: int | str | None = 0,
    margin: int | str | None = 0,
    skirt: int | str | None = 0,
    skirt_wrap: bool | None = False,
    mip_safe: int | str | None = None,
    pow2: bool | None = False,
    square: bool | None = False,
    multiple_of: int | str | None = 1,
    page_limit: tuple[int, int] | str | None = None,
    jobs: int | str | None = None,
    max_pixels: int | str | None = None,
    watch: Callable[[Note | Progress], object] | None = None,
) -> PlanMade:
    """List the sheet layouts that a sequence could have: columns and rows, size, waste, memory, and what fits a page.

    Parameters
    ----------
    sources : SRC
        folder, files, "pattern_#.png", animated image or manifest; # is the number, * is anything; quote patterns
    odd_size : error|skip|pad|scale
        frames of another size: error (default), skip, pad, scale; pad: all to the largest; scale: to the usual size
    align : PLACE
        put frames of different sizes on one canvas, aligned: center, bottom, top-left, ... (default: center)
    frames : TEXT
        arrays of images, (height, width, 4), in place of sources
    range : A-B
        only these frames: 20-83 by their numbers, or 1.5s-3s by the time at which they begin
    series : NAME
        which sequence of several in a folder, by name or pattern; of a manifest, which clip
    layers_as : layers|groups
        OpenRaster: each layer is a frame, or each group (default: groups if there are any)
    exposure : STOPS
        convert OpenEXR to 8-bit sRGB, brightened by this many stops
    cell : WxH
        cell size in pixels: 64x64 (default: frame size)
    fit_page : WxH
        exactly this page size; frames are scaled down until all fit
    divided : bool
        page is exactly columns x rows of cells, for engines that divide it; pads frames into larger cells
    motion : bool
        use a motion map: players warp frames into the next; lists how few frames are enough
    error : N
        with motion: the fewest frames with an error of at most N (root mean square, of 255)
    one_shot : bool
        include both ends; by default a loop, if it closes
    tile : bool
        with motion: frames are tiles, motion wraps around
    gap : N
        spacing (padding) between frames, in pixels (default: 0)
    margin : N
        border around everything, in pixels (default: 0)
    skirt : N
        extrude edge pixels N times outward, against bleeding
    skirt_wrap : bool
        tiles: fill the skirt from the opposite edge
    mip_safe : N
        align cells so that no texel of the first N mip levels mixes two frames
    pow2 : bool
        page width and height are powers of two
    square : bool
        pages are square
    multiple_of : N
        page width and height are multiples of N
    page_limit : WxH
        largest page, maximum texture size; more frames go on more pages (default: no limit)
    jobs : N
        number of jobs that run in parallel (default: one per processor)
    max_pixels : N
        refuse images with more pixels (default: 268435456, a 16384x16384 page)
    watch : callable
        is called with each Note and Progress; an exception that it raises stops the work

    Raises
    ------
    KivelError
        If it cannot be done; then nothing is written.
    """

def sheet(
    *sources: str | PathLike[str] | Sequence[str | PathLike[str]],
    keep_holes: bool | None = False,
    odd_size: Literal['error', 'skip', 'pad', 'scale'] | None = 'error',
    align: Literal['top-left', 'top', 'top-right', 'left', 'center', 'right', 'bottom-left', 'bottom', 'bottom-right'] | None = 'center',
    frames: Iterable[NDArray[Any]] = ...,
    range: tuple[int, int] | str | None = None,
    series: str | None = None,
    layers_as: Literal['layers', 'groups'] | None = None,
    exposure: float | str | None = None,
    pivot: str | tuple[float, float] | tuple[str, str | tuple[float, float]] | Sequence[str | tuple[float, float] | tuple[str, str | tuple[float, float]]] | Mapping[str, str | tuple[float, float]] | None = ...,
    layout: Literal['grid', 'row', 'column'] | None = 'grid',
    columns: int | str | None = None,
    rows: int | str | None = None,
    fill: Literal['across', 'down'] | None = 'across',
    sequences: Literal['apart', 'joined'] | None = 'apart',
    cell: tuple[int, int] | str | None = None,
    scale_to_cell: Literal['nearest', 'smooth'] | None = None,
    fit_page: tuple[int, int] | str | None = None,
    divided: bool | None = False,
    fit_by: Literal['scale', 'thin'] | None = 'scale',
    into: str | PathLike[str] | None = None,
    fold: Literal['alternate', 'steps'] | Literal[True] | None = None,
    inbetween: int | str | None = None,
    replace: str | tuple[str, float | str | PathLike[str]] | Sequence[str | tuple[str, float | str | PathLike[str]]] | Mapping[str, float | str | PathLike[str]] | None = ...,
    remove: int | str | Sequence[int | str] | None = ...,
    insert: str | tuple[str, float | str | PathLike[str]] | Sequence[str | tuple[str, float | str | PathLike[str]]] | Mapping[str, float | str | PathLike[str]] | None = ...,
    gap: int | str | None = 0,
    margin: int | str | None = 0,
    skirt: int | str | None = 0,
    skirt_wrap: bool | None = False,
    mip_safe: int | str | None = None,
    pow2: bool | None = False,
    square: bool | None = False,
    multiple_of: int | str | None = 1,
    page_limit: tuple[int, int] | str | None = None,
    map_scale: str | tuple[str, float | str | PathLike[str]] | Sequence[str | tuple[str, float | str | PathLike[str]]] | Mapping[str, float | str | PathLike[str]] | None = ...,
    map: str | tuple[str, float | str | PathLike[str]] | Sequence[str | tuple[str, float | str | PathLike[str]]] | Mapping[str, float | str | PathLike[str]] | None = ...,
    map_suffix: str | tuple[str, float | str | PathLike[str]] | Sequence[str | tuple[str, float | str | PathLike[str]]] | Mapping[str, float | str | PathLike[str]] | None = ...,
    map_kind: str | tuple[str, float | str | PathLike[str]] | Sequence[str | tuple[str, float | str | PathLike[str]]] | Mapping[str, float | str | PathLike[str]] | None = ...,
    missing_map: Literal['error', 'neutral'] | None = 'error',
    fps: float | Fraction | str | Mapping[str, float | Fraction | str] | None = ...,
    hold: int | Fraction | str | Mapping[str, int | Fraction | str] | None = ...,
    repeat: int | str | Mapping[str, int | str] | None = ...,
    timebase: float | Fraction | str | None = None,
    order: int | str | Sequence[int | str] | Mapping[str, int | str | Sequence[int | str]] | None = ...,
    holds: int | Fraction | str | Sequence[int | Fraction | str] | Mapping[str, int | Fraction | str | Sequence[int | Fraction | str]] | None = ...,
    length: float | Fraction | str | Mapping[str, float | Fraction | str] | None = ...,
    speed: float | Fraction | str | Mapping[str, float | Fraction | str] | None = ...,
    pace: str | Mapping[str, str] | None = ...,
    convert: bool | None = False,
    direction: Literal['normal', 'reverse', 'alternate', 'alternate-reverse'] | Mapping[str, Literal['normal', 'reverse', 'alternate', 'alternate-reverse']] | None = ...,
    hold_ends: bool | None = None,
    end: Literal['last', 'first', 'none'] | Mapping[str, Literal['last', 'first', 'none']] | None = ...,
    then: str | Mapping[str, str] | None = ...,
    interpolation: Literal['step', 'linear', 'motion'] | Mapping[str, Literal['step', 'linear', 'motion']] | None = ...,
    phase: float | Fraction | str | Mapping[str, float | Fraction | str] | None = ...,
    event: tuple[int, str] | str | Sequence[tuple[int, str] | str] | Mapping[str, tuple[int, str] | str | Sequence[tuple[int, str] | str]] | None = ...,
    no_events: bool | None = False,
    make_clip: str | tuple[str, float | str | PathLike[str]] | Sequence[str | tuple[str, float | str | PathLike[str]]] | Mapping[str, float | str | PathLike[str]] | None = ...,
    clip_per_frame: str | None = None,
    make_group: str | tuple[str, float | str | PathLike[str]] | Sequence[str | tuple[str, float | str | PathLike[str]]] | Mapping[str, float | str | PathLike[str]] | None = ...,
    choose: Literal['all', 'random'] | None = None,
    weight: str | tuple[str, float | str | PathLike[str]] | Sequence[str | tuple[str, float | str | PathLike[str]]] | Mapping[str, float | str | PathLike[str]] | None = ...,
    name: str | None = None,
    colors: int | str | None = None,
    palette: str | PathLike[str] | None = None,
    own_colors: bool | None = False,
    dither: Literal['none', 'ordered'] | None = 'none',
    motion: bool | None = False,
    motion_bits: Literal['8', '16'] | None = '8',
    motion_size: Literal['half', 'full'] | None = None,
    tile: bool | None = False,
    fade: Literal['linear', 'stored'] | None = 'linear',
    row_clips: Sequence[str] | str | None = ...,
    out: str | PathLike[str] | None = None,
    depth: Literal['8', '16', 'half'] | None = None,
    fresh_clips: bool | None = False,
    force: bool | None = False,
    dry_run: bool | None = False,
    compress: Literal['fast', 'small', 'least'] | None = 'fast',
    indexed: Literal['keep', 'never', 'smallest'] | None = 'keep',
    jobs: int | str | None = None,
    max_pixels: int | str | None = None,
    watch: Callable[[Note | Progress], object] | None = None,
) -> SheetMade:
    """Put frames on sheets of equal cells: a flipbook, a grid or a strip. The manifest says where each frame is and
    how
    it plays.

    Parameters
    ----------
    sources : SRC
        folder, files, "pattern_#.png", animated image or manifest; # is the number, * is anything; quote patterns
    keep_holes : bool
        leave an empty cell, and its time, where a frame was removed
    odd_size : error|skip|pad|scale
        frames of another size: error (default), skip, pad, scale; pad: all to the largest; scale: to the usual size
    align : PLACE
        put frames of different sizes on one canvas, aligned: center, bottom, top-left, ... (default: center)
    frames : TEXT
        arrays of images, (height, width, 4), in place of sources
    range : A-B
        only these frames: 20-83 by their numbers, or 1.5s-3s by the time at which they begin
    series : NAME
        which sequence of several in a folder, by name or pattern; of a manifest, which clip
    layers_as : layers|groups
        OpenRaster: each layer is a frame, or each group (default: groups if there are any)
    exposure : STOPS
        convert OpenEXR to 8-bit sRGB, brightened by this many stops
    pivot : PLACE|X,Y|mass
        pivot (anchor): bottom, mass, or 16,30 from the top left; "walk*=bottom" for one series (many)
    layout : grid|row|column
        a grid, one row or one column (default: grid)
    columns : N
        number of columns (default: the most compact sheet)
    rows : N
        number of rows (default: as many as needed)
    fill : across|down
        order of the frames: row by row (across) or column by column (down) (default: across)
    sequences : apart|joined
        several SRC: each begins a new row (apart, default), or all run on (joined)
    cell : WxH
        cell size in pixels: 64x64 (default: frame size)
    scale_to_cell : nearest|smooth
        scale frames to the cell, keeping their aspect ratio; nearest for pixel art
    fit_page : WxH
        exactly this page size; frames are scaled down until all fit
    divided : bool
        page is exactly columns x rows of cells, for engines that divide it; pads frames into larger cells
    fit_by : scale|thin
        how to fit the page: scale frames down (default), or thin them: keep their size and skip frames evenly
    into : OLD.kivel.json
        add the frames to the free cells of this sheet; nothing else moves
    fold : alternate|steps
        merge duplicate frames, proved to play the same; a mirrored half becomes ping-pong (alternate, default), or
        plain steps
    inbetween : N
        add N blended frames between neighbours, for targets that cannot interpolate
    replace : FRAME=FILE
        replace a frame of a sheet, by name or number, or one of its maps: 7=new.png, 7:normal=n.png (many)
    remove : FRAME
        remove a frame from a sheet, by name or number (many)
    insert : FRAME=FILE
        insert a picture before a frame, with the hold of the frame before: 7=new.png (many)
    gap : N
        spacing (padding) between frames, in pixels (default: 0)
    margin : N
        border around everything, in pixels (default: 0)
    skirt : N
        extrude edge pixels N times outward, against bleeding
    skirt_wrap : bool
        tiles: fill the skirt from the opposite edge
    mip_safe : N
        align cells so that no texel of the first N mip levels mixes two frames
    pow2 : bool
        page width and height are powers of two
    square : bool
        pages are square
    multiple_of : N
        page width and height are multiples of N
    page_limit : WxH
        largest page, maximum texture size; more frames go on more pages (default: no limit)
    map_scale : MAP=1/N
        store a map smaller: mask=1/2
    map : MAP=SRC
        companion map, laid out alike: emission=glow/; one for each SRC, or one for all
    map_suffix : MAP=_x
        companion map by file name: normal=_n for moth_1_n.png
    map_kind : MAP=KIND
        kind of a map: color, mask, normal, normal-down or motion (default: by its name, else color)
    missing_map : error|neutral
        if a map lacks a frame: error (default), or fill in its neutral value
    fps : R
        frame rate: 12, 24000/1001; in frames a second; walk:8 for one clip (default: the source's, else 12)
    hold : T
        frame duration: ticks (2) or a time (80ms, 0.5s, 1/12s)
    repeat : N
        how often it plays: a count, or forever; forever is a loop (default: the source's, else forever)
    timebase : R
        ticks a second (default: 60 for a hold in ticks)
    order : FRAMES
        frames to show, from 0, in order: 0-7,6-1 or 0-3*2; *N holds them N times as long; walk:0-3 is for one clip
    holds : LIST
        frame duration of each step: 4,2,2,8 or 80ms*3,1s
    length : T
        duration of one cycle: 1.5s; holds change in proportion
    speed : N
        playback speed: 2, 1/2
    pace : EASING
        easing: ease-in-out, "cubic-bezier(0.3, 0, 0.7, 1)"; a function of CSS; the total stays
    convert : bool
        round holds that do not fit the timebase; rounding errors do not add up
    direction : normal|reverse|alternate|alternate-reverse
        normal, reverse or alternate (ping-pong); alternate goes there and back, and shows each end once
    hold_ends : bool
        with alternate (ping-pong), show both ends twice
    end : last|first|none
        what stays at the end: last frame, first frame or none
    then : NAME
        clip that follows when this one ends; after an endless clip, when that is left
    interpolation : step|linear|motion
        step, linear (cross-fade) or motion (warp); into the next frame
    phase : P
        start of the clip: 3 (steps), 25%, 0.5s or 12t (ticks); a share stays a share when holds change
    event : STEP:NAME
        add an event at the start of a step: 3:chirp (many)
    no_events : bool
        remove all events
    make_clip : NAME=FRAMES
        make a clip of frames, by number or name: peck=4-9, walk=walk_*, all=hen:4-9,saw; hen:4-9 are those of the
        sequence hen (many)
    clip_per_frame : NAME
        make a clip of each frame, for stills that a game picks: moon makes moon-0, moon-1, ...
    make_group : NAME=CLIPS
        make a group of clips by pattern: row=lantern-* (many)
    choose : all|random
        use all clips of a group (default), or a random one; each instance picks
    weight : CLIPS=N
        chance of a clip in a random group, against 1 for the others: lamp-3=2 (many)
    name : NAME
        call the clip NAME; else one sequence's is called after the file or folder made
    colors : N
        at most N colours, alpha included, the same for all frames and pages of a map
    palette : FILE
        use the colours of this file: an image, or lines of #RRGGBB or #RRGGBBAA
    own_colors : bool
        choose the colours among those that the frames have; none is mixed
    dither : none|ordered
        dithering of few colours: none (default), or ordered, a pattern that stays fixed in the cell
    motion : bool
        use a motion map: players warp frames into the next
    motion_bits : 8|16
        bits of the motion map (default: 8, which loses less than 0.1%)
    motion_size : half|full
        size of the motion map: full rebuilds more, and takes four times the memory (default: half; full for frames
        up to 64 px)
    tile : bool
        with motion: frames are tiles, motion wraps around
    fade : linear|stored
        cross-fade in linear light (default), or in stored values, for targets that blend bytes
    row_clips : A,B,C
        one clip for each row: walk,run,rest
    out : NAME.png
        where to write
    depth : 8|16|half
        bits a channel of pages: 8 or 16 for PNG; half for .exr (default: as deep as the frames)
    fresh_clips : bool
        discard timing, clips and pivots set since the first run
    force : bool
        overwrite files that Kivel did not write
    dry_run : bool
        print what would be written, and write nothing
    compress : fast|small|least
        PNG: fast (default), small (10% less) or least (20% less); slower; the pixels never change
    indexed : keep|never|smallest
        palette PNG: keep the palette that all frames have, with its order (default); never; or smallest, where that
        makes the file smaller
    jobs : N
        number of jobs that run in parallel (default: one per processor)
    max_pixels : N
        refuse images with more pixels (default: 268435456, a 16384x16384 page)
    watch : callable
        is called with each Note and Progress; an exception that it raises stops the work

    Raises
    ------
    KivelError
        If it cannot be done; then nothing is written.
    """

def atlas(
    *sources: str | PathLike[str] | Sequence[str | PathLike[str]],
    align: Literal['top-left', 'top', 'top-right', 'left', 'center', 'right', 'bottom-left', 'bottom', 'bottom-right'] | None = 'center',
    frames: Iterable[NDArray[Any]] = ...,
    range: tuple[int, int] | str | None = None,
    series: str | None = None,
    layers_as: Literal['layers', 'groups'] | None = None,
    exposure: float | str | None = None,
    pivot: str | tuple[float, float] | tuple[str, str | tuple[float, float]] | Sequence[str | tuple[float, float] | tuple[str, str | tuple[float, float]]] | Mapping[str, str | tuple[float, float]] | None = ...,
    turn: bool | None = False,
    gap: int | str | None = 1,
    margin: int | str | None = 0,
    skirt: int | str | None = 0,
    skirt_wrap: bool | None = False,
    mip_safe: int | str | None = None,
    effort: Literal['quick', 'normal', 'high'] | None = 'normal',
    page_limit: tuple[int, int] | str | None = None,
    pages: Literal['fill', 'balance', 'together'] | None = 'fill',
    trim_by: Literal['all', 'color'] | None = 'all',
    no_trim: bool | None = False,
    visible_above: int | str | None = 0,
    keep_hidden: bool | None = False,
    ignore_hidden: bool | None = False,
    share_flips: bool | None = False,
    outline: int | str | None = 0,
    outline_of: Literal['frame', 'clip'] | None = 'frame',
    pow2: bool | None = False,
    square: bool | None = False,
    multiple_of: int | str | None = 1,
    map_scale: str | tuple[str, float | str | PathLike[str]] | Sequence[str | tuple[str, float | str | PathLike[str]]] | Mapping[str, float | str | PathLike[str]] | None = ...,
    map: str | tuple[str, float | str | PathLike[str]] | Sequence[str | tuple[str, float | str | PathLike[str]]] | Mapping[str, float | str | PathLike[str]] | None = ...,
    map_suffix: str | tuple[str, float | str | PathLike[str]] | Sequence[str | tuple[str, float | str | PathLike[str]]] | Mapping[str, float | str | PathLike[str]] | None = ...,
    map_kind: str | tuple[str, float | str | PathLike[str]] | Sequence[str | tuple[str, float | str | PathLike[str]]] | Mapping[str, float | str | PathLike[str]] | None = ...,
    missing_map: Literal['error', 'neutral'] | None = 'error',
    fps: float | Fraction | str | Mapping[str, float | Fraction | str] | None = ...,
    hold: int | Fraction | str | Mapping[str, int | Fraction | str] | None = ...,
    repeat: int | str | Mapping[str, int | str] | None = ...,
    timebase: float | Fraction | str | None = None,
    order: int | str | Sequence[int | str] | Mapping[str, int | str | Sequence[int | str]] | None = ...,
    holds: int | Fraction | str | Sequence[int | Fraction | str] | Mapping[str, int | Fraction | str | Sequence[int | Fraction | str]] | None = ...,
    length: float | Fraction | str | Mapping[str, float | Fraction | str] | None = ...,
    speed: float | Fraction | str | Mapping[str, float | Fraction | str] | None = ...,
    pace: str | Mapping[str, str] | None = ...,
    convert: bool | None = False,
    direction: Literal['normal', 'reverse', 'alternate', 'alternate-reverse'] | Mapping[str, Literal['normal', 'reverse', 'alternate', 'alternate-reverse']] | None = ...,
    hold_ends: bool | None = None,
    end: Literal['last', 'first', 'none'] | Mapping[str, Literal['last', 'first', 'none']] | None = ...,
    then: str | Mapping[str, str] | None = ...,
    interpolation: Literal['step', 'linear', 'motion'] | Mapping[str, Literal['step', 'linear', 'motion']] | None = ...,
    phase: float | Fraction | str | Mapping[str, float | Fraction | str] | None = ...,
    event: tuple[int, str] | str | Sequence[tuple[int, str] | str] | Mapping[str, tuple[int, str] | str | Sequence[tuple[int, str] | str]] | None = ...,
    no_events: bool | None = False,
    make_clip: str | tuple[str, float | str | PathLike[str]] | Sequence[str | tuple[str, float | str | PathLike[str]]] | Mapping[str, float | str | PathLike[str]] | None = ...,
    clip_per_frame: str | None = None,
    make_group: str | tuple[str, float | str | PathLike[str]] | Sequence[str | tuple[str, float | str | PathLike[str]]] | Mapping[str, float | str | PathLike[str]] | None = ...,
    choose: Literal['all', 'random'] | None = None,
    weight: str | tuple[str, float | str | PathLike[str]] | Sequence[str | tuple[str, float | str | PathLike[str]]] | Mapping[str, float | str | PathLike[str]] | None = ...,
    name: str | None = None,
    colors: int | str | None = None,
    palette: str | PathLike[str] | None = None,
    own_colors: bool | None = False,
    dither: Literal['none', 'ordered'] | None = 'none',
    out: str | PathLike[str] | None = None,
    depth: Literal['8', '16', 'half'] | None = None,
    fresh_clips: bool | None = False,
    force: bool | None = False,
    dry_run: bool | None = False,
    compress: Literal['fast', 'small', 'least'] | None = 'fast',
    indexed: Literal['keep', 'never', 'smallest'] | None = 'keep',
    jobs: int | str | None = None,
    max_pixels: int | str | None = None,
    watch: Callable[[Note | Progress], object] | None = None,
) -> AtlasMade:
    """Trim frames of any size and pack them tight on pages. The manifest puts every frame back where it was.

    Parameters
    ----------
    sources : SRC
        folder, files, "pattern_#.png", animated image or manifest; # is the number, * is anything; quote patterns
    align : PLACE
        put frames of different sizes on one canvas, aligned: center, bottom, top-left, ... (default: each keeps its
        own canvas)
    frames : TEXT
        arrays of images, (height, width, 4), in place of sources
    range : A-B
        only these frames: 20-83 by their numbers, or 1.5s-3s by the time at which they begin
    series : NAME
        which sequence of several in a folder, by name or pattern; of a manifest, which clip
    layers_as : layers|groups
        OpenRaster: each layer is a frame, or each group (default: groups if there are any)
    exposure : STOPS
        convert OpenEXR to 8-bit sRGB, brightened by this many stops
    pivot : PLACE|X,Y|mass
        pivot (anchor): bottom, mass, or 16,30 from the top left; "walk*=bottom" for one series (many)
    turn : bool
        allow frames to be rotated by 90 degrees
    gap : N
        spacing (padding) between frames, in pixels (default: 1)
    margin : N
        border around everything, in pixels (default: 0)
    skirt : N
        extrude edge pixels N times outward, against bleeding
    skirt_wrap : bool
        tiles: fill the skirt from the opposite edge
    mip_safe : N
        align cells so that no texel of the first N mip levels mixes two frames
    effort : quick|normal|high
        how many packings to try; the result is the same on every machine (default: normal)
    page_limit : WxH
        largest page, maximum texture size; more frames go on more pages (default: 4096x4096)
    pages : fill|balance|together
        several pages: fill one after the other (default), balance them, or keep a folder's frames together
    trim_by : all|color
        trim to the box of all maps together (default), or of color
    no_trim : bool
        pack whole frames, without trimming
    visible_above : N
        pixels are visible if their alpha is above N, of 255; fainter ones outside the rest are trimmed off
        (default: 0)
    keep_hidden : bool
        keep all colour under alpha 0 (boxes grow to hold it)
    ignore_hidden : bool
        treat frames as duplicates if they differ only in colour under alpha 0
    share_flips : bool
        store mirrored frames once; the manifest says which are flipped
    outline : N
        add a convex outline of up to N points around what is visible
    outline_of : frame|clip
        one outline for each frame (default), or one around all frames of a clip
    pow2 : bool
        page width and height are powers of two
    square : bool
        pages are square
    multiple_of : N
        page width and height are multiples of N
    map_scale : MAP=1/N
        store a map smaller: mask=1/2
    map : MAP=SRC
        companion map, laid out alike: emission=glow/; one for each SRC, or one for all
    map_suffix : MAP=_x
        companion map by file name: normal=_n for moth_1_n.png
    map_kind : MAP=KIND
        kind of a map: color, mask, normal, normal-down or motion (default: by its name, else color)
    missing_map : error|neutral
        if a map lacks a frame: error (default), or fill in its neutral value
    fps : R
        frame rate: 12, 24000/1001; in frames a second; walk:8 for one clip (default: the source's, else 12)
    hold : T
        frame duration: ticks (2) or a time (80ms, 0.5s, 1/12s)
    repeat : N
        how often it plays: a count, or forever; forever is a loop (default: the source's, else forever)
    timebase : R
        ticks a second (default: 60 for a hold in ticks)
    order : FRAMES
        frames to show, from 0, in order: 0-7,6-1 or 0-3*2; *N holds them N times as long; walk:0-3 is for one clip
    holds : LIST
        frame duration of each step: 4,2,2,8 or 80ms*3,1s
    length : T
        duration of one cycle: 1.5s; holds change in proportion
    speed : N
        playback speed: 2, 1/2
    pace : EASING
        easing: ease-in-out, "cubic-bezier(0.3, 0, 0.7, 1)"; a function of CSS; the total stays
    convert : bool
        round holds that do not fit the timebase; rounding errors do not add up
    direction : normal|reverse|alternate|alternate-reverse
        normal, reverse or alternate (ping-pong); alternate goes there and back, and shows each end once
    hold_ends : bool
        with alternate (ping-pong), show both ends twice
    end : last|first|none
        what stays at the end: last frame, first frame or none
    then : NAME
        clip that follows when this one ends; after an endless clip, when that is left
    interpolation : step|linear|motion
        step, linear (cross-fade) or motion (warp); into the next frame
    phase : P
        start of the clip: 3 (steps), 25%, 0.5s or 12t (ticks); a share stays a share when holds change
    event : STEP:NAME
        add an event at the start of a step: 3:chirp (many)
    no_events : bool
        remove all events
    make_clip : NAME=FRAMES
        make a clip of frames, by number or name: peck=4-9, walk=walk_*, all=hen:4-9,saw; hen:4-9 are those of the
        sequence hen (many)
    clip_per_frame : NAME
        make a clip of each frame, for stills that a game picks: moon makes moon-0, moon-1, ...
    make_group : NAME=CLIPS
        make a group of clips by pattern: row=lantern-* (many)
    choose : all|random
        use all clips of a group (default), or a random one; each instance picks
    weight : CLIPS=N
        chance of a clip in a random group, against 1 for the others: lamp-3=2 (many)
    name : NAME
        call the clip NAME; else one sequence's is called after the file or folder made
    colors : N
        at most N colours, alpha included, the same for all frames and pages of a map
    palette : FILE
        use the colours of this file: an image, or lines of #RRGGBB or #RRGGBBAA
    own_colors : bool
        choose the colours among those that the frames have; none is mixed
    dither : none|ordered
        dithering of few colours: none (default), or ordered, a pattern that stays fixed in the cell
    out : NAME.png
        where to write
    depth : 8|16|half
        bits a channel of pages: 8 or 16 for PNG; half for .exr (default: as deep as the frames)
    fresh_clips : bool
        discard timing, clips and pivots set since the first run
    force : bool
        overwrite files that Kivel did not write
    dry_run : bool
        print what would be written, and write nothing
    compress : fast|small|least
        PNG: fast (default), small (10% less) or least (20% less); slower; the pixels never change
    indexed : keep|never|smallest
        palette PNG: keep the palette that all frames have, with its order (default); never; or smallest, where that
        makes the file smaller
    jobs : N
        number of jobs that run in parallel (default: one per processor)
    max_pixels : N
        refuse images with more pixels (default: 268435456, a 16384x16384 page)
    watch : callable
        is called with each Note and Progress; an exception that it raises stops the work

    Raises
    ------
    KivelError
        If it cannot be done; then nothing is written.
    """

def slice(
    *sources: str | PathLike[str] | Sequence[str | PathLike[str]],
    show: str | None = 'color',
    steady: Literal['nearest', 'smooth'] | Literal[True] | None = None,
    pivot: str | tuple[float, float] | tuple[str, str | tuple[float, float]] | Sequence[str | tuple[float, float] | tuple[str, str | tuple[float, float]]] | Mapping[str, str | tuple[float, float]] | None = ...,
    fps: float | Fraction | str | Mapping[str, float | Fraction | str] | None = ...,
    hold: int | Fraction | str | Mapping[str, int | Fraction | str] | None = ...,
    repeat: int | str | Mapping[str, int | str] | None = ...,
    timebase: float | Fraction | str | None = None,
    order: int | str | Sequence[int | str] | Mapping[str, int | str | Sequence[int | str]] | None = ...,
    holds: int | Fraction | str | Sequence[int | Fraction | str] | Mapping[str, int | Fraction | str | Sequence[int | Fraction | str]] | None = ...,
    length: float | Fraction | str | Mapping[str, float | Fraction | str] | None = ...,
    speed: float | Fraction | str | Mapping[str, float | Fraction | str] | None = ...,
    pace: str | Mapping[str, str] | None = ...,
    convert: bool | None = False,
    direction: Literal['normal', 'reverse', 'alternate', 'alternate-reverse'] | Mapping[str, Literal['normal', 'reverse', 'alternate', 'alternate-reverse']] | None = ...,
    hold_ends: bool | None = None,
    end: Literal['last', 'first', 'none'] | Mapping[str, Literal['last', 'first', 'none']] | None = ...,
    then: str | Mapping[str, str] | None = ...,
    interpolation: Literal['step', 'linear', 'motion'] | Mapping[str, Literal['step', 'linear', 'motion']] | None = ...,
    phase: float | Fraction | str | Mapping[str, float | Fraction | str] | None = ...,
    event: tuple[int, str] | str | Sequence[tuple[int, str] | str] | Mapping[str, tuple[int, str] | str | Sequence[tuple[int, str] | str]] | None = ...,
    no_events: bool | None = False,
    row_clips: Sequence[str] | str | None = ...,
    map: str | tuple[str, float | str | PathLike[str]] | Sequence[str | tuple[str, float | str | PathLike[str]]] | Mapping[str, float | str | PathLike[str]] | None = ...,
    map_suffix: str | tuple[str, float | str | PathLike[str]] | Sequence[str | tuple[str, float | str | PathLike[str]]] | Mapping[str, float | str | PathLike[str]] | None = ...,
    map_kind: str | tuple[str, float | str | PathLike[str]] | Sequence[str | tuple[str, float | str | PathLike[str]]] | Mapping[str, float | str | PathLike[str]] | None = ...,
    missing_map: Literal['error', 'neutral'] | None = 'error',
    columns: int | str | None = None,
    rows: int | str | None = None,
    cell: tuple[float, float] | str | None = None,
    gap: float | tuple[float, float] | str | None = None,
    margin: float | tuple[float, float] | str | None = None,
    at: tuple[float, float] | str | None = None,
    fill: Literal['across', 'down'] | None = 'across',
    grid: str | Sequence[str] | None = ...,
    like: str | PathLike[str] | None = None,
    islands: bool | None = False,
    join: int | str | None = 0,
    least: int | str | None = 1,
    visible_above: int | str | None = None,
    align: Literal['top-left', 'top', 'top-right', 'left', 'center', 'right', 'bottom-left', 'bottom', 'bottom-right'] | None = None,
    regions: str | PathLike[str] | None = None,
    find_again: bool | None = False,
    find_new: bool | None = False,
    as_written: bool | None = False,
    save_regions: str | PathLike[str] | None = None,
    key: str | None = 'find',
    empty: Literal['drop-last', 'drop-row-ends', 'drop', 'keep'] | None = 'drop-last',
    pick: int | str | None = None,
    name: str | None = None,
    look: str | PathLike[str] | None = None,
    out: str | PathLike[str] | None = None,
    force: bool | None = False,
    dry_run: bool | None = False,
    compress: Literal['fast', 'small', 'least'] | None = 'fast',
    indexed: Literal['keep', 'never', 'smallest'] | None = 'keep',
    fresh_clips: bool | None = False,
    jobs: int | str | None = None,
    max_pixels: int | str | None = None,
    watch: Callable[[Note | Progress], object] | None = None,
) -> HandledSheets:
    """Take sheets apart into frames: by their manifest, by a grid that is given or found, or by separate shapes.

    Parameters
    ----------
    sources : IMAGE-or-MANIFEST
        sheets, or the .kivel.json beside one
    show : MAP
        which map to use: color, emission, ...; of a manifest (default: all of them)
    steady : nearest|smooth
        cancel the jitter of each row: nearest by whole pixels, smooth by parts of pixels
    pivot : PLACE|X,Y|mass
        pivot (anchor): bottom, mass, or 16,30 from the top left; "walk*=bottom" for one series (many)
    fps : R
        frame rate: 12, 24000/1001; in frames a second; walk:8 for one clip (default: the source's, else 12)
    hold : T
        frame duration: ticks (2) or a time (80ms, 0.5s, 1/12s)
    repeat : N
        how often it plays: a count, or forever; forever is a loop (default: the source's, else forever)
    timebase : R
        ticks a second (default: 60 for a hold in ticks)
    order : FRAMES
        frames to show, from 0, in order: 0-7,6-1 or 0-3*2; *N holds them N times as long; walk:0-3 is for one clip
    holds : LIST
        frame duration of each step: 4,2,2,8 or 80ms*3,1s
    length : T
        duration of one cycle: 1.5s; holds change in proportion
    speed : N
        playback speed: 2, 1/2
    pace : EASING
        easing: ease-in-out, "cubic-bezier(0.3, 0, 0.7, 1)"; a function of CSS; the total stays
    convert : bool
        round holds that do not fit the timebase; rounding errors do not add up
    direction : normal|reverse|alternate|alternate-reverse
        normal, reverse or alternate (ping-pong); alternate goes there and back, and shows each end once
    hold_ends : bool
        with alternate (ping-pong), show both ends twice
    end : last|first|none
        what stays at the end: last frame, first frame or none
    then : NAME
        clip that follows when this one ends; after an endless clip, when that is left
    interpolation : step|linear|motion
        step, linear (cross-fade) or motion (warp); into the next frame
    phase : P
        start of the clip: 3 (steps), 25%, 0.5s or 12t (ticks); a share stays a share when holds change
    event : STEP:NAME
        add an event at the start of a step: 3:chirp (many)
    no_events : bool
        remove all events
    row_clips : A,B,C
        one clip for each row: walk,run,rest
    map : MAP=SRC
        companion map, laid out alike: emission=glow/; one for each SRC, or one for all
    map_suffix : MAP=_x
        companion map by file name: normal=_n for moth_1_n.png
    map_kind : MAP=KIND
        kind of a map: color, mask, normal, normal-down or motion (default: by its name, else color)
    missing_map : error|neutral
        if a map lacks a frame: error (default), or fill in its neutral value
    columns : N
        number of columns; without rows or a cell size, cells are square
    rows : N
        number of rows; without columns or a cell size, cells are square
    cell : WxH
        cell size in pixels: 64x64; may be fractional on a scaled sheet: 35/2x18
    gap : N|XxY
        spacing (padding) between frames, in pixels; 2x0 for across and down (default: 0)
    margin : N|XxY
        border around everything, in pixels; 1x0 for left and top (default: 0)
    at : X,Y
        top left corner of the first cell: 8,4; pixels left over at the other end are noted (default: 0,0)
    fill : across|down
        order of the frames: row by row (across) or column by column (down) (default: across)
    grid : GRID
        one of several grids in the picture: "at=1,1 cell=96x48 gap=1 columns=5 rows=8" (many)
    like : OTHER.kivel.json
        cut it like another sheet; same places, names and clips
    islands : bool
        no grid: each separate shape is a frame
    join : N
        merge parts with at most N empty pixels between them
    least : AREA
        skip islands of fewer pixels
    visible_above : ALPHA
        pixels are visible if their alpha is above N, of 255; fainter ones separate islands (default: 7)
    align : PLACE
        put frames of different sizes on one canvas, aligned: center, bottom, top-left, ... (default: each keeps its
        own box)
    regions : NAME.regions.toml
        cut the named rectangles of a regions file
    find_again : bool
        find regions that moved or grew in a changed picture, and update the regions file
    find_new : bool
        with find-again, also take shapes that no region is for, and add them to the file
    as_written : bool
        cut regions at the places in the file, even if the picture has changed there
    save_regions : NAME.regions.toml
        write the found regions to a file for editing; without -o, nothing else
    key : #RRGGBB|corner|none
        background colour to make transparent; corner: that of the top left pixel (default: found)
    empty : drop-last|drop-row-ends|drop|keep
        which transparent cells to skip; drop-last: at the end; drop-row-ends: at the end of each row; drop: all;
        keep: none (default: drop-last; with row clips drop-row-ends)
    pick : N
        which of the listed candidates to use; if it was not sure how to divide the picture
    name : NAME
        call the clip NAME; else one sequence's is called after the file or folder made
    look : OUT.png
        draw the likeliest divisions over the picture
    out : DIR
        where to write
    force : bool
        overwrite files that Kivel did not write
    dry_run : bool
        print what would be written, and write nothing
    compress : fast|small|least
        PNG: fast (default), small (10% less) or least (20% less); slower; the pixels never change
    indexed : keep|never|smallest
        palette PNG: keep the palette that all frames have, with its order (default); never; or smallest, where that
        makes the file smaller
    fresh_clips : bool
        discard timing, clips and pivots set since the first run
    jobs : N
        number of jobs that run in parallel (default: one per processor)
    max_pixels : N
        refuse images with more pixels (default: 268435456, a 16384x16384 page)
    watch : callable
        is called with each Note and Progress; an exception that it raises stops the work

    Raises
    ------
    KivelError
        If it cannot be done; then nothing is written.
    """

def adopt(
    *sources: str | PathLike[str] | Sequence[str | PathLike[str]],
    names: str | None = None,
    pivot: str | tuple[float, float] | tuple[str, str | tuple[float, float]] | Sequence[str | tuple[float, float] | tuple[str, str | tuple[float, float]]] | Mapping[str, str | tuple[float, float]] | None = ...,
    fps: float | Fraction | str | Mapping[str, float | Fraction | str] | None = ...,
    hold: int | Fraction | str | Mapping[str, int | Fraction | str] | None = ...,
    repeat: int | str | Mapping[str, int | str] | None = ...,
    timebase: float | Fraction | str | None = None,
    order: int | str | Sequence[int | str] | Mapping[str, int | str | Sequence[int | str]] | None = ...,
    holds: int | Fraction | str | Sequence[int | Fraction | str] | Mapping[str, int | Fraction | str | Sequence[int | Fraction | str]] | None = ...,
    length: float | Fraction | str | Mapping[str, float | Fraction | str] | None = ...,
    speed: float | Fraction | str | Mapping[str, float | Fraction | str] | None = ...,
    pace: str | Mapping[str, str] | None = ...,
    convert: bool | None = False,
    direction: Literal['normal', 'reverse', 'alternate', 'alternate-reverse'] | Mapping[str, Literal['normal', 'reverse', 'alternate', 'alternate-reverse']] | None = ...,
    hold_ends: bool | None = None,
    end: Literal['last', 'first', 'none'] | Mapping[str, Literal['last', 'first', 'none']] | None = ...,
    then: str | Mapping[str, str] | None = ...,
    interpolation: Literal['step', 'linear', 'motion'] | Mapping[str, Literal['step', 'linear', 'motion']] | None = ...,
    phase: float | Fraction | str | Mapping[str, float | Fraction | str] | None = ...,
    event: tuple[int, str] | str | Sequence[tuple[int, str] | str] | Mapping[str, tuple[int, str] | str | Sequence[tuple[int, str] | str]] | None = ...,
    no_events: bool | None = False,
    row_clips: Sequence[str] | str | None = ...,
    map: str | tuple[str, float | str | PathLike[str]] | Sequence[str | tuple[str, float | str | PathLike[str]]] | Mapping[str, float | str | PathLike[str]] | None = ...,
    map_suffix: str | tuple[str, float | str | PathLike[str]] | Sequence[str | tuple[str, float | str | PathLike[str]]] | Mapping[str, float | str | PathLike[str]] | None = ...,
    map_kind: str | tuple[str, float | str | PathLike[str]] | Sequence[str | tuple[str, float | str | PathLike[str]]] | Mapping[str, float | str | PathLike[str]] | None = ...,
    missing_map: Literal['error', 'neutral'] | None = 'error',
    columns: int | str | None = None,
    rows: int | str | None = None,
    cell: tuple[float, float] | str | None = None,
    gap: float | tuple[float, float] | str | None = None,
    margin: float | tuple[float, float] | str | None = None,
    at: tuple[float, float] | str | None = None,
    fill: Literal['across', 'down'] | None = 'across',
    grid: str | Sequence[str] | None = ...,
    like: str | PathLike[str] | None = None,
    islands: bool | None = False,
    join: int | str | None = 0,
    least: int | str | None = 1,
    visible_above: int | str | None = None,
    align: Literal['top-left', 'top', 'top-right', 'left', 'center', 'right', 'bottom-left', 'bottom', 'bottom-right'] | None = None,
    regions: str | PathLike[str] | None = None,
    find_again: bool | None = False,
    find_new: bool | None = False,
    as_written: bool | None = False,
    save_regions: str | PathLike[str] | None = None,
    key: str | None = 'find',
    empty: Literal['drop-last', 'drop-row-ends', 'drop', 'keep'] | None = 'drop-last',
    pick: int | str | None = None,
    make_clip: str | tuple[str, float | str | PathLike[str]] | Sequence[str | tuple[str, float | str | PathLike[str]]] | Mapping[str, float | str | PathLike[str]] | None = ...,
    clip_per_frame: str | None = None,
    make_group: str | tuple[str, float | str | PathLike[str]] | Sequence[str | tuple[str, float | str | PathLike[str]]] | Mapping[str, float | str | PathLike[str]] | None = ...,
    choose: Literal['all', 'random'] | None = None,
    weight: str | tuple[str, float | str | PathLike[str]] | Sequence[str | tuple[str, float | str | PathLike[str]]] | Mapping[str, float | str | PathLike[str]] | None = ...,
    name: str | None = None,
    out: str | PathLike[str] | None = None,
    look: str | PathLike[str] | None = None,
    force: bool | None = False,
    dry_run: bool | None = False,
    fresh_clips: bool | None = False,
    jobs: int | str | None = None,
    max_pixels: int | str | None = None,
    watch: Callable[[Note | Progress], object] | None = None,
) -> HandledSheets:
    """Describe an existing sheet, or a folder of frames, in a manifest. No pixel moves.

    Parameters
    ----------
    sources : IMAGE
        sheets, or folders of frames
    names : PATTERN
        frame names: "walk_{row}_{column}"; also {number}, {name} of the picture, {clip} of the row; they count from
        0 (default: {name}_{number:04})
    pivot : PLACE|X,Y|mass
        pivot (anchor): bottom, mass, or 16,30 from the top left; "walk*=bottom" for one series (many)
    fps : R
        frame rate: 12, 24000/1001; in frames a second; walk:8 for one clip (default: the source's, else 12)
    hold : T
        frame duration: ticks (2) or a time (80ms, 0.5s, 1/12s)
    repeat : N
        how often it plays: a count, or forever; forever is a loop (default: the source's, else forever)
    timebase : R
        ticks a second (default: 60 for a hold in ticks)
    order : FRAMES
        frames to show, from 0, in order: 0-7,6-1 or 0-3*2; *N holds them N times as long; walk:0-3 is for one clip
    holds : LIST
        frame duration of each step: 4,2,2,8 or 80ms*3,1s
    length : T
        duration of one cycle: 1.5s; holds change in proportion
    speed : N
        playback speed: 2, 1/2
    pace : EASING
        easing: ease-in-out, "cubic-bezier(0.3, 0, 0.7, 1)"; a function of CSS; the total stays
    convert : bool
        round holds that do not fit the timebase; rounding errors do not add up
    direction : normal|reverse|alternate|alternate-reverse
        normal, reverse or alternate (ping-pong); alternate goes there and back, and shows each end once
    hold_ends : bool
        with alternate (ping-pong), show both ends twice
    end : last|first|none
        what stays at the end: last frame, first frame or none
    then : NAME
        clip that follows when this one ends; after an endless clip, when that is left
    interpolation : step|linear|motion
        step, linear (cross-fade) or motion (warp); into the next frame
    phase : P
        start of the clip: 3 (steps), 25%, 0.5s or 12t (ticks); a share stays a share when holds change
    event : STEP:NAME
        add an event at the start of a step: 3:chirp (many)
    no_events : bool
        remove all events
    row_clips : A,B,C
        one clip for each row: walk,run,rest
    map : MAP=SRC
        companion map, laid out alike: emission=glow/; one for each SRC, or one for all
    map_suffix : MAP=_x
        companion map by file name: normal=_n for moth_1_n.png
    map_kind : MAP=KIND
        kind of a map: color, mask, normal, normal-down or motion (default: by its name, else color)
    missing_map : error|neutral
        if a map lacks a frame: error (default), or fill in its neutral value
    columns : N
        number of columns; without rows or a cell size, cells are square
    rows : N
        number of rows; without columns or a cell size, cells are square
    cell : WxH
        cell size in pixels: 64x64; may be fractional on a scaled sheet: 35/2x18
    gap : N|XxY
        spacing (padding) between frames, in pixels; 2x0 for across and down (default: 0)
    margin : N|XxY
        border around everything, in pixels; 1x0 for left and top (default: 0)
    at : X,Y
        top left corner of the first cell: 8,4; pixels left over at the other end are noted (default: 0,0)
    fill : across|down
        order of the frames: row by row (across) or column by column (down) (default: across)
    grid : GRID
        one of several grids in the picture: "at=1,1 cell=96x48 gap=1 columns=5 rows=8" (many)
    like : OTHER.kivel.json
        cut it like another sheet; same places, names and clips
    islands : bool
        no grid: each separate shape is a frame
    join : N
        merge parts with at most N empty pixels between them
    least : AREA
        skip islands of fewer pixels
    visible_above : ALPHA
        pixels are visible if their alpha is above N, of 255; fainter ones separate islands (default: 7)
    align : PLACE
        put frames of different sizes on one canvas, aligned: center, bottom, top-left, ... (default: each keeps its
        own box)
    regions : NAME.regions.toml
        cut the named rectangles of a regions file
    find_again : bool
        find regions that moved or grew in a changed picture, and update the regions file
    find_new : bool
        with find-again, also take shapes that no region is for, and add them to the file
    as_written : bool
        cut regions at the places in the file, even if the picture has changed there
    save_regions : NAME.regions.toml
        write the found regions to a file for editing; without -o, nothing else
    key : #RRGGBB|corner|none
        background colour to make transparent; corner: that of the top left pixel (default: found)
    empty : drop-last|drop-row-ends|drop|keep
        which transparent cells to skip; drop-last: at the end; drop-row-ends: at the end of each row; drop: all;
        keep: none (default: drop-last; with row clips drop-row-ends)
    pick : N
        which of the listed candidates to use; if it was not sure how to divide the picture
    make_clip : NAME=FRAMES
        make a clip of frames, by number or name: peck=4-9, walk=walk_*, all=hen:4-9,saw; hen:4-9 are those of the
        sequence hen (many)
    clip_per_frame : NAME
        make a clip of each frame, for stills that a game picks: moon makes moon-0, moon-1, ...
    make_group : NAME=CLIPS
        make a group of clips by pattern: row=lantern-* (many)
    choose : all|random
        use all clips of a group (default), or a random one; each instance picks
    weight : CLIPS=N
        chance of a clip in a random group, against 1 for the others: lamp-3=2 (many)
    name : NAME
        call the clip NAME; else one sequence's is called after the file or folder made
    out : NAME.kivel.json
        where to write (default: beside each picture; one for all puts them together)
    look : OUT.png
        draw the likeliest divisions over the picture
    force : bool
        overwrite files that Kivel did not write
    dry_run : bool
        print what would be written, and write nothing
    fresh_clips : bool
        discard timing, clips and pivots set since the first run
    jobs : N
        number of jobs that run in parallel (default: one per processor)
    max_pixels : N
        refuse images with more pixels (default: 268435456, a 16384x16384 page)
    watch : callable
        is called with each Note and Progress; an exception that it raises stops the work

    Raises
    ------
    KivelError
        If it cannot be done; then nothing is written.
    """

def again(target: str | PathLike[str], /, *, watch: Callable[[Note | Progress], object] | None = None, **options: Any) -> Any:
    """Do what made a manifest once more, with the frames that are there now; return what its command does.

    Parameters
    ----------
    target : path
        NAME.kivel.json, an image that it is of, or a folder of frames that Kivel wrote.
    watch : callable
        Is called with each Note and Progress; what it raises stops the work.
    options
        Of the command that made it, in place of its own.

    Raises
    ------
    KivelError
        If it cannot be done; then nothing is written.
    """

def retime(
    manifest: str | PathLike[str] | None,
    /,
    *,
    pivot: str | tuple[float, float] | tuple[str, str | tuple[float, float]] | Sequence[str | tuple[float, float] | tuple[str, str | tuple[float, float]]] | Mapping[str, str | tuple[float, float]] | None = ...,
    new: str | None = None,
    rename: str | None = None,
    remove: bool | None = False,
    row_clips: Sequence[str] | str | None = ...,
    make_group: str | tuple[str, float | str | PathLike[str]] | Sequence[str | tuple[str, float | str | PathLike[str]]] | Mapping[str, float | str | PathLike[str]] | None = ...,
    choose: Literal['all', 'random'] | None = None,
    stagger: int | str | None = None,
    stagger_seed: int | str | None = None,
    clip: str | Sequence[str] | None = ...,
    order: int | str | Sequence[int | str] | Mapping[str, int | str | Sequence[int | str]] | None = ...,
    fps: float | Fraction | str | Mapping[str, float | Fraction | str] | None = ...,
    hold: int | Fraction | str | Mapping[str, int | Fraction | str] | None = ...,
    holds: int | Fraction | str | Sequence[int | Fraction | str] | Mapping[str, int | Fraction | str | Sequence[int | Fraction | str]] | None = ...,
    length: float | Fraction | str | Mapping[str, float | Fraction | str] | None = ...,
    speed: float | Fraction | str | Mapping[str, float | Fraction | str] | None = ...,
    pace: str | Mapping[str, str] | None = ...,
    timebase: float | Fraction | str | None = None,
    convert: bool | None = False,
    direction: Literal['normal', 'reverse', 'alternate', 'alternate-reverse'] | Mapping[str, Literal['normal', 'reverse', 'alternate', 'alternate-reverse']] | None = ...,
    hold_ends: bool | None = None,
    repeat: int | str | Mapping[str, int | str] | None = ...,
    end: Literal['last', 'first', 'none'] | Mapping[str, Literal['last', 'first', 'none']] | None = ...,
    then: str | Mapping[str, str] | None = ...,
    interpolation: Literal['step', 'linear', 'motion'] | Mapping[str, Literal['step', 'linear', 'motion']] | None = ...,
    phase: float | Fraction | str | Mapping[str, float | Fraction | str] | None = ...,
    event: tuple[int, str] | str | Sequence[tuple[int, str] | str] | Mapping[str, tuple[int, str] | str | Sequence[tuple[int, str] | str]] | None = ...,
    no_events: bool | None = False,
    weight: str | tuple[str, float | str | PathLike[str]] | Sequence[str | tuple[str, float | str | PathLike[str]]] | Mapping[str, float | str | PathLike[str]] | None = ...,
    dry_run: bool | None = False,
    jobs: int | str | None = None,
    max_pixels: int | str | None = None,
    watch: Callable[[Note | Progress], object] | None = None,
) -> RetimeMade:
    """Change how the clips of a manifest play: frame rate, holds, order, direction, repeat, phase, easing, events.

    Parameters
    ----------
    manifest : MANIFEST
        NAME.kivel.json; it is changed in place
    pivot : PLACE|X,Y|mass
        pivot (anchor): bottom, mass, or 16,30 from the top left; "walk*=bottom" for one series (many)
    new : NAME
        change a copy with this name, and keep the clip
    rename : NAME
        rename the clip
    remove : bool
        remove the chosen clips
    row_clips : A,B,C
        one clip for each row: walk,run,rest
    make_group : NAME=CLIPS
        make a group of clips by pattern: row=lantern-* (many)
    choose : all|random
        use all clips of a group (default), or a random one; each instance picks
    stagger : N
        add N copies of the clip at evenly spread phases
    stagger_seed : SEED
        spread the phases of the copies at random, from this seed
    clip : NAME
        choose clips by name or pattern (many) (default: all clips)
    order : FRAMES
        frames to show, from 0, in order: 0-7,6-1 or 0-3*2; *N holds them N times as long; walk:0-3 is for one clip
    fps : R
        frame rate: 12, 24000/1001; in frames a second; sets every hold
    hold : T
        frame duration: ticks (2) or a time (80ms, 0.5s, 1/12s); sets every hold
    holds : LIST
        frame duration of each step: 4,2,2,8 or 80ms*3,1s
    length : T
        duration of one cycle: 1.5s; holds change in proportion
    speed : N
        playback speed: 2, 1/2
    pace : EASING
        easing: ease-in-out, "cubic-bezier(0.3, 0, 0.7, 1)"; a function of CSS; the total stays
    timebase : R
        ticks a second; times stay the same
    convert : bool
        round holds that do not fit the timebase; rounding errors do not add up
    direction : normal|reverse|alternate|alternate-reverse
        normal, reverse or alternate (ping-pong); alternate goes there and back, and shows each end once
    hold_ends : bool
        with alternate (ping-pong), show both ends twice
    repeat : N
        how often it plays: a count, or forever; forever is a loop
    end : last|first|none
        what stays at the end: last frame, first frame or none
    then : NAME
        clip that follows when this one ends; after an endless clip, when that is left
    interpolation : step|linear|motion
        step, linear (cross-fade) or motion (warp); into the next frame
    phase : P
        start of the clip: 3 (steps), 25%, 0.5s or 12t (ticks); a share stays a share when holds change
    event : STEP:NAME
        add an event at the start of a step: 3:chirp (many)
    no_events : bool
        remove all events
    weight : CLIPS=N
        chance of a clip in a random group, against 1 for the others: lamp-3=2 (many)
    dry_run : bool
        print what would be written, and write nothing
    jobs : N
        number of jobs that run in parallel (default: one per processor)
    max_pixels : N
        refuse images with more pixels (default: 268435456, a 16384x16384 page)
    watch : callable
        is called with each Note and Progress; an exception that it raises stops the work

    Raises
    ------
    KivelError
        If it cannot be done; then nothing is written.
    """

def timeline(
    manifest: str | PathLike[str] | None,
    /,
    *,
    clip: str | Sequence[str] | None = ...,
    group: str | None = None,
    instances: int | str | None = 1,
    seed: int | str | None = 0,
    random_phase: bool | None = False,
    speed: float | Fraction | str | None = ...,
    for_: float | Fraction | str | None = None,
    leave_at: float | Fraction | str | None = None,
    at: float | Fraction | str | Sequence[float | Fraction | str] | None = ...,
    clock: float | Fraction | str | None = None,
    manual: bool | None = False,
    format: Literal['table', 'csv', 'json-lines'] | None = 'table',
    jobs: int | str | None = None,
    max_pixels: int | str | None = None,
    watch: Callable[[Note | Progress], object] | None = None,
) -> TimelineMade:
    """List which frame shows at what time, with events, cycles and ends: over a span, at moments, or on a game's
    clock.

    Parameters
    ----------
    manifest : MANIFEST
        NAME.kivel.json
    clip : NAME
        choose clips by name or pattern (many) (default: all clips)
    group : NAME
        clips of a group; in a random group, each instance picks one
    instances : N
        number of instances that play (default: 1)
    seed : N
        seed of everything random (default: 0)
    random_phase : bool
        start each instance at a random tick
    speed : N
        playback speed: 2, 1/2
    for_ : T
        how much time to list: 2s, 500ms, 1h (default: a finite clip to its end, others for one cycle)
    leave_at : T
        leave an endless clip at this time, and go on with the clip that follows
    at : T
        list what shows at this time (many)
    clock : R
        the target's clock, R ticks a second; lists what each rendered frame shows
    manual : bool
        step manually: one step for each line of standard input
    format : table|csv|json-lines
        output format; csv and json-lines have exact times (default: table)
    jobs : N
        number of jobs that run in parallel (default: one per processor)
    max_pixels : N
        refuse images with more pixels (default: 268435456, a 16384x16384 page)
    watch : callable
        is called with each Note and Progress; an exception that it raises stops the work

    Raises
    ------
    KivelError
        If it cannot be done; then nothing is written.
    """

def export(
    *manifests: str | PathLike[str] | Sequence[str | PathLike[str]],
    to: Literal['table', 'css', 'svg', 'shader', 'gltf', 'ktx2', 'vtt'] | Sequence[Literal['table', 'css', 'svg', 'shader', 'gltf', 'ktx2', 'vtt']] | None = ...,
    show: str | None = 'color',
    page: int | str | None = None,
    origin: Literal['top', 'bottom'] | None = 'top',
    filter: Literal['nearest', 'smooth'] | None = None,
    alpha: Literal['opaque', 'mask', 'blend'] | None = None,
    outline: int | str | None = 0,
    pixel_format: Literal['rgba8', 'bc1', 'bc3', 'bc7', 'etc2', 'astc-4x4', 'astc-6x6', 'rgba16f', 'rgb9e5', 'astc-hdr-4x4', 'astc-hdr-6x6'] | None = 'rgba8',
    layers: Literal['steps', 'frames'] | None = None,
    levels: int | str | None = None,
    half_texel: bool | None = False,
    clock: float | Fraction | str | None = None,
    strict: bool | None = False,
    list: bool | None = False,
    profile: str | PathLike[str] | None = None,
    diff: bool | None = False,
    prune: bool | None = False,
    clip: str | Sequence[str] | None = ...,
    out: str | PathLike[str] | None = None,
    force: bool | None = False,
    dry_run: bool | None = False,
    jobs: int | str | None = None,
    max_pixels: int | str | None = None,
    watch: Callable[[Note | Progress], object] | None = None,
) -> ExportMade:
    """Write what a manifest says for other programs: rectangles and times, CSS, SVG, shaders, glTF, KTX 2.0, WebVTT,
    or
    a pack.

    Parameters
    ----------
    manifests : MANIFEST
        NAME.kivel.json
    to : table|css|svg|shader|gltf|ktx2|vtt
        what to export to (many) (default: from the suffix of OUT, else table)
    show : MAP
        which map to use: color, emission, ...; of a manifest (default: color)
    page : N
        export only this page; its frames are numbered from 0 (default: all pages)
    origin : top|bottom
        corner where texture coordinates begin (default: top)
    filter : nearest|smooth
        sampling: nearest for pixel art, or smooth; for the program that shows the pixels (default: nearest up to
        128 px a side, else smooth)
    alpha : opaque|mask|blend
        gltf: ignore alpha, cut it off at a half (alpha test), or blend (default: as the pixels need)
    outline : N
        add a convex outline of up to N points around what is visible (default: none; the mesh of a glTF is cut to
        it)
    pixel_format : rgba8|bc1|bc3|bc7|etc2|astc-4x4|astc-6x6|rgba16f|rgb9e5|astc-hdr-4x4|astc-hdr-6x6
        ktx2: pixel format on the graphics card; of float pages rgba16f, rgb9e5 or astc-hdr (default: rgba8,
        lossless)
    layers : steps|frames
        ktx2: a layer for each step of the clip, repeated for longer holds, or for each frame (default: whichever is
        fewer)
    levels : N
        ktx2: number of mip levels (default: down to one pixel)
    half_texel : bool
        texture coordinates at the centres of the outermost texels, against bleeding
    clock : R
        the target's clock, R ticks a second; rounds holds to whole ticks and prints the largest error
    strict : bool
        fail instead of warning; where the target has no place for something
    list : bool
        list what can be made, and write nothing
    profile : FILE
        profile (NAME.toml) of the engine or pack; OUT is the folder of the pack
    diff : bool
        with a profile: list what would change in the pack, and write nothing
    prune : bool
        remove files that Kivel wrote, nobody edited, and that are no longer made
    clip : NAME
        choose clips by name or pattern (many) (default: all clips)
    out : OUT
        where to write; the suffix chooses the format, several files need a folder
    force : bool
        overwrite files that Kivel did not write
    dry_run : bool
        print what would be written, and write nothing
    jobs : N
        number of jobs that run in parallel (default: one per processor)
    max_pixels : N
        refuse images with more pixels (default: 268435456, a 16384x16384 page)
    watch : callable
        is called with each Note and Progress; an exception that it raises stops the work

    Raises
    ------
    KivelError
        If it cannot be done; then nothing is written.
    """

def profile(
    action: Literal['new', 'check', 'show'] | None,
    file: str | PathLike[str] | None,
    /,
    *,
    on: str | PathLike[str] | Sequence[str | PathLike[str]] | None = ...,
    example: Literal['blank', 'tiles', 'figures', 'pictures', 'cells', 'burst', 'regions'] | None = 'blank',
    force: bool | None = False,
    dry_run: bool | None = False,
    jobs: int | str | None = None,
    max_pixels: int | str | None = None,
    watch: Callable[[Note | Progress], object] | None = None,
) -> ProfileMade:
    """Describe in a file of your own what an engine or a pack wants: write a profile, check it, and list what its
    templates can use.

    Parameters
    ----------
    action : new|check|show
        new: write a profile to fill in; check: find errors in it; show: list what its templates can use
    file : FILE
        the profile, NAME.toml
    on : MANIFEST
        manifests of the sheets that the profile is for (many)
    example : blank|tiles|figures|pictures|cells|burst|regions
        new: start from one of the demo's profiles (default: blank)
    force : bool
        overwrite files that Kivel did not write
    dry_run : bool
        print what would be written, and write nothing
    jobs : N
        number of jobs that run in parallel (default: one per processor)
    max_pixels : N
        refuse images with more pixels (default: 268435456, a 16384x16384 page)
    watch : callable
        is called with each Note and Progress; an exception that it raises stops the work

    Raises
    ------
    KivelError
        If it cannot be done; then nothing is written.
    """

def check(
    *sources: str | PathLike[str] | Sequence[str | PathLike[str]],
    range: tuple[int, int] | str | None = None,
    series: str | None = None,
    layers_as: Literal['layers', 'groups'] | None = None,
    exposure: float | str | None = None,
    only: str | Sequence[str] | None = ...,
    ignore: str | Mapping[str, str] | Sequence[str | Mapping[str, str]] | None = ...,
    strict: bool | None = False,
    baseline: str | PathLike[str] | None = None,
    codes: str | Literal[True] | None = None,
    format: Literal['text', 'sarif'] | None = 'text',
    mips: int | str | None = 3,
    budget: int | str | None = None,
    sides: bool | None = False,
    clock: float | Fraction | str | None = None,
    plays: str | PathLike[str] | None = None,
    tolerance: int | str | None = 0,
    frames_only: bool | None = False,
    difference: str | PathLike[str] | None = None,
    profile: str | PathLike[str] | None = None,
    on: str | PathLike[str] | Sequence[str | PathLike[str]] | None = ...,
    clip: str | Sequence[str] | None = ...,
    force: bool | None = False,
    dry_run: bool | None = False,
    jobs: int | str | None = None,
    max_pixels: int | str | None = None,
    watch: Callable[[Note | Progress], object] | None = None,
) -> CheckMade:
    """Find what would go wrong in the engine: bleeding cells, dark fringes, maps out of step, frames that never show,
    stale files.

    Parameters
    ----------
    sources : SRC
        a manifest, a folder or files of frames; with a profile, the folder of a pack
    range : A-B
        only these frames: 20-83 by their numbers, or 1.5s-3s by the time at which they begin
    series : NAME
        which sequence of several in a folder, by name or pattern; of a manifest, which clip
    layers_as : layers|groups
        OpenRaster: each layer is a frame, or each group (default: groups if there are any)
    exposure : STOPS
        convert OpenEXR to 8-bit sRGB, brightened by this many stops
    only : CODE
        report only these codes: one, a pattern, or several with commas (many)
    ignore : CODE[=PATTERN]
        ignore findings by code: fringe, cut=moth*; may end with "until 2027-01-31" or "because REASON" (many)
    strict : bool
        fail instead of warning
    baseline : FILE
        ignore findings that this earlier JSON report already has
    codes : NAME
        list all finding codes, or explain one: what is measured, the limit, and why
    format : text|sarif
        output format; sarif is SARIF 2.1.0 for other tools
    mips : N
        last mip level at which bleeding is measured (default: 3)
    budget : MB
        uncompressed megabytes allowed for each page (default: none)
    sides : bool
        frames are tiles: check whether their sides meet
    clock : R
        the target's clock, R ticks a second; reports holds that are not whole ticks
    plays : SRC
        proof: compare a manifest with its source, pixel by pixel and time by time
    tolerance : N
        proof: largest difference allowed, of 255 (default: 0)
    frames_only : bool
        proof: compare frames by number, ignoring order and times
    difference : OUT.png
        proof: draw a picture of the first difference
    profile : FILE
        profile (NAME.toml) of the engine or pack; SRC is the folder of the pack
    on : MANIFEST
        manifests of the sheets that the profile is for (many)
    clip : NAME
        choose clips by name or pattern (many) (default: all clips)
    force : bool
        overwrite files that Kivel did not write
    dry_run : bool
        print what would be written, and write nothing
    jobs : N
        number of jobs that run in parallel (default: one per processor)
    max_pixels : N
        refuse images with more pixels (default: 268435456, a 16384x16384 page)
    watch : callable
        is called with each Note and Progress; an exception that it raises stops the work

    Raises
    ------
    KivelError
        If it cannot be done; then nothing is written.
    """

def preview(
    *sources: str | PathLike[str] | Sequence[str | PathLike[str]],
    odd_size: Literal['error', 'skip', 'pad', 'scale'] | None = 'error',
    align: Literal['top-left', 'top', 'top-right', 'left', 'center', 'right', 'bottom-left', 'bottom', 'bottom-right'] | None = 'center',
    frames: Iterable[NDArray[Any]] = ...,
    range: tuple[int, int] | str | None = None,
    series: str | None = None,
    layers_as: Literal['layers', 'groups'] | None = None,
    exposure: float | str | None = None,
    clip: str | Sequence[str] | None = ...,
    view: Literal['frames', 'timing', 'layout'] | None = 'frames',
    scale: float | Fraction | str | None = None,
    filter: Literal['nearest', 'smooth'] | None = None,
    backdrop: str | None = 'checker',
    tile: tuple[int, int] | str | None = None,
    mark: Literal['pivot', 'outline'] | Sequence[Literal['pivot', 'outline']] | None = ...,
    beside: str | PathLike[str] | Sequence[str | PathLike[str]] | None = ...,
    serve: bool | None = False,
    port: int | str | None = 0,
    show: str | None = 'color',
    fade: Literal['linear', 'stored'] | None = 'linear',
    fps: float | Fraction | str | None = None,
    hold: int | Fraction | str | None = None,
    timebase: float | Fraction | str | None = None,
    repeat: int | str | None = None,
    out: str | PathLike[str] | None = None,
    force: bool | None = False,
    dry_run: bool | None = False,
    jobs: int | str | None = None,
    max_pixels: int | str | None = None,
    watch: Callable[[Note | Progress], object] | None = None,
) -> PreviewMade:
    """Make an animated image, a video (.mp4, .webm), a contact sheet (.png) or a viewer page (.html).

    Parameters
    ----------
    sources : SRC
        folder, files, "pattern_#.png", animated image or manifest; # is the number, * is anything; quote patterns
    odd_size : error|skip|pad|scale
        frames of another size: error (default), skip, pad, scale; pad: all to the largest; scale: to the usual size
    align : PLACE
        put frames of different sizes on one canvas, aligned: center, bottom, top-left, ... (default: center)
    frames : TEXT
        arrays of images, (height, width, 4), in place of sources
    range : A-B
        only these frames: 20-83 by their numbers, or 1.5s-3s by the time at which they begin
    series : NAME
        which sequence of several in a folder, by name or pattern; of a manifest, which clip
    layers_as : layers|groups
        OpenRaster: each layer is a frame, or each group (default: groups if there are any)
    exposure : STOPS
        convert OpenEXR to 8-bit sRGB, brightened by this many stops
    clip : NAME
        choose clips by name or pattern (default: the first; in a timing chart all)
    view : frames|timing|layout
        frames (default); timing: a chart of each clip's steps, events and cycles (.png); layout: the pages of a
        manifest with cells, boxes and frame numbers (.png)
    scale : N
        enlarge or shrink: 4, 0.5, 1/3 (default: up to about 256 px)
    filter : nearest|smooth
        sampling: nearest for pixel art, or smooth (default: nearest; smooth if a contact sheet shrinks frames)
    backdrop : checker|none|COLOUR
        background: checker, none, #rrggbb or a CSS colour name (default: checker)
    tile : CxR
        repeat each frame, to see how a tile continues: 3x3
    mark : pivot|outline
        draw pivots, or outlines of an atlas, over the frames (many)
    beside : SRC
        another source to compare with in the viewer page; .html; side by side or with a wipe (many)
    serve : bool
        serve the page at 127.0.0.1, for this machine only, and reload it when sources change
    port : N
        port of the served page (default: any free port)
    show : MAP
        which map to use: color, emission, ...; of a manifest, or alpha (default: color)
    fade : linear|stored
        cross-fade in linear light (default), or in stored values, for targets that blend bytes
    fps : R
        frame rate: 12, 24000/1001; in frames a second (default: the source's, else 12)
    hold : T
        frame duration: ticks (2) or a time (80ms, 0.5s, 1/12s)
    timebase : R
        ticks a second (default: 60 for a hold in ticks)
    repeat : N
        how often it plays: a count, or forever; forever is a loop (default: the source's, else forever)
    out : OUT.png|.apng|.gif|.webp|.mp4|.html
        where to write
    force : bool
        overwrite files that Kivel did not write
    dry_run : bool
        print what would be written, and write nothing
    jobs : N
        number of jobs that run in parallel (default: one per processor)
    max_pixels : N
        refuse images with more pixels (default: 268435456, a 16384x16384 page)
    watch : callable
        is called with each Note and Progress; an exception that it raises stops the work

    Raises
    ------
    KivelError
        If it cannot be done; then nothing is written.
    """

def build(
    *things: str | Sequence[str],
    file: str | PathLike[str] | None = 'kivel.toml',
    list: bool | None = False,
    why: str | None = None,
    keep_going: bool | None = False,
    remake: bool | None = False,
    verify: bool | None = False,
    prune: bool | None = False,
    clean: bool | None = False,
    init: bool | None = False,
    schema: bool | None = False,
    lock: bool | None = False,
    frozen: bool | None = False,
    depfile: str | PathLike[str] | None = None,
    ninja: str | PathLike[str] | None = None,
    cluster: str | None = None,
    dry_run: bool | None = False,
    force: bool | None = False,
    jobs: int | str | None = None,
    max_pixels: int | str | None = None,
    watch: Callable[[Note | Progress], object] | None = None,
) -> BuildMade:
    """Build everything in a recipe (kivel.toml) that is out of date.

    Parameters
    ----------
    things : NAME
        names or patterns of what to build, with everything that it depends on (default: all)
    file : FILE
        the recipe (default: kivel.toml in this folder)
    list : bool
        list what can be made, and write nothing
    why : NAME
        explain why something would be built or not, and build nothing
    keep_going : bool
        if something fails, keep building whatever does not depend on it
    remake : bool
        build everything, changed or not
    verify : bool
        read every file, even if its size and time are unchanged
    prune : bool
        remove files that Kivel wrote, nobody edited, and that are no longer made
    clean : bool
        delete kept steps and the state of earlier builds
    init : bool
        write a recipe for the manifests and frames in this folder
    schema : bool
        print the JSON Schema, and nothing else; of recipes, for editors
    lock : bool
        write the digests of all outputs to kivel.lock
    frozen : bool
        fail if an output differs from kivel.lock
    depfile : FILE
        write a dependency file for Make or Ninja
    ninja : FILE
        write rules for Ninja, and build nothing
    cluster : ADDRESS
        build on the workers of a Dask cluster that see this folder under the same path
    dry_run : bool
        print what would be written, and write nothing
    force : bool
        overwrite files that Kivel did not write
    jobs : N
        number of jobs that run in parallel (default: one per processor)
    max_pixels : N
        refuse images with more pixels (default: 268435456, a 16384x16384 page)
    watch : callable
        is called with each Note and Progress; an exception that it raises stops the work

    Raises
    ------
    KivelError
        If it cannot be done; then nothing is written.
    """
