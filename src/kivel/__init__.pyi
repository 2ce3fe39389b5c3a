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
    """Say what is there: frames, gaps, sizes, alpha, timing, memory; and whether a manifest still holds.

    Parameters
    ----------
    sources : SRC
        a folder, files, a pattern in quotes (*, or # for the number), an animated image, or a manifest
    frames : TEXT
        arrays of images, (height, width, 4), in place of sources
    range : A-B
        only the files with these numbers
    series : NAME
        of a folder or a pattern that holds several: the one of this name or pattern; of a manifest: the clip
    layers_as : layers|groups
        what is a frame in OpenRaster: each layer, or each group (default: groups where there are any)
    exposure : STOPS
        OpenEXR to 8-bit sRGB, brightened by so many stops
    chart : OUT.png
        draw the changes, the seam and the path of the mass
    force : bool
        overwrite a chart that is there
    schema : bool
        print the JSON Schema of a manifest, and nothing else
    jobs : N
        threads (default: one for each processor)
    max_pixels : N
        refuse images that state more pixels (default: 268435456, a 16384x16384 page)
    watch : callable
        is called with each Note and Progress; what it raises stops the work

    Raises
    ------
    KivelError
        What cannot be done; nothing is written then.
    """

def prep(
    *sources: str | PathLike[str] | Sequence[str | PathLike[str]],
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
    dither: Literal['none', 'ordered'] | None = 'none',
    out: str | PathLike[str] | None = None,
    force: bool | None = False,
    dry_run: bool | None = False,
    compress: Literal['fast', 'small', 'least'] | None = 'fast',
    fresh_clips: bool | None = False,
    jobs: int | str | None = None,
    max_pixels: int | str | None = None,
    watch: Callable[[Note | Progress], object] | None = None,
) -> PrepMade:
    """Prepare frames: a chain of steps, done in the order given, from frames as rendered or drawn to frames fit to
    pack.

    Parameters
    ----------
    sources : SRC
        a folder, files, a pattern in quotes (*, or # for the number), an animated image, or a manifest
    frames : TEXT
        arrays of images, (height, width, 4), in place of sources
    range : A-B
        only the files with these numbers
    series : NAME
        of a folder or a pattern that holds several: the one of this name or pattern; of a manifest: the clip
    layers_as : layers|groups
        what is a frame in OpenRaster: each layer, or each group (default: groups where there are any)
    exposure : STOPS
        OpenEXR to 8-bit sRGB, brightened by so many stops
    as_ : color|mask|normal|normal-down|motion
        what the values mean: color; mask: no gamma, alpha apart; normal: vectors, green up; normal-down: green
        down; motion: vectors (default: as a manifest says, else color)
    step : "NAME ..."
        what to do: a name, its arguments, key=value; give it several times for a chain
    map : MAP=SRC
        frames of another map in the same layout: emission=glow/ (for each SRC, or one for all)
    map_suffix : MAP=_x
        the map of moth_1.png is moth_1_x.png beside it
    map_kind : MAP=KIND
        color, mask, normal, normal-down or motion (default: by its name, else color)
    missing_map : error|neutral
        when a map lacks a frame: refuse (default), or put its neutral value there
    colors : N
        at most N colours, alpha included, the same for all frames and pages of a map
    dither : none|ordered
        between few colours: none (default), or by a pattern that stays in its place in the cell
    out : DIR
        where to write
    force : bool
        overwrite files that Kivel did not write
    dry_run : bool
        say what would be written, and write nothing
    compress : fast|small|least
        PNG, the same pixels always: fast (default), small (a tenth less, slower), least (another tenth, seconds)
    fresh_clips : bool
        made again: clips, groups and pivots as they come, without what was set since
    jobs : N
        threads (default: one for each processor)
    max_pixels : N
        refuse images that state more pixels (default: 268435456, a 16384x16384 page)
    watch : callable
        is called with each Note and Progress; what it raises stops the work

    Raises
    ------
    KivelError
        What cannot be done; nothing is written then.
    """

