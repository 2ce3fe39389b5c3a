"""Options that commands share, each declared once, with the checks that join them and the values they make."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path
from typing import TYPE_CHECKING, Any, ClassVar, Literal

from kivel.core.errors import UsageError, option
from kivel.making.option import (
    ANY_TEXT,
    EVENT,
    FLAG,
    HOLD,
    HOLDS,
    NAMES,
    ORDER,
    PACE,
    PATH,
    PHASE,
    RANGE,
    RATE,
    REPEAT,
    SIZE,
    TIME,
    Option,
    Options,
    ValueKind,
    choice,
    named,
    number,
    whole,
    written_path,
)

if TYPE_CHECKING:
    from fractions import Fraction

    from kivel.core.layout.page import PageRule
    from kivel.core.layout.spacing import Spacing
    from kivel.core.numbering import NumberRange
    from kivel.core.pixels import Align, Pixels, Size
    from kivel.core.playback.changes import Changes
    from kivel.core.playback.clip import Direction, End, Interpolation, Repeat, Timing
    from kivel.core.playback.easing import Easing
    from kivel.core.playback.groups import Choose, GroupRequest
    from kivel.core.playback.notation import CycleShare, Ordered
    from kivel.files.png.write import Compress
    from kivel.files.safety import OutputSet
    from kivel.sequences.named_clips import ClipRequest
    from kivel.sequences.pairing import MapRequest
    from kivel.sequences.settings import SourceSettings

_ALIGNMENTS = ("top-left", "top", "top-right", "left", "center", "right", "bottom-left", "bottom", "bottom-right")
_MOST_MIPS = 12
_DIRECTIONS = ("normal", "reverse", "alternate", "alternate-reverse")


def moved_path(text: str, move: Callable[[str], str]) -> str:
    """A text that is a path."""
    return move(text)


def _moved_value(text: str, move: Callable[[str], str]) -> str:
    name, _, path = text.partition("=")
    return f"{name}={move(path)}"


class CommonOptions(Options):
    """Every command has them."""

    title = "general"
    jobs: Option[int | None] = Option(whole(1), "threads", default=None, shown="one for each processor", kept=False)
    max_pixels: Option[int | None] = Option(
        whole(1),
        "refuse images that state more pixels",
        default=None,
        shown="268435456, a 16384x16384 page",
        kept=False,
    )

    @property
    def threads(self) -> int:
        from kivel.files.threads import default_jobs

        return self.jobs or default_jobs()

    @property
    def pixel_limit(self) -> int:
        from kivel.files.images import DEFAULT_MAX_PIXELS

        return self.max_pixels or DEFAULT_MAX_PIXELS

    def source_settings(self, *, keep_float: bool = False, **more: Any) -> SourceSettings:
        """How to read sources; `keep_float` for commands that can write float frames."""
        from kivel.sequences.settings import SourceSettings

        return SourceSettings(max_pixels=self.pixel_limit, keep_float=keep_float, **more)


class ReadingOptions(CommonOptions):
    """How files become frames."""

    title = "frames"
    range: Option[NumberRange | None] = Option(RANGE, "only the files with these numbers", default=None)
    layers_as: Option[Literal["layers", "groups"] | None] = Option(
        choice("layers", "groups"),
        "what is a frame in OpenRaster: each layer, or each group",
        default=None,
        shown="groups where there are any",
    )
    exposure: Option[float | None] = Option(
        number(-32, 32, "STOPS"), "OpenEXR to 8-bit sRGB, brightened by so many stops", default=None
    )

    def source_settings(self, *, keep_float: bool = False, **more: Any) -> SourceSettings:
        out = self.values.get("out")
        return super().source_settings(
            keep_float=keep_float,
            within=self.range,
            layers=self.layers_as,
            exposure=self.exposure,
            target=Path(out) if out else None,
            arrays=self.values.get("frames", ()),
            **more,
        )


class SourceOptions(ReadingOptions):
    """SRC, or in Python the frames themselves."""

    title = "frames"
    sources: Option[tuple[str, ...]] = Option(
        ValueKind("SRC", str, written_path),
        "a folder, files, a pattern in quotes (*, or # for the number), an animated image, or a manifest",
        default=(),
        many=True,
        positional=True,
        from_folder=moved_path,
    )
    frames: Option[tuple[Pixels, ...]] = Option(
        ANY_TEXT, "arrays of images, (height, width, 4), in place of sources", default=(), direct=True, kept=False
    )

    def check(self) -> None:
        super().check()
        if self.given("sources") == self.given("frames"):
            other = f" or {option('frames')}" if self.door == "python" else ""
            what = "not both" if self.given("frames") else "a folder, files, a pattern in quotes or a manifest"
            raise UsageError(f"give SRC{other}: {what}")


class MatchingOptions(SourceOptions):
    """Frames made to agree in size."""

    title = "frames"
    odd_size: Option[Literal["error", "skip", "pad"]] = Option(
        choice("error", "skip", "pad"),
        "frames of another size than most: refuse (default), leave out, or pad all to the largest",
        default="error",
    )
    align: Option[Align] = Option(
        choice(*_ALIGNMENTS, form="PLACE"),
        f"where a smaller frame lies: {', '.join(_ALIGNMENTS)}",
        default="center",
        shown="center",
    )


class KindOptions(Options):
    """What the values of frames mean."""

    title = "frames"
    as_: Option[Literal["color", "mask", "normal", "normal-down"]] = Option(
        choice("color", "mask", "normal", "normal-down"),
        "what the values mean: color (default); mask: no gamma, alpha apart; normal: vectors, green up; "
        "normal-down: green down",
        default="color",
    )


class TimingOptions(Options):
    """How long frames show."""

    title = "timing"
    exclusive: ClassVar = (("fps", "hold"),)
    fps: Option[Fraction | None] = Option(
        RATE,
        "frames a second: 12, 24000/1001",
        default=None,
        shown="what an animated image or a manifest states, else 12",
    )
    hold: Option[int | Fraction | None] = Option(
        HOLD, "how long each frame shows: ticks (2) or a time (80ms, 0.5s, 1/12s)", default=None
    )
    timebase: Option[Fraction | None] = Option(RATE, "ticks a second", default=None, shown="60 for a hold in ticks")
    repeat: Option[Repeat | None] = Option(
        REPEAT, "how often it plays: a count or forever", default=None, shown="as stated, else forever"
    )

    def timing(self) -> Timing:
        from kivel.core.playback.clip import Timing

        return Timing(fps=self.fps, hold=self.hold, timebase=self.timebase, repeat=self.repeat)


class GroupOptions(Options):
    """Groups of clips."""

    title = "clips"
    make_group: Option[tuple[tuple[str, str], ...]] = Option(
        named("row=lantern-*", "NAME=CLIPS"),
        "a group of the clips that match a pattern: row=lantern-* (many)",
        default=(),
        many=True,
    )
    choose: Option[Choose | None] = Option(
        choice("all", "random"),
        "what becomes of the group: all are used (default), or each instance draws one",
        default=None,
    )

    def check(self) -> None:
        super().check()
        if self.choose and not self.make_group:
            raise UsageError(
                f"{option('choose')} says how, {option('make-group', 'NAME=CLIPS')} of which clips; give both"
            )

    def group_requests(self) -> tuple[GroupRequest, ...]:
        from kivel.core.playback.groups import GroupRequest

        return tuple(
            GroupRequest(name=name, pattern=pattern, choose=self.choose or "all") for name, pattern in self.make_group
        )


class ClipOptions(GroupOptions):
    """Clips of some frames, and groups of them."""

    title = "clips"
    make_clip: Option[tuple[tuple[str, str], ...]] = Option(
        named("peck=4-9 or walk=walk_*", "NAME=FRAMES"),
        "a clip of some frames: peck=4-9, peck=hen:4-9 (of the sequence hen), walk=walk_* (by name) (many)",
        default=(),
        many=True,
    )

    def clip_requests(self) -> list[ClipRequest]:
        from kivel.sequences.named_clips import ClipRequest

        return [ClipRequest(name=name, what=what) for name, what in self.make_clip]


class RowClipOptions(Options):
    """A clip for each row of a sheet."""

    title = "clips"
    row_clips: Option[tuple[str, ...]] = Option(NAMES, "a clip for each row of the sheet, by these names", default=())


class StepTimeOptions(Options):
    """Which steps a clip has, and how long each shows."""

    title = "frames and times"
    exclusive: ClassVar = (("fps", "hold", "holds"),)
    order: Option[tuple[Ordered, ...]] = Option(
        ORDER,
        "the frames to show: 0-7, 0-3*2,4*6,3-1; *N: held N times as long as is usual",
        default=(),
    )
    fps: Option[Fraction | None] = Option(RATE, "every step shows for 1/R s", default=None)
    hold: Option[int | Fraction | None] = Option(HOLD, "every step: ticks (2) or a time (80ms)", default=None)
    holds: Option[tuple[int | Fraction, ...]] = Option(HOLDS, "one for each step: 4,2,2,8 or 80ms*3,1s", default=())
    length: Option[Fraction | None] = Option(TIME, "one cycle lasts so long (1.5s), in proportion", default=None)
    speed: Option[Fraction | None] = Option(RATE, "so many times as fast: 2, 1/2", default=None, form="N")
    pace: Option[Easing | None] = Option(
        PACE,
        "a CSS easing function: frames go by unevenly, the total stays: ease-in-out, cubic-bezier(0.3, 0, 0.7, 1)",
        default=None,
    )
    timebase: Option[Fraction | None] = Option(RATE, "count in R ticks a second; times stay as they are", default=None)
    convert: Option[bool] = Option(FLAG, "round to that timebase, without drift, where it must", default=False)

    def check(self) -> None:
        super().check()
        if self.length == 0:
            raise UsageError(
                f"{option('length')}: expected a length above 0, like 1.5s, found {self.texts['length'][0]!r}"
            )
        if self.convert and not self.timebase:
            raise UsageError(f"{option('convert')} rounds to a timebase; give {option('timebase', 'N')} too")


class PlaybackOptions(Options):
    """How a clip plays its steps."""

    title = "playing"
    direction: Option[Direction | None] = Option(
        choice(*_DIRECTIONS), "in the words of CSS; alternate goes to and fro, each end once", default=None
    )
    hold_ends: Option[bool | None] = Option(
        FLAG, "to and fro shows each end twice, or once again", default=None, negatable=True
    )
    repeat: Option[Repeat | None] = Option(REPEAT, "how many cycles, or forever", default=None)
    end: Option[End | None] = Option(choice("last", "first", "none"), "what shows after a finite clip", default=None)
    interpolation: Option[Interpolation | None] = Option(
        choice("step", "linear"), "linear: blend towards the next frame", default=None
    )
    phase: Option[Fraction | CycleShare | None] = Option(
        PHASE, "where it starts: in steps (3, 2.5), or 25% of a cycle", default=None
    )
    event: Option[tuple[tuple[int, str], ...]] = Option(
        EVENT, "what happens when a step begins to show: 3:chirp (many)", default=(), many=True
    )
    no_events: Option[bool] = Option(FLAG, "drop the events there are", default=False)


class ChangeOptions(StepTimeOptions, PlaybackOptions):
    """All that can be changed of a clip."""

    def changes(self) -> Changes:
        from kivel.core.playback.changes import Changes

        return Changes(
            order=tuple(self.order),
            direction=self.direction,
            hold_ends=self.hold_ends,
            fps=self.fps,
            hold=self.hold,
            holds=tuple(self.holds),
            length=self.length,
            speed=self.speed,
            pace=self.pace,
            timebase=self.timebase,
            convert=self.convert,
            repeat=self.repeat,
            end=self.end,
            interpolation=self.interpolation,
            phase=self.phase,
            events=tuple(self.event),
            drop_events=self.no_events,
        )


class WritingOptions(CommonOptions):
    """What becomes of files that are there."""

    title = "output"
    force: Option[bool] = Option(FLAG, "overwrite files that Kivel did not write", default=False, kept=False)
    dry_run: Option[bool] = Option(FLAG, "say what would be written, and write nothing", default=False, kept=False)

    def output_set(self, *, with_manifest: bool = True) -> OutputSet:
        """Where a command gathers its files.

        One that writes no manifest beside them replaces nothing of its own accord: a page that a manifest knows is part
        of a sheet.
        """
        from kivel.files.ownership import written_by_kivel
        from kivel.files.safety import OutputSet

        def is_ours(path: Path) -> bool:
            return with_manifest and written_by_kivel(path, max_pixels=self.pixel_limit)

        return OutputSet(force=self.force, is_ours=is_ours, dry_run=self.dry_run)


class OutputOptions(WritingOptions):
    """Where to write. Python may leave it out: what is made comes back in memory."""

    title = "output"
    out: Option[str | None] = Option(PATH, "where to write", default=None, form="OUT", from_folder=moved_path)

    def check(self) -> None:
        super().check()
        if self.needs_out and not self.out:
            form = type(self).declared()["out"].form
            raise UsageError(f"{option('out', form)} is needed: where to write")

    @property
    def needs_out(self) -> bool:
        return self.door != "python"


class CompressOptions(Options):
    """How hard PNG is compressed."""

    title = "output"
    compress: Option[Compress] = Option(
        choice("fast", "small"),
        "PNG: fast (default), or small: grey or palette where nothing is lost, and a harder search",
        default="fast",
    )


class FrameOutputOptions(OutputOptions, CompressOptions):
    """Frames are written into a folder."""

    title = "output"
    out = OutputOptions.out.but(form="DIR")


class SpacingOptions(Options):
    """What lies between and around things on a page."""

    title = "layout"
    gap: Option[int] = Option(whole(0), "pixels between them", default=0, shown="0")
    margin: Option[int] = Option(whole(0), "pixels around all", default=0, shown="0")
    skirt: Option[int] = Option(whole(0), "repeat each frame's edge pixels outward", default=0)
    skirt_wrap: Option[bool] = Option(FLAG, "for tiles: fill the skirt from the opposite edge", default=False)
    mip_safe: Option[int | None] = Option(
        whole(1, _MOST_MIPS), "align so that no texel of the first N mip levels mixes two frames", default=None
    )

    def check(self) -> None:
        super().check()
        if self.skirt_wrap and not self.skirt:
            raise UsageError(f"{option('skirt-wrap', True)} says how, {option('skirt', 'N')} how far; give both")

    def spacing(self, *, parts: int = 1) -> Spacing:
        """`parts` is what smaller maps need places to divide by."""
        from kivel.core.layout.spacing import Spacing

        if self.skirt % parts:
            raise UsageError(
                f"a skirt of {self.skirt} px does not divide by {parts}, which {option('map-scale')} needs"
            )
        block = (1 << (self.mip_safe or 0)) * parts
        return Spacing(gap=self.gap, margin=self.margin, skirt=self.skirt, block=block)


class PageOptions(Options):
    """Which pages are allowed."""

    title = "page"
    free: Option[bool] = Option(FLAG, "sides of any length (default)", default=False)
    pow2: Option[bool] = Option(FLAG, "sides that are powers of two", default=False)
    square: Option[bool] = Option(FLAG, "sides of one length", default=False)
    multiple_of: Option[int] = Option(whole(1), "sides that are multiples of N", default=1)
    page_limit: Option[Size | None] = Option(
        SIZE, "the largest page; more frames go on more pages", default=None, shown="no limit"
    )

    def check(self) -> None:
        super().check()
        multiple = self.multiple_of
        if self.free and (self.pow2 or self.square or multiple > 1):
            others = f"{option('pow2', True)}, {option('square', True)} and {option('multiple-of')}"
            raise UsageError(f"{option('free', True)} leaves the page's sides free; leave out {others}")
        if self.pow2 and multiple & (multiple - 1):
            either = f"{option('pow2', True)} or {option('multiple-of')}"
            raise UsageError(f"no power of two is a multiple of {multiple}; leave out {either}")

    def page_rule(self) -> PageRule:
        from kivel.core.layout.page import PageRule

        return PageRule(pow2=self.pow2, square=self.square, multiple_of=self.multiple_of, limit=self.page_limit)


def _map_kind(example: str, form: str) -> ValueKind[tuple[str, str]]:
    """`MAP=VALUE`; the colour map is what the sources give."""
    plain = named(example, form)

    def read(text: str) -> tuple[str, str]:
        name, value = plain.read(text)
        if not name.replace("-", "").replace("_", "").isalnum():
            raise UsageError(f"expected {form}, like {example}, found {text!r}")
        if name == "color":
            raise UsageError('"color" is what SRC gives; name another map')
        return name, value

    return plain._replace(read=read)


class MapOptions(Options):
    """Companion maps, in step with the colour."""

    title = "companion maps"
    map: Option[tuple[tuple[str, str], ...]] = Option(
        _map_kind("emission=glow/", "MAP=SRC"),
        "frames of another map in the same layout: emission=glow/ (for each SRC, or one for all)",
        default=(),
        many=True,
        from_folder=_moved_value,
    )
    map_suffix: Option[tuple[tuple[str, str], ...]] = Option(
        _map_kind("normal=_n", "MAP=_x"), "the map of moth_1.png is moth_1_x.png beside it", default=(), many=True
    )
    map_kind: Option[tuple[tuple[str, str], ...]] = Option(
        _map_kind("glow=mask", "MAP=KIND"),
        "color, mask, normal, normal-down or motion (default: by its name, else color)",
        default=(),
        many=True,
    )
    map_scale: Option[tuple[tuple[str, str], ...]] = Option(
        _map_kind("mask=1/2", "MAP=1/N"), "a smaller map: mask=1/2", default=(), many=True
    )
    missing_map: Option[Literal["error", "neutral"]] = Option(
        choice("error", "neutral"),
        "when a map lacks a frame: refuse (default), or put its neutral value there",
        default="error",
    )

    def map_parts(self) -> dict[str, int]:
        """One side of the colour map is so many of each smaller map's."""
        parts = {}
        for name, text in self.map_scale:
            one, _, count = text.partition("/")
            if one != "1" or not count.isdigit() or not 1 <= int(count) <= 16:
                raise UsageError(f"{option('map-scale', f'{name}={text}')}: expected 1/2, 1/3, ... to 1/16")
            parts[name] = int(count)
        return parts

    def map_requests(self) -> list[MapRequest]:
        """The maps asked for, in the order of their names' first mention; those that sources bring along not."""
        from kivel.core.contents import CONTENTS
        from kivel.sequences.pairing import MapRequest

        names = dict.fromkeys(name for name, _ in [*self.map, *self.map_suffix, *self.map_kind, *self.map_scale])
        suffixes, kinds, parts = dict(self.map_suffix), dict(self.map_kind), self.map_parts()
        for name, kind in kinds.items():
            if kind not in CONTENTS:
                raise UsageError(f"{option('map-kind', f'{name}={kind}')}: expected {', '.join(CONTENTS)}")
        requests = []
        for name in names:
            sources = tuple(source for other, source in self.map if other == name)
            if sources and name in suffixes:
                raise UsageError(f"map {name}: give {option('map')} or {option('map-suffix')}, not both")
            content = CONTENTS[kinds[name]] if name in kinds else None
            requests.append(MapRequest(name, sources, suffixes.get(name), content, parts.get(name)))
        return requests


class ShowOptions(Options):
    """Which map is seen."""

    title = "look"
    show: Option[str] = Option(ANY_TEXT, "which map of a manifest", default="color", form="MAP", shown="color")


class ChoosingOptions(Options):
    """Which clips are meant."""

    title = "which clips"
    clip: Option[tuple[str, ...]] = Option(
        ANY_TEXT, "a name or a pattern (many)", default=(), many=True, form="NAME", shown="all clips"
    )