def loop(
    *sources: str | PathLike[str] | Sequence[str | PathLike[str]],
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
    fade: bool | None = False,
    sides: bool | None = False,
    map: str | tuple[str, float | str | PathLike[str]] | Sequence[str | tuple[str, float | str | PathLike[str]]] | Mapping[str, float | str | PathLike[str]] | None = ...,
    map_suffix: str | tuple[str, float | str | PathLike[str]] | Sequence[str | tuple[str, float | str | PathLike[str]]] | Mapping[str, float | str | PathLike[str]] | None = ...,
    map_kind: str | tuple[str, float | str | PathLike[str]] | Sequence[str | tuple[str, float | str | PathLike[str]]] | Mapping[str, float | str | PathLike[str]] | None = ...,
    missing_map: Literal['error', 'neutral'] | None = 'error',
    out: str | PathLike[str] | None = None,
    force: bool | None = False,
    dry_run: bool | None = False,
    compress: Literal['fast', 'small', 'least'] | None = 'fast',
    fresh_clips: bool | None = False,
    jobs: int | str | None = None,
    max_pixels: int | str | None = None,
    watch: Callable[[Note | Progress], object] | None = None,
) -> LoopMade:
    """Say how well a sequence loops; find where a long one loops best; close one by a cross-fade. Say how a tile
    meets.

    Parameters
    ----------
    sources : SRC
        a folder, files, a pattern in quotes (*, or # for the number), an animated image, or a manifest
    odd_size : error|skip|pad|scale
        frames of another size than most: refuse (default), leave out, pad all to the largest, or scale to the usual
    align : PLACE
        where a smaller frame lies: top-left, top, top-right, left, center, right, bottom-left, bottom, bottom-right
        (default: center)
    frames : TEXT
        arrays of images, (height, width, 4), in place of sources
    range : A-B
        only the files with these numbers
    series : NAME
        of a folder or a pattern that holds several: the one of this name or pattern; of a manifest: the clip
    layers_as : layers|groups
        what is a frame in OpenRaster: each layer, or each group (default: groups where there are any)
    exposure : STOPS
        OpenEXR to 8-bit sRGB, brightened by so many stops
    as_ : color|mask|normal|normal-down|motion
        what the values mean: color; mask: no gamma, alpha apart; normal: vectors, green up; normal-down: green
        down; motion: vectors (default: as a manifest says, else color)
    find : MIN-MAX
        rank the windows of so many frames that loop best
    pick : RANK
        which of the windows found is written (default: 1)
    close : K
        turn the K frames after the loop into its first ones, and write it; if none is to be found, the last K
        frames
    fade : bool
        close by fading alone (default: frames are warped into each other where that is better)
    sides : bool
        judge each frame as a tile: how left meets right and top meets bottom
    map : MAP=SRC
        frames of another map in the same layout: emission=glow/ (for each SRC, or one for all)
    map_suffix : MAP=_x
        the map of moth_1.png is moth_1_x.png beside it
    map_kind : MAP=KIND
        color, mask, normal, normal-down or motion (default: by its name, else color)
    missing_map : error|neutral
        when a map lacks a frame: refuse (default), or put its neutral value there
    out : DIR
        where to write
    force : bool
        overwrite files that Kivel did not write
    dry_run : bool
        say what would be written, and write nothing
    compress : fast|small|least
        PNG, the same pixels always: fast (default), small (a tenth less, slower), least (another tenth, seconds)
    fresh_clips : bool
        made again: clips, groups and pivots as they come, without what was set since
    jobs : N
        threads (default: one for each processor)
    max_pixels : N
        refuse images that state more pixels (default: 268435456, a 16384x16384 page)
    watch : callable
        is called with each Note and Progress; what it raises stops the work

    Raises
    ------
    KivelError
        What cannot be done; nothing is written then.
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
    out: str | PathLike[str] | None = None,
    force: bool | None = False,
    dry_run: bool | None = False,
    compress: Literal['fast', 'small', 'least'] | None = 'fast',
    fresh_clips: bool | None = False,
    jobs: int | str | None = None,
    max_pixels: int | str | None = None,
    watch: Callable[[Note | Progress], object] | None = None,
) -> LayerMade:
    """Stack sequences frame by frame, each with a blend, an opacity and an offset.

    Parameters
    ----------
    base : BASE
        the sequence at the bottom; the result has its size
    over : OVER
        what goes over it: "SRC blend=screen opacity=0.5"
    range : A-B
        only the files with these numbers
    series : NAME
        of a folder or a pattern that holds several: the one of this name or pattern; of a manifest: the clip
    layers_as : layers|groups
        what is a frame in OpenRaster: each layer, or each group (default: groups where there are any)
    exposure : STOPS
        OpenEXR to 8-bit sRGB, brightened by so many stops
    until : longest|base|common
        how many frames: until the longest ends (default), the base does, or all end together; shorter ones repeat
    opacity : N
        of the result, 0 to 1 (default: 1)
    linear : bool
        blend in linear light (default: on sRGB values, as browsers do)
    map : MAP=SRC
        frames of another map in the same layout: emission=glow/ (for each SRC, or one for all)
    map_suffix : MAP=_x
        the map of moth_1.png is moth_1_x.png beside it
    map_kind : MAP=KIND
        color, mask, normal, normal-down or motion (default: by its name, else color)
    missing_map : error|neutral
        when a map lacks a frame: refuse (default), or put its neutral value there
    out : DIR
        where to write
    force : bool
        overwrite files that Kivel did not write
    dry_run : bool
        say what would be written, and write nothing
    compress : fast|small|least
        PNG, the same pixels always: fast (default), small (a tenth less, slower), least (another tenth, seconds)
    fresh_clips : bool
        made again: clips, groups and pivots as they come, without what was set since
    jobs : N
        threads (default: one for each processor)
    max_pixels : N
        refuse images that state more pixels (default: 268435456, a 16384x16384 page)
    watch : callable
        is called with each Note and Progress; what it raises stops the work

    Raises
    ------
    KivelError
        What cannot be done; nothing is written then.
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
    out: str | PathLike[str] | None = None,
    force: bool | None = False,
    dry_run: bool | None = False,
    compress: Literal['fast', 'small', 'least'] | None = 'fast',
    fresh_clips: bool | None = False,
    jobs: int | str | None = None,
    max_pixels: int | str | None = None,
    watch: Callable[[Note | Progress], object] | None = None,
) -> ScrollMade:
    """Make a loop from tiles: scrolled a whole number of tiles, displaced by a grey image, several over each other.

    Parameters
    ----------
    tiles : TILE
        from the bottom up: "IMAGE scroll=1,0 by=..."
    count : N
        how many frames
    filter : nearest|smooth
        how pixels are sampled: nearest for pixel art, by whole pixels (default: smooth)
    fps : R
        frames a second: 12, 24000/1001 (default: what an animated image or a manifest states, else 12)
    hold : T
        how long each frame shows: ticks (2) or a time (80ms, 0.5s, 1/12s)
    timebase : R
        ticks a second (default: 60 for a hold in ticks)
    repeat : N
        how often it plays: a count or forever (default: as stated, else forever)
    map : MAP=SRC
        frames of another map in the same layout: emission=glow/ (for each SRC, or one for all)
    map_suffix : MAP=_x
        the map of moth_1.png is moth_1_x.png beside it
    map_kind : MAP=KIND
        color, mask, normal, normal-down or motion (default: by its name, else color)
    missing_map : error|neutral
        when a map lacks a frame: refuse (default), or put its neutral value there
    out : DIR
        where to write
    force : bool
        overwrite files that Kivel did not write
    dry_run : bool
        say what would be written, and write nothing
    compress : fast|small|least
        PNG, the same pixels always: fast (default), small (a tenth less, slower), least (another tenth, seconds)
    fresh_clips : bool
        made again: clips, groups and pivots as they come, without what was set since
    jobs : N
        threads (default: one for each processor)
    max_pixels : N
        refuse images that state more pixels (default: 268435456, a 16384x16384 page)
    watch : callable
        is called with each Note and Progress; what it raises stops the work

    Raises
    ------
    KivelError
        What cannot be done; nothing is written then.
    """

def resample(
    *sources: str | PathLike[str] | Sequence[str | PathLike[str]],
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
    fade: bool | None = False,
    pace: str | None = None,
    even: bool | None = False,
    motion: bool | None = False,
    motion_bits: Literal['8', '16'] | None = '8',
    motion_size: Literal['half', 'full'] | None = None,
    tile: bool | None = False,
    map: str | tuple[str, float | str | PathLike[str]] | Sequence[str | tuple[str, float | str | PathLike[str]]] | Mapping[str, float | str | PathLike[str]] | None = ...,
    map_suffix: str | tuple[str, float | str | PathLike[str]] | Sequence[str | tuple[str, float | str | PathLike[str]]] | Mapping[str, float | str | PathLike[str]] | None = ...,
    map_kind: str | tuple[str, float | str | PathLike[str]] | Sequence[str | tuple[str, float | str | PathLike[str]]] | Mapping[str, float | str | PathLike[str]] | None = ...,
    missing_map: Literal['error', 'neutral'] | None = 'error',
    out: str | PathLike[str] | None = None,
    force: bool | None = False,
    dry_run: bool | None = False,
    compress: Literal['fast', 'small', 'least'] | None = 'fast',
    fresh_clips: bool | None = False,
    jobs: int | str | None = None,
    max_pixels: int | str | None = None,
    watch: Callable[[Note | Progress], object] | None = None,
) -> ResampleMade:
    """Fewer or more frames over the same motion, evenly spaced or at a pace; the clip lasts as long as before.

    Parameters
    ----------
    sources : SRC
        a folder, files, a pattern in quotes (*, or # for the number), an animated image, or a manifest
    odd_size : error|skip|pad|scale
        frames of another size than most: refuse (default), leave out, pad all to the largest, or scale to the usual
    align : PLACE
        where a smaller frame lies: top-left, top, top-right, left, center, right, bottom-left, bottom, bottom-right
        (default: center)
    frames : TEXT
        arrays of images, (height, width, 4), in place of sources
    range : A-B
        only the files with these numbers
    series : NAME
        of a folder or a pattern that holds several: the one of this name or pattern; of a manifest: the clip
    layers_as : layers|groups
        what is a frame in OpenRaster: each layer, or each group (default: groups where there are any)
    exposure : STOPS
        OpenEXR to 8-bit sRGB, brightened by so many stops
    as_ : color|mask|normal|normal-down|motion
        what the values mean: color; mask: no gamma, alpha apart; normal: vectors, green up; normal-down: green
        down; motion: vectors (default: as a manifest says, else color)
    count : N
        how many frames to make
    one_shot : bool
        include both ends (default: a loop, whose end is its start again)
    mix : bool
        average what lies between, premultiplied and in linear light, instead of taking the nearest frame; with more
        frames than before: in-betweens, two frames warped into each other where that is better
    fade : bool
        with more frames than before: fade, never warp
    pace : EASING
        a CSS easing function: ease-in, "cubic-bezier(...)", "steps(...)"
    even : bool
        with motion: keep evenly spaced frames (default: those between which what is left out is rebuilt best)
    motion : bool
        a map of how things move, by which players warp one frame into the next
    motion_bits : 8|16
        how finely it is stored (default: 8, which loses less than a thousandth)
    motion_size : half|full
        of the map against the frames: full rebuilds more and takes four times the memory (default: half; full where
        frames are of 64 px and less)
    tile : bool
        with motion: frames are tiles, what leaves at one side comes in at the other
    map : MAP=SRC
        frames of another map in the same layout: emission=glow/ (for each SRC, or one for all)
    map_suffix : MAP=_x
        the map of moth_1.png is moth_1_x.png beside it
    map_kind : MAP=KIND
        color, mask, normal, normal-down or motion (default: by its name, else color)
    missing_map : error|neutral
        when a map lacks a frame: refuse (default), or put its neutral value there
    out : DIR
        where to write
    force : bool
        overwrite files that Kivel did not write
    dry_run : bool
        say what would be written, and write nothing
    compress : fast|small|least
        PNG, the same pixels always: fast (default), small (a tenth less, slower), least (another tenth, seconds)
    fresh_clips : bool
        made again: clips, groups and pivots as they come, without what was set since
    jobs : N
        threads (default: one for each processor)
    max_pixels : N
        refuse images that state more pixels (default: 268435456, a 16384x16384 page)
    watch : callable
        is called with each Note and Progress; what it raises stops the work

    Raises
    ------
    KivelError
        What cannot be done; nothing is written then.
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
    """Say which layouts a sequence could have: columns and rows, sheet size, waste, memory, and what would fit a page.

    Parameters
    ----------
    sources : SRC
        a folder, files, a pattern in quotes (*, or # for the number), an animated image, or a manifest
    odd_size : error|skip|pad|scale
        frames of another size than most: refuse (default), leave out, pad all to the largest, or scale to the usual
    align : PLACE
        where a smaller frame lies: top-left, top, top-right, left, center, right, bottom-left, bottom, bottom-right
        (default: center)
    frames : TEXT
        arrays of images, (height, width, 4), in place of sources
    range : A-B
        only the files with these numbers
    series : NAME
        of a folder or a pattern that holds several: the one of this name or pattern; of a manifest: the clip
    layers_as : layers|groups
        what is a frame in OpenRaster: each layer, or each group (default: groups where there are any)
    exposure : STOPS
        OpenEXR to 8-bit sRGB, brightened by so many stops
    cell : WxH
        cell size (default: that of the frames)
    fit_page : WxH
        exactly this page size; frames are scaled down until all fit
    motion : bool
        how few frames would do, with a map of motion and without: what is missed of the others, the memory
    error : N
        with motion: the fewest frames that miss at most so much, as a root mean square in 1/255
    one_shot : bool
        with motion: include both ends (default: a loop, if it closes)
    tile : bool
        with motion: frames are tiles, what leaves at one side comes in at the other
    gap : N
        pixels between them (default: 0)
    margin : N
        pixels around all (default: 0)
    skirt : N
        repeat each frame's edge pixels outward
    skirt_wrap : bool
        for tiles: fill the skirt from the opposite edge
    mip_safe : N
        align so that no texel of the first N mip levels mixes two frames
    pow2 : bool
        sides that are powers of two
    square : bool
        sides of one length
    multiple_of : N
        sides that are multiples of N
    page_limit : WxH
        the largest page; more frames go on more pages (default: no limit)
    jobs : N
        threads (default: one for each processor)
    max_pixels : N
        refuse images that state more pixels (default: 268435456, a 16384x16384 page)
    watch : callable
        is called with each Note and Progress; what it raises stops the work

    Raises
    ------
    KivelError
        What cannot be done; nothing is written then.
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
    make_group: str | tuple[str, float | str | PathLike[str]] | Sequence[str | tuple[str, float | str | PathLike[str]]] | Mapping[str, float | str | PathLike[str]] | None = ...,
    choose: Literal['all', 'random'] | None = None,
    weight: str | tuple[str, float | str | PathLike[str]] | Sequence[str | tuple[str, float | str | PathLike[str]]] | Mapping[str, float | str | PathLike[str]] | None = ...,
    colors: int | str | None = None,
    dither: Literal['none', 'ordered'] | None = 'none',
    motion: bool | None = False,
    motion_bits: Literal['8', '16'] | None = '8',
    motion_size: Literal['half', 'full'] | None = None,
    tile: bool | None = False,
    row_clips: Sequence[str] | str | None = ...,
    out: str | PathLike[str] | None = None,
    fresh_clips: bool | None = False,
    force: bool | None = False,
    dry_run: bool | None = False,
    compress: Literal['fast', 'small', 'least'] | None = 'fast',
    jobs: int | str | None = None,
    max_pixels: int | str | None = None,
    watch: Callable[[Note | Progress], object] | None = None,
) -> SheetMade:
    """Put frames on sheets of equal cells, with a manifest that says where each one is and how it plays.

    Parameters
    ----------
    sources : SRC
        a folder, files, a pattern in quotes (*, or # for the number), an animated image, or a manifest
    keep_holes : bool
        removed frames keep their cell, transparent, and their time
    odd_size : error|skip|pad|scale
        frames of another size than most: refuse (default), leave out, pad all to the largest, or scale to the usual
    align : PLACE
        where a smaller frame lies: top-left, top, top-right, left, center, right, bottom-left, bottom, bottom-right
        (default: center)
    frames : TEXT
        arrays of images, (height, width, 4), in place of sources
    range : A-B
        only the files with these numbers
    series : NAME
        of a folder or a pattern that holds several: the one of this name or pattern; of a manifest: the clip
    layers_as : layers|groups
        what is a frame in OpenRaster: each layer, or each group (default: groups where there are any)
    exposure : STOPS
        OpenEXR to 8-bit sRGB, brightened by so many stops
    pivot : PLACE|X,Y|mass
        where frames turn or stand, no pixel moved: a place of the canvas (bottom), its pixels from the top left, or
        the centre of what is seen; "walk*=bottom" for one series (many)
    layout : grid|row|column
         (default: grid)
    columns : N
         (default: what makes the sheet compact)
    rows : N
         (default: as many as the frames fill)
    fill : across|down
        which way frames run (default: across)
    sequences : apart|joined
        several SRC: each begins a new row (default), or all run on
    cell : WxH
        cell size in pixels (default: that of the frames)
    scale_to_cell : nearest|smooth
        scale frames to the cell, keeping their aspect; nearest for pixel art
    fit_page : WxH
        exactly this page size; frames are scaled down until all fit
    fit_by : scale|thin
        how they come to fit: smaller (default), or as they are, evenly thinned to as many as fit
    into : OLD.kivel.json
        add the frames in the free cells of this sheet, moving nothing
    fold : alternate|steps
        store each picture once, and prove that it plays the same; a mirrored half is played to and fro (alternate,
        default), or as steps for targets without that
    inbetween : N
        N blended frames between neighbours, for targets that cannot interpolate
    replace : FRAME=FILE
        edit the sheet of a manifest: another picture for a frame, by name or number, or for a map of it:
        7:normal=n.png (many)
    remove : FRAME
        remove a frame from it (many)
    insert : FRAME=FILE
        insert a picture before a frame; its hold is that of the frame before (many)
    gap : N
        pixels between them (default: 0)
    margin : N
        pixels around all (default: 0)
    skirt : N
        repeat each frame's edge pixels outward
    skirt_wrap : bool
        for tiles: fill the skirt from the opposite edge
    mip_safe : N
        align so that no texel of the first N mip levels mixes two frames
    pow2 : bool
        sides that are powers of two
    square : bool
        sides of one length
    multiple_of : N
        sides that are multiples of N
    page_limit : WxH
        the largest page; more frames go on more pages (default: no limit)
    map_scale : MAP=1/N
        a smaller map: mask=1/2
    map : MAP=SRC
        frames of another map in the same layout: emission=glow/ (for each SRC, or one for all)
    map_suffix : MAP=_x
        the map of moth_1.png is moth_1_x.png beside it
    map_kind : MAP=KIND
        color, mask, normal, normal-down or motion (default: by its name, else color)
    missing_map : error|neutral
        when a map lacks a frame: refuse (default), or put its neutral value there
    fps : R
        frames a second: 12, 24000/1001, walk:8 (default: what an animated image or a manifest states, else 12)
    hold : T
        how long each frame shows: ticks (2) or a time (80ms, 0.5s, 1/12s)
    repeat : N
        how many cycles, or forever (default: as stated, else forever)
    timebase : R
        ticks a second (default: 60 for a hold in ticks)
    order : FRAMES
        the clip's frames to show, from 0: 0-7, 0-3*2,4*6,3-1 (*N: held N times as long as is usual), walk:0-3,2-1
    holds : LIST
        one for each step: 4,2,2,8 or 80ms*3,1s
    length : T
        one cycle lasts so long (1.5s), in proportion
    speed : N
        so many times as fast: 2, 1/2
    pace : EASING
        a CSS easing function: frames go by unevenly, the total stays: ease-in-out, cubic-bezier(0.3, 0, 0.7, 1)
    convert : bool
        round to that timebase, without accumulated error
    direction : normal|reverse|alternate|alternate-reverse
        in the words of CSS; alternate is ping-pong: there and back, each end once
    hold_ends : bool
        to and fro shows each end twice, or once again
    end : last|first|none
        what shows after a finite clip
    then : NAME
        the clip that follows, in place of an end; after one that plays forever, when that is left
    interpolation : step|linear|motion
        linear: fade into the next frame; motion: warp into it
    phase : P
        where it starts: in steps (3, 2.5), 25% of a cycle (kept when holds change), a time (0.5s) or ticks (12t)
    event : STEP:NAME
        what happens when a step begins to show: 3:chirp (many)
    no_events : bool
        drop the events there are
    make_clip : NAME=FRAMES
        a clip of some frames: peck=4-9, peck=hen:4-9 (of the sequence hen), walk=walk_* (by name) (many)
    make_group : NAME=CLIPS
        a group of the clips that match a pattern: row=lantern-* (many)
    choose : all|random
        what becomes of the group: all are used (default), or each instance picks one
    weight : CLIPS=N
        how likely a clip is picked, against 1 for the others: lamp-3=2 (many)
    colors : N
        at most N colours, alpha included, the same for all frames and pages of a map
    dither : none|ordered
        between few colours: none (default), or by a pattern that stays in its place in the cell
    motion : bool
        a map of how things move, by which players warp one frame into the next
    motion_bits : 8|16
        how finely it is stored (default: 8, which loses less than a thousandth)
    motion_size : half|full
        of the map against the frames: full rebuilds more and takes four times the memory (default: half; full where
        frames are of 64 px and less)
    tile : bool
        with motion: frames are tiles, what leaves at one side comes in at the other
    row_clips : A,B,C
        a clip for each row of the sheet, by these names
    out : NAME.png
        where to write
    fresh_clips : bool
        made again: clips, groups and pivots as they come, without what was set since
    force : bool
        overwrite files that Kivel did not write
    dry_run : bool
        say what would be written, and write nothing
    compress : fast|small|least
        PNG, the same pixels always: fast (default), small (a tenth less, slower), least (another tenth, seconds)
    jobs : N
        threads (default: one for each processor)
    max_pixels : N
        refuse images that state more pixels (default: 268435456, a 16384x16384 page)
    watch : callable
        is called with each Note and Progress; what it raises stops the work

    Raises
    ------
    KivelError
        What cannot be done; nothing is written then.
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
    make_group: str | tuple[str, float | str | PathLike[str]] | Sequence[str | tuple[str, float | str | PathLike[str]]] | Mapping[str, float | str | PathLike[str]] | None = ...,
    choose: Literal['all', 'random'] | None = None,
    weight: str | tuple[str, float | str | PathLike[str]] | Sequence[str | tuple[str, float | str | PathLike[str]]] | Mapping[str, float | str | PathLike[str]] | None = ...,
    colors: int | str | None = None,
    dither: Literal['none', 'ordered'] | None = 'none',
    out: str | PathLike[str] | None = None,
    fresh_clips: bool | None = False,
    force: bool | None = False,
    dry_run: bool | None = False,
    compress: Literal['fast', 'small', 'least'] | None = 'fast',
    jobs: int | str | None = None,
    max_pixels: int | str | None = None,
    watch: Callable[[Note | Progress], object] | None = None,
) -> AtlasMade:
    """Trim frames of any size and pack them tight on pages, with a manifest that puts every frame back where it was.

    Parameters
    ----------
    sources : SRC
        a folder, files, a pattern in quotes (*, or # for the number), an animated image, or a manifest
    align : PLACE
        frames of several sizes in one series: put on one canvas, so aligned (default: each on its own canvas)
    frames : TEXT
        arrays of images, (height, width, 4), in place of sources
    range : A-B
        only the files with these numbers
    series : NAME
        of a folder or a pattern that holds several: the one of this name or pattern; of a manifest: the clip
    layers_as : layers|groups
        what is a frame in OpenRaster: each layer, or each group (default: groups where there are any)
    exposure : STOPS
        OpenEXR to 8-bit sRGB, brightened by so many stops
    pivot : PLACE|X,Y|mass
        where frames turn or stand, no pixel moved: a place of the canvas (bottom), its pixels from the top left, or
        the centre of what is seen; "walk*=bottom" for one series (many)
    turn : bool
        frames may lie turned by a quarter
    gap : N
        pixels between them (default: 1)
    margin : N
        pixels around all (default: 0)
    skirt : N
        repeat each frame's edge pixels outward
    skirt_wrap : bool
        for tiles: fill the skirt from the opposite edge
    mip_safe : N
        align so that no texel of the first N mip levels mixes two frames
    effort : quick|normal|high
        how much is tried; never a clock, so that the result is the same everywhere (default: normal)
    page_limit : WxH
        the largest page (default: 4096x4096)
    pages : fill|balance|together
        of several: one full after the other (default), all about as full, or a folder's frames together
    trim_by : all|color
        the box of all maps together (default), or of color
    no_trim : bool
        pack whole frames
    visible_above : N
        alpha up to N, of 255, is cut off where it lies outside the rest (default: 0)
    keep_hidden : bool
        keep all colour under alpha 0 (boxes grow to hold it)
    ignore_hidden : bool
        frames that differ only in colour under alpha 0 are the same
    share_flips : bool
        store mirrored frames once; the manifest says which
    outline : N
        a convex polygon of up to N points for each frame
    pow2 : bool
        sides that are powers of two
    square : bool
        sides of one length
    multiple_of : N
        sides that are multiples of N
    map_scale : MAP=1/N
        a smaller map: mask=1/2
    map : MAP=SRC
        frames of another map in the same layout: emission=glow/ (for each SRC, or one for all)
    map_suffix : MAP=_x
        the map of moth_1.png is moth_1_x.png beside it
    map_kind : MAP=KIND
        color, mask, normal, normal-down or motion (default: by its name, else color)
    missing_map : error|neutral
        when a map lacks a frame: refuse (default), or put its neutral value there
    fps : R
        frames a second: 12, 24000/1001, walk:8 (default: what an animated image or a manifest states, else 12)
    hold : T
        how long each frame shows: ticks (2) or a time (80ms, 0.5s, 1/12s)
    repeat : N
        how many cycles, or forever (default: as stated, else forever)
    timebase : R
        ticks a second (default: 60 for a hold in ticks)
    order : FRAMES
        the clip's frames to show, from 0: 0-7, 0-3*2,4*6,3-1 (*N: held N times as long as is usual), walk:0-3,2-1
    holds : LIST
        one for each step: 4,2,2,8 or 80ms*3,1s
    length : T
        one cycle lasts so long (1.5s), in proportion
    speed : N
        so many times as fast: 2, 1/2
    pace : EASING
        a CSS easing function: frames go by unevenly, the total stays: ease-in-out, cubic-bezier(0.3, 0, 0.7, 1)
    convert : bool
        round to that timebase, without accumulated error
    direction : normal|reverse|alternate|alternate-reverse
        in the words of CSS; alternate is ping-pong: there and back, each end once
    hold_ends : bool
        to and fro shows each end twice, or once again
    end : last|first|none
        what shows after a finite clip
    then : NAME
        the clip that follows, in place of an end; after one that plays forever, when that is left
    interpolation : step|linear|motion
        linear: fade into the next frame; motion: warp into it
    phase : P
        where it starts: in steps (3, 2.5), 25% of a cycle (kept when holds change), a time (0.5s) or ticks (12t)
    event : STEP:NAME
        what happens when a step begins to show: 3:chirp (many)
    no_events : bool
        drop the events there are
    make_clip : NAME=FRAMES
        a clip of some frames: peck=4-9, peck=hen:4-9 (of the sequence hen), walk=walk_* (by name) (many)
    make_group : NAME=CLIPS
        a group of the clips that match a pattern: row=lantern-* (many)
    choose : all|random
        what becomes of the group: all are used (default), or each instance picks one
    weight : CLIPS=N
        how likely a clip is picked, against 1 for the others: lamp-3=2 (many)
    colors : N
        at most N colours, alpha included, the same for all frames and pages of a map
    dither : none|ordered
        between few colours: none (default), or by a pattern that stays in its place in the cell
    out : NAME.png
        where to write
    fresh_clips : bool
        made again: clips, groups and pivots as they come, without what was set since
    force : bool
        overwrite files that Kivel did not write
    dry_run : bool
        say what would be written, and write nothing
    compress : fast|small|least
        PNG, the same pixels always: fast (default), small (a tenth less, slower), least (another tenth, seconds)
    jobs : N
        threads (default: one for each processor)
    max_pixels : N
        refuse images that state more pixels (default: 268435456, a 16384x16384 page)
    watch : callable
        is called with each Note and Progress; what it raises stops the work

    Raises
    ------
    KivelError
        What cannot be done; nothing is written then.
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
    as_written: bool | None = False,
    save_regions: str | PathLike[str] | None = None,
    key: str | None = 'find',
    empty: Literal['drop-last', 'drop-row-ends', 'drop', 'keep'] | None = 'drop-last',
    pick: int | str | None = None,
    look: str | PathLike[str] | None = None,
    out: str | PathLike[str] | None = None,
    force: bool | None = False,
    dry_run: bool | None = False,
    compress: Literal['fast', 'small', 'least'] | None = 'fast',
    fresh_clips: bool | None = False,
    jobs: int | str | None = None,
    max_pixels: int | str | None = None,
    watch: Callable[[Note | Progress], object] | None = None,
) -> HandledSheets:
    """Take sheets apart into frames: by their manifest, by a grid that is stated or found, or by islands.

    Parameters
    ----------
    sources : IMAGE-or-MANIFEST
        sheets, or the .kivel.json beside one
    show : MAP
        one map of a manifest alone, as the colour of the frames (default: all of them)
    steady : nearest|smooth
        cancel the jitter of each row: nearest by whole pixels, smooth by parts of pixels
    pivot : PLACE|X,Y|mass
        where frames turn or stand, no pixel moved: a place of the canvas (bottom), its pixels from the top left, or
        the centre of what is seen; "walk*=bottom" for one series (many)
    fps : R
        frames a second: 12, 24000/1001, walk:8 (default: what an animated image or a manifest states, else 12)
    hold : T
        how long each frame shows: ticks (2) or a time (80ms, 0.5s, 1/12s)
    repeat : N
        how many cycles, or forever (default: as stated, else forever)
    timebase : R
        ticks a second (default: 60 for a hold in ticks)
    order : FRAMES
        the clip's frames to show, from 0: 0-7, 0-3*2,4*6,3-1 (*N: held N times as long as is usual), walk:0-3,2-1
    holds : LIST
        one for each step: 4,2,2,8 or 80ms*3,1s
    length : T
        one cycle lasts so long (1.5s), in proportion
    speed : N
        so many times as fast: 2, 1/2
    pace : EASING
        a CSS easing function: frames go by unevenly, the total stays: ease-in-out, cubic-bezier(0.3, 0, 0.7, 1)
    convert : bool
        round to that timebase, without accumulated error
    direction : normal|reverse|alternate|alternate-reverse
        in the words of CSS; alternate is ping-pong: there and back, each end once
    hold_ends : bool
        to and fro shows each end twice, or once again
    end : last|first|none
        what shows after a finite clip
    then : NAME
        the clip that follows, in place of an end; after one that plays forever, when that is left
    interpolation : step|linear|motion
        linear: fade into the next frame; motion: warp into it
    phase : P
        where it starts: in steps (3, 2.5), 25% of a cycle (kept when holds change), a time (0.5s) or ticks (12t)
    event : STEP:NAME
        what happens when a step begins to show: 3:chirp (many)
    no_events : bool
        drop the events there are
    row_clips : A,B,C
        a clip for each row of the sheet, by these names
    map : MAP=SRC
        frames of another map in the same layout: emission=glow/ (for each SRC, or one for all)
    map_suffix : MAP=_x
        the map of moth_1.png is moth_1_x.png beside it
    map_kind : MAP=KIND
        color, mask, normal, normal-down or motion (default: by its name, else color)
    missing_map : error|neutral
        when a map lacks a frame: refuse (default), or put its neutral value there
    columns : N
        alone: the cells are square
    rows : N
        alone: the cells are square
    cell : WxH
        cell size in pixels; parts of them where the sheet was scaled: 35/2x18
    gap : N|XxY
        pixels between cells: 2, or 2x0 across and down (default: 0)
    margin : N|XxY
        pixels around all: 1, or 1x0 (default: 0)
    at : X,Y
        where the first cell begins; what is left over at the other end is said (default: 0,0)
    fill : across|down
        which way frames run (default: across)
    grid : GRID
        one of several grids in the picture: "at=1,1 cell=96x48 gap=1 columns=5 rows=8" (many)
    like : OTHER.kivel.json
        the places, names and clips of another sheet
    islands : bool
        no grid: each thing with empty pixels around it is a frame
    join : N
        parts with at most N empty pixels between them are one
    least : AREA
        islands of fewer pixels are left out
    visible_above : ALPHA
        pixels up to this alpha part islands (default: 7)
    align : PLACE
        all on one canvas, aligned: bottom for things that stand (default: each on its own box)
    regions : NAME.regions.toml
        named rectangles that stand in a file
    find_again : bool
        the picture changed: regions that moved or grew are found by their looks, and the file is brought up to date
    as_written : bool
        cut regions where the file says, though what was seen there lies elsewhere now
    save_regions : NAME.regions.toml
        write what was found as regions, to be edited; without -o nothing else
    key : #RRGGBB|corner|none
        the colour that stands for nothing, or that of the first corner (default: found, where a flat colour lies
        behind all)
    empty : drop-last|drop-row-ends|drop|keep
        transparent cells: leave out those after the last drawn one, of each row too, all, or none (default: drop-
        last; with row clips drop-row-ends)
    pick : N
        where it was not sure how the picture divides: this one of those it named
    look : OUT.png
        draw the likeliest ways side by side, over the picture
    out : DIR
        where to write
    force : bool
        overwrite files that Kivel did not write
    dry_run : bool
        say what would be written, and write nothing
    compress : fast|small|least
        PNG, the same pixels always: fast (default), small (a tenth less, slower), least (another tenth, seconds)
    fresh_clips : bool
        made again: clips, groups and pivots as they come, without what was set since
    jobs : N
        threads (default: one for each processor)
    max_pixels : N
        refuse images that state more pixels (default: 268435456, a 16384x16384 page)
    watch : callable
        is called with each Note and Progress; what it raises stops the work

    Raises
    ------
    KivelError
        What cannot be done; nothing is written then.
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
    as_written: bool | None = False,
    save_regions: str | PathLike[str] | None = None,
    key: str | None = 'find',
    empty: Literal['drop-last', 'drop-row-ends', 'drop', 'keep'] | None = 'drop-last',
    pick: int | str | None = None,
    make_clip: str | tuple[str, float | str | PathLike[str]] | Sequence[str | tuple[str, float | str | PathLike[str]]] | Mapping[str, float | str | PathLike[str]] | None = ...,
    make_group: str | tuple[str, float | str | PathLike[str]] | Sequence[str | tuple[str, float | str | PathLike[str]]] | Mapping[str, float | str | PathLike[str]] | None = ...,
    choose: Literal['all', 'random'] | None = None,
    weight: str | tuple[str, float | str | PathLike[str]] | Sequence[str | tuple[str, float | str | PathLike[str]]] | Mapping[str, float | str | PathLike[str]] | None = ...,
    look: str | PathLike[str] | None = None,
    force: bool | None = False,
    dry_run: bool | None = False,
    fresh_clips: bool | None = False,
    jobs: int | str | None = None,
    max_pixels: int | str | None = None,
    watch: Callable[[Note | Progress], object] | None = None,
) -> HandledSheets:
    """Write the manifest of a sheet as it is, from wherever it comes; no pixel is moved.

    Parameters
    ----------
    sources : IMAGE
        pictures
    names : PATTERN
        what frames are called: "walk_{row}_{column}"; also {number}, {name} of the picture, {clip} of the row; all
        count from 0 (default: {name}_{number:04})
    pivot : PLACE|X,Y|mass
        where frames turn or stand, no pixel moved: a place of the canvas (bottom), its pixels from the top left, or
        the centre of what is seen; "walk*=bottom" for one series (many)
    fps : R
        frames a second: 12, 24000/1001, walk:8 (default: what an animated image or a manifest states, else 12)
    hold : T
        how long each frame shows: ticks (2) or a time (80ms, 0.5s, 1/12s)
    repeat : N
        how many cycles, or forever (default: as stated, else forever)
    timebase : R
        ticks a second (default: 60 for a hold in ticks)
    order : FRAMES
        the clip's frames to show, from 0: 0-7, 0-3*2,4*6,3-1 (*N: held N times as long as is usual), walk:0-3,2-1
    holds : LIST
        one for each step: 4,2,2,8 or 80ms*3,1s
    length : T
        one cycle lasts so long (1.5s), in proportion
    speed : N
        so many times as fast: 2, 1/2
    pace : EASING
        a CSS easing function: frames go by unevenly, the total stays: ease-in-out, cubic-bezier(0.3, 0, 0.7, 1)
    convert : bool
        round to that timebase, without accumulated error
    direction : normal|reverse|alternate|alternate-reverse
        in the words of CSS; alternate is ping-pong: there and back, each end once
    hold_ends : bool
        to and fro shows each end twice, or once again
    end : last|first|none
        what shows after a finite clip
    then : NAME
        the clip that follows, in place of an end; after one that plays forever, when that is left
    interpolation : step|linear|motion
        linear: fade into the next frame; motion: warp into it
    phase : P
        where it starts: in steps (3, 2.5), 25% of a cycle (kept when holds change), a time (0.5s) or ticks (12t)
    event : STEP:NAME
        what happens when a step begins to show: 3:chirp (many)
    no_events : bool
        drop the events there are
    row_clips : A,B,C
        a clip for each row of the sheet, by these names
    map : MAP=SRC
        frames of another map in the same layout: emission=glow/ (for each SRC, or one for all)
    map_suffix : MAP=_x
        the map of moth_1.png is moth_1_x.png beside it
    map_kind : MAP=KIND
        color, mask, normal, normal-down or motion (default: by its name, else color)
    missing_map : error|neutral
        when a map lacks a frame: refuse (default), or put its neutral value there
    columns : N
        alone: the cells are square
    rows : N
        alone: the cells are square
    cell : WxH
        cell size in pixels; parts of them where the sheet was scaled: 35/2x18
    gap : N|XxY
        pixels between cells: 2, or 2x0 across and down (default: 0)
    margin : N|XxY
        pixels around all: 1, or 1x0 (default: 0)
    at : X,Y
        where the first cell begins; what is left over at the other end is said (default: 0,0)
    fill : across|down
        which way frames run (default: across)
    grid : GRID
        one of several grids in the picture: "at=1,1 cell=96x48 gap=1 columns=5 rows=8" (many)
    like : OTHER.kivel.json
        the places, names and clips of another sheet
    islands : bool
        no grid: each thing with empty pixels around it is a frame
    join : N
        parts with at most N empty pixels between them are one
    least : AREA
        islands of fewer pixels are left out
    visible_above : ALPHA
        pixels up to this alpha part islands (default: 7)
    align : PLACE
        all on one canvas, aligned: bottom for things that stand (default: each on its own box)
    regions : NAME.regions.toml
        named rectangles that stand in a file
    find_again : bool
        the picture changed: regions that moved or grew are found by their looks, and the file is brought up to date
    as_written : bool
        cut regions where the file says, though what was seen there lies elsewhere now
    save_regions : NAME.regions.toml
        write what was found as regions, to be edited; without -o nothing else
    key : #RRGGBB|corner|none
        the colour that stands for nothing, or that of the first corner (default: found, where a flat colour lies
        behind all)
    empty : drop-last|drop-row-ends|drop|keep
        transparent cells: leave out those after the last drawn one, of each row too, all, or none (default: drop-
        last; with row clips drop-row-ends)
    pick : N
        where it was not sure how the picture divides: this one of those it named
    make_clip : NAME=FRAMES
        a clip of some frames: peck=4-9, peck=hen:4-9 (of the sequence hen), walk=walk_* (by name) (many)
    make_group : NAME=CLIPS
        a group of the clips that match a pattern: row=lantern-* (many)
    choose : all|random
        what becomes of the group: all are used (default), or each instance picks one
    weight : CLIPS=N
        how likely a clip is picked, against 1 for the others: lamp-3=2 (many)
    look : OUT.png
        draw the likeliest ways side by side, over the picture
    force : bool
        overwrite files that Kivel did not write
    dry_run : bool
        say what would be written, and write nothing
    fresh_clips : bool
        made again: clips, groups and pivots as they come, without what was set since
    jobs : N
        threads (default: one for each processor)
    max_pixels : N
        refuse images that state more pixels (default: 268435456, a 16384x16384 page)
    watch : callable
        is called with each Note and Progress; what it raises stops the work

    Raises
    ------
    KivelError
        What cannot be done; nothing is written then.
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
        What cannot be done; nothing is written then.
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
    """Change how clips play: rates, holds, order, direction, repeat, phase, pace, events; new clips from old ones.

    Parameters
    ----------
    manifest : MANIFEST
        NAME.kivel.json; it is changed in place
    pivot : PLACE|X,Y|mass
        where frames turn or stand, no pixel moved: a place of the canvas (bottom), its pixels from the top left, or
        the centre of what is seen; "walk*=bottom" for one series (many)
    new : NAME
        keep the clip, and give the changed copy this name
    rename : NAME
        give the clip another name
    remove : bool
        remove the clips that are chosen
    row_clips : A,B,C
        a new clip for each row of the sheet, by these names
    make_group : NAME=CLIPS
        a group of the clips that match a pattern: row=lantern-* (many)
    choose : all|random
        what becomes of the group: all are used (default), or each instance picks one
    stagger : N
        add N clips at evenly spread phases
    stagger_seed : SEED
        scatter their phases instead, by this seed
    clip : NAME
        a name or a pattern (many) (default: all clips)
    order : FRAMES
        the clip's frames to show, from 0: 0-7, 0-3*2,4*6,3-1 (*N: held N times as long as is usual), walk:0-3,2-1
    fps : R
        every step shows for 1/R s
    hold : T
        every step: ticks (2) or a time (80ms)
    holds : LIST
        one for each step: 4,2,2,8 or 80ms*3,1s
    length : T
        one cycle lasts so long (1.5s), in proportion
    speed : N
        so many times as fast: 2, 1/2
    pace : EASING
        a CSS easing function: frames go by unevenly, the total stays: ease-in-out, cubic-bezier(0.3, 0, 0.7, 1)
    timebase : R
        count in R ticks a second; times stay as they are
    convert : bool
        round to that timebase, without accumulated error
    direction : normal|reverse|alternate|alternate-reverse
        in the words of CSS; alternate is ping-pong: there and back, each end once
    hold_ends : bool
        to and fro shows each end twice, or once again
    repeat : N
        how many cycles, or forever
    end : last|first|none
        what shows after a finite clip
    then : NAME
        the clip that follows, in place of an end; after one that plays forever, when that is left
    interpolation : step|linear|motion
        linear: fade into the next frame; motion: warp into it
    phase : P
        where it starts: in steps (3, 2.5), 25% of a cycle (kept when holds change), a time (0.5s) or ticks (12t)
    event : STEP:NAME
        what happens when a step begins to show: 3:chirp (many)
    no_events : bool
        drop the events there are
    weight : CLIPS=N
        how likely a clip is picked, against 1 for the others: lamp-3=2 (many)
    dry_run : bool
        show what would change, and write nothing
    jobs : N
        threads (default: one for each processor)
    max_pixels : N
        refuse images that state more pixels (default: 268435456, a 16384x16384 page)
    watch : callable
        is called with each Note and Progress; what it raises stops the work

    Raises
    ------
    KivelError
        What cannot be done; nothing is written then.
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
        a name or a pattern (many) (default: all clips)
    group : NAME
        the clips of a group; in a random group, each instance picks one clip
    instances : N
        how many play (default: 1)
    seed : N
        seed of everything random (default: 0)
    random_phase : bool
        each instance starts at a random tick
    speed : N
        2, 1/2
    for_ : T
        2s, 500ms, 1h (default: for each clip all of a finite one, one cycle of another)
    leave_at : T
        when a clip that plays forever is left for the one that follows it
    at : T
        what shows at this moment (many)
    clock : R
        what each of R rendered frames a second shows
    manual : bool
        by hand: a step further for each line of standard input
    format : table|csv|json-lines
        times are exact fractions of a second in all but table (default: table)
    jobs : N
        threads (default: one for each processor)
    max_pixels : N
        refuse images that state more pixels (default: 268435456, a 16384x16384 page)
    watch : callable
        is called with each Note and Progress; what it raises stops the work

    Raises
    ------
    KivelError
        What cannot be done; nothing is written then.
    """

def export(
    *manifests: str | PathLike[str] | Sequence[str | PathLike[str]],
    to: Literal['table', 'css', 'svg', 'shader', 'gltf', 'ktx2', 'vtt'] | Sequence[Literal['table', 'css', 'svg', 'shader', 'gltf', 'ktx2', 'vtt']] | None = ...,
    show: str | None = 'color',
    page: int | str | None = None,
    origin: Literal['top', 'bottom'] | None = 'top',
    filter: Literal['nearest', 'smooth'] | None = None,
    pixel_format: Literal['rgba8', 'bc1', 'bc3', 'bc7', 'etc2', 'astc-4x4', 'astc-6x6'] | None = 'rgba8',
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
    """Write what a manifest says for other programs: the numbers of every frame, and when each shows.

    Parameters
    ----------
    manifests : MANIFEST
        NAME.kivel.json
    to : table|css|svg|shader|gltf|ktx2|vtt
        what to write (many) (default: by the suffix of OUT, else table)
    show : MAP
        which map is meant (default: color)
    page : N
        one page alone, its frames numbered anew (default: all pages)
    origin : top|bottom
        where texture coordinates begin (default: top)
    filter : nearest|smooth
        how pixels are scaled by whoever shows them (default: nearest up to 128 px a side, else smooth)
    pixel_format : rgba8|bc1|bc3|bc7|etc2|astc-4x4|astc-6x6
        ktx2: how the graphics card keeps the pixels (default: rgba8, exact)
    layers : steps|frames
        ktx2: a layer for each step of one clip, repeated where holds differ, or for each frame (default: whatever
        is fewer)
    levels : N
        ktx2: how many levels, each half as large as the one before (default: down to one pixel)
    half_texel : bool
        texture coordinates from the centres of the outermost texels, so that neighbours never show
    clock : R
        holds in whole ticks of another clock, R a second; prints the largest rounding error
    strict : bool
        refuse what a target has no place for; otherwise it is told
    list : bool
        say what there is to export to, and nothing else
    profile : FILE
        a whole pack into the folder OUT, as a profile of yours says
    diff : bool
        with a profile: say what would change in the pack, and write nothing
    prune : bool
        with a profile: remove what Kivel wrote there, nobody edited, and is no longer made
    clip : NAME
        a name or a pattern (many) (default: all clips)
    out : OUT
        the file, its suffix choosing the form; a folder where there are several
    force : bool
        overwrite files that Kivel did not write
    dry_run : bool
        say what would be written, and write nothing
    jobs : N
        threads (default: one for each processor)
    max_pixels : N
        refuse images that state more pixels (default: 268435456, a 16384x16384 page)
    watch : callable
        is called with each Note and Progress; what it raises stops the work

    Raises
    ------
    KivelError
        What cannot be done; nothing is written then.
    """

def profile(
    action: Literal['new', 'check', 'show'] | None,
    file: str | PathLike[str] | None,
    /,
    *,
    on: str | PathLike[str] | Sequence[str | PathLike[str]] | None = ...,
    example: Literal['blank', 'tiles', 'burst', 'regions'] | None = 'blank',
    force: bool | None = False,
    dry_run: bool | None = False,
    jobs: int | str | None = None,
    max_pixels: int | str | None = None,
    watch: Callable[[Note | Progress], object] | None = None,
) -> ProfileMade:
    """Describe an engine or a pack in a file of your own: write a profile, check it, see what its templates get.

    Parameters
    ----------
    action : new|check|show
        new: write one to fill in; check: is it right; show: what its templates get
    file : FILE
        the profile, NAME.toml
    on : MANIFEST
        check, show: try it on a manifest (many)
    example : blank|tiles|burst|regions
        new: begin with one of the demo's profiles (default: blank)
    force : bool
        overwrite files that Kivel did not write
    dry_run : bool
        say what would be written, and write nothing
    jobs : N
        threads (default: one for each processor)
    max_pixels : N
        refuse images that state more pixels (default: 268435456, a 16384x16384 page)
    watch : callable
        is called with each Note and Progress; what it raises stops the work

    Raises
    ------
    KivelError
        What cannot be done; nothing is written then.
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
    """Find what would go wrong in the engine: bleeding cells, fringes, late maps, steps nobody sees, files nobody
    reads.

    Parameters
    ----------
    sources : SRC
        a manifest, a folder or files of frames, or with a profile the folder of a pack
    range : A-B
        only the files with these numbers
    series : NAME
        of a folder or a pattern that holds several: the one of this name or pattern; of a manifest: the clip
    layers_as : layers|groups
        what is a frame in OpenRaster: each layer, or each group (default: groups where there are any)
    exposure : STOPS
        OpenEXR to 8-bit sRGB, brightened by so many stops
    only : CODE
        a code, a pattern of codes, or several with commas between (many)
    ignore : CODE[=PATTERN]
        let pass: fringe, cut=moth*; with "until 2027-01-31" or "because REASON" behind (many)
    strict : bool
        warnings fail too
    baseline : FILE
        let pass what an earlier report has, made as JSON
    codes : NAME
        list all codes, or explain one: how it is measured, from what on, and why
    format : text|sarif
        for people, or SARIF 2.1.0 for tools
    mips : N
        the last level at which bleeding is measured (default: 3)
    budget : MB
        megabytes that a page may take uncompressed (default: none)
    sides : bool
        each frame is a tile: do its sides meet?
    clock : R
        the target's ticks a second, to hold holds against
    plays : SRC
        prove that a manifest shows what this source shows, pixel by pixel at its exact times
    tolerance : N
        of a proof: how far values may be off, of 255 (default: 0)
    frames_only : bool
        of a proof: compare frames by their numbers, whatever their order and times
    difference : OUT.png
        of a proof: a picture of the first difference
    profile : FILE
        SRC is the folder of a pack that is as this profile says
    on : MANIFEST
        with a profile: the manifests that the pack is of (many)
    clip : NAME
        a name or a pattern (many) (default: all clips)
    force : bool
        overwrite files that Kivel did not write
    dry_run : bool
        say what would be written, and write nothing
    jobs : N
        threads (default: one for each processor)
    max_pixels : N
        refuse images that state more pixels (default: 268435456, a 16384x16384 page)
    watch : callable
        is called with each Note and Progress; what it raises stops the work

    Raises
    ------
    KivelError
        What cannot be done; nothing is written then.
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
    """Look at frames: an animated image at their own timing, or a contact sheet (.png) of every frame.

    Parameters
    ----------
    sources : SRC
        a folder, files, a pattern in quotes (*, or # for the number), an animated image, or a manifest
    odd_size : error|skip|pad|scale
        frames of another size than most: refuse (default), leave out, pad all to the largest, or scale to the usual
    align : PLACE
        where a smaller frame lies: top-left, top, top-right, left, center, right, bottom-left, bottom, bottom-right
        (default: center)
    frames : TEXT
        arrays of images, (height, width, 4), in place of sources
    range : A-B
        only the files with these numbers
    series : NAME
        of a folder or a pattern that holds several: the one of this name or pattern; of a manifest: the clip
    layers_as : layers|groups
        what is a frame in OpenRaster: each layer, or each group (default: groups where there are any)
    exposure : STOPS
        OpenEXR to 8-bit sRGB, brightened by so many stops
    clip : NAME
        which clip of a manifest, by name or pattern (default: the first; in a timing chart all)
    view : frames|timing|layout
        frames (default); timing: a timing chart, each clip's steps to scale with events, cycles and pace (.png);
        layout: the pages of a manifest, with cells, boxes, frame numbers, gaps and free space (.png)
    scale : N
        4, 0.5, 1/3 (default: small art is enlarged to about 256 px)
    filter : nearest|smooth
        how to scale (default: nearest; smooth in a contact sheet that shrinks)
    backdrop : checker|none|COLOUR
        what transparent pixels show: a colour as #rrggbb or by its CSS name (default: checker)
    tile : CxR
        each frame so many times across and down, to see how a tile goes on: 3x3
    mark : pivot|outline
        draw over frames where they turn, or the polygon of an atlas (many)
    beside : SRC
        of a page (.html): another source, whose clips can be seen beside or wiped over (many)
    serve : bool
        show the page at 127.0.0.1, for this machine alone, and again when sources change
    port : N
        where it is served (default: any that is free)
    show : MAP
        which map of a manifest, or alpha (default: color)
    fps : R
        frames a second: 12, 24000/1001 (default: what an animated image or a manifest states, else 12)
    hold : T
        how long each frame shows: ticks (2) or a time (80ms, 0.5s, 1/12s)
    timebase : R
        ticks a second (default: 60 for a hold in ticks)
    repeat : N
        how often it plays: a count or forever (default: as stated, else forever)
    out : OUT.png|.apng|.gif|.webp|.html
        where to write
    force : bool
        overwrite files that Kivel did not write
    dry_run : bool
        say what would be written, and write nothing
    jobs : N
        threads (default: one for each processor)
    max_pixels : N
        refuse images that state more pixels (default: 268435456, a 16384x16384 page)
    watch : callable
        is called with each Note and Progress; what it raises stops the work

    Raises
    ------
    KivelError
        What cannot be done; nothing is written then.
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
    """Make all that a recipe says, as far as it is not as it should be already: kivel.toml, its steps and outputs.

    Parameters
    ----------
    things : NAME
        which things, by name or pattern, with all that they stand on (default: all)
    file : FILE
        the recipe (default: kivel.toml in this folder)
    list : bool
        say what the recipe makes, and make nothing
    why : NAME
        say why a thing would be made, or would not, and make nothing
    keep_going : bool
        where one fails, make what does not stand on it
    remake : bool
        make everything again, changed or not
    verify : bool
        read every file, whatever its times say
    prune : bool
        remove what is no longer made, if nobody changed it
    clean : bool
        throw away what is kept of steps and of earlier builds
    init : bool
        write a recipe of the manifests and frames that lie here
    schema : bool
        print the JSON Schema of recipes, for editors
    lock : bool
        write the digests of all that is made, to kivel.lock
    frozen : bool
        fail where what is made is not as kivel.lock says
    depfile : FILE
        write what was read and written, as Make and Ninja read it
    ninja : FILE
        write rules for Ninja, and make nothing
    cluster : ADDRESS
        build on the workers of a Dask cluster that see this folder under the same path
    dry_run : bool
        say what would be made, and make nothing
    force : bool
        overwrite files that Kivel did not write
    jobs : N
        how many are made at once (default: one for each processor)
    max_pixels : N
        refuse images that state more pixels (default: 268435456, a 16384x16384 page)
    watch : callable
        is called with each Note and Progress; what it raises stops the work

    Raises
    ------
    KivelError
        What cannot be done; nothing is written then.
    """
