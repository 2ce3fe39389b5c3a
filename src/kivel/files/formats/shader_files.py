"""Shader code that finds frames on a page, and which of them shows when: parts to be included, without a main.

Places are shares of a frame's canvas, 0 to 1 from the texture's own origin. Times are in seconds of one cycle. A time
is compared with the smallest 32-bit float that is not below the exact one, so that no 32-bit time errs at a boundary.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping, Sequence
from fractions import Fraction

from kivel.core.errors import UsageError
from kivel.core.exporting.float_text import float32_text, float32_text_above
from kivel.core.exporting.playback_table import PlaybackTable, TableFrame, TableMotion
from kivel.core.exporting.step_tables import StepTable
from kivel.core.naming import identifier, identifiers
from kivel.core.playback.groups import Group
from kivel.core.wording import counted
from kivel.files.formats.shader_dialects import SHADER_DIALECTS, Argument, ShaderDialect
from kivel.files.own_digest import BLANK_DIGEST

__all__ = ["shader_text"]

_MOST = 4096
_KINDS = {1: "float", 2: "vec2", 3: "vec3", 4: "vec4"}
_FRAME, _AT = Argument("index", "frame"), Argument("vec2", "at")
_NOWHERE = (-9, -9, 1, 1)


def shader_text(table: PlaybackTable, suffix: str) -> str:
    """All frames and clips, in the language of a suffix.

    Raises
    ------
    UsageError
        If there are more frames that lie in no grid, or more steps, than code should hold.
    """
    longest = max([len(clip.steps) for clip in table.clips] + [0 if table.grid else len(table.frames)])
    if longest > _MOST:
        raise UsageError(f"{longest} frames or steps are too many for a shader (at most {_MOST}); export a table")
    return "\n".join(_Shader(table, SHADER_DIALECTS[suffix]).lines()) + "\n"


class _Shader:
    """One file. A `row` is what is known of a frame, or of a step: the numbers of a vector, as texts."""

    def __init__(self, table: PlaybackTable, dialect: ShaderDialect) -> None:
        self.table = table
        self.dialect = dialect
        self.name = identifier(table.name, "sheet")
        self.trimmed = any(frame.rect.size != frame.canvas or frame.turn for frame in table.frames)
        self.turned = any(frame.turn or frame.flip for frame in table.frames)

    def lines(self) -> Iterator[str]:
        yield from self._about()
        yield from self.dialect.preamble
        yield ""
        yield from self._constants()
        yield from self._lookups()
        yield from self._places()
        yield from self._colors()
        if self.table.motion and len(self.table.pages) == 1:
            yield from self._motion(self.table.motion)
        names = identifiers((clip.clip.name for clip in self.table.clips), "clip")
        alike: dict[tuple[tuple[str, ...], ...], str] = {}
        for name, clip in zip(names, self.table.clips, strict=True):
            full = f"{self.name}_{name}"
            rows = tuple(_step_row(clip, number) for number in range(len(clip.steps)))
            yield from self._clip(full, clip, rows, alike.setdefault(rows, full))
        called = {clip.clip.name: f"{self.name}_{name}" for name, clip in zip(names, self.table.clips, strict=True)}
        groups = [group for group in self.table.groups if group.choose == "random"]
        after = identifiers([*called, *(group.name for group in groups)], "clip")[len(called) :]
        for name, group in zip(after, groups, strict=True):
            yield from self._pick(f"{self.name}_{name}", group, called)

    def _pick(self, name: str, group: Group, called: Mapping[str, str]) -> Iterator[str]:
        """One clip of a group by a number from 0 to 1, each as often as its weight says."""
        weighted = [(called[member], weight) for member, weight in group.weighted() if weight]
        total = sum(weight for _, weight in weighted)
        before = [sum(weight for _, weight in weighted[:number]) for number in range(len(weighted))]
        bounds = [float32_text_above(Fraction(weight, total)) for weight in before]
        pick, seconds = Argument("float", "pick"), Argument("float", "seconds")
        yield f"// {group.name!a}: pick is a random number, 0 or more and below 1, that an instance keeps"
        cycles = [f"{clip}_cycle".upper() for clip, _ in weighted]
        body = list(_halved(cycles, bounds, "pick", 0, len(weighted), ""))
        yield from self.dialect.function("float", f"{name}_cycle", [pick], body)
        shown = [f"{clip}_at(seconds)" for clip, _ in weighted]
        body = list(_halved(shown, bounds, "pick", 0, len(weighted), ""))
        yield from self.dialect.function("vec3", f"{name}_at", [seconds, pick], body)

    def _about(self) -> Iterator[str]:
        name, last = self.name, len(self.table.frames) - 1
        yield f"// {self.dialect.name}. Frames 0-{last}; places count from the {self.table.origin} left, 0 to 1."
        yield f"// {name}_place(frame, at): x, y on the page; z is 0 where the frame has no pixels, else 1."
        yield f"// {name}_moved(frame, at, scale, shift): the same, the picture scaled about its pivot, then shifted."
        yield f"// {name}_layer_place(at): the same on a layer or a texture that holds one frame's whole canvas."
        yield f"// {name}_..._at(seconds), one for each clip: x the frame, y the one that follows, z the share of that."
        yield "// Wrap the time to one cycle before: seconds - floor(seconds / ..._CYCLE) * ..._CYCLE."
        yield f"// digest: {BLANK_DIGEST}"
        if self.table.shown.is_color:
            yield "// Bind colour as an sRGB texture: frames are mixed in linear light."

    def _constants(self) -> Iterator[str]:
        table = self.table
        yield self._named("frames", "float", f"{len(table.frames)}.0")
        yield self._named("half_texel", "vec2", *[float32_text(Fraction(table.shown.parts, 2))] * 2)
        yield self._named("nothing", "vec2", "0.0", "0.0")
        yield self._named("middle", "vec2", "0.5", "0.5")
        yield self._named("all", "vec2", "1.0", "1.0")
        yield self._named("tiny", "float", "0.000001")
        if table.grid:
            grid = table.grid
            pitch = (grid.cell.w + grid.gap.x, grid.cell.h + grid.gap.y)
            line = grid.columns if grid.fill == "across" else grid.rows
            yield self._named("line", "index", self.dialect.number(line))
            yield self._named("cell", "vec2", *_texts(*grid.cell))
            yield self._named("pitch", "vec2", *_texts(*pitch))
            yield self._named("margin", "vec2", *_texts(*grid.margin))
        yield ""

    def _lookups(self) -> Iterator[str]:
        """Return what is known of each frame; in a grid the rectangle is computed."""
        frames, table = self.table.frames, self.table
        if len(table.pages) > 1:
            yield from self._lookup("page", [_texts(frame.page) for frame in frames])
        yield from self._lookup("page_size", [_texts(*table.pages[frame.page].size) for frame in frames])
        if table.grid:
            yield from self._grid_rect()
        else:
            yield from self._lookup("rect", [_texts(*frame.rect) for frame in frames])
        yield from self._lookup("canvas", [_texts(*frame.canvas) for frame in frames])
        yield from self._lookup("pivot", [self._pivot(frame) for frame in frames])
        if self.trimmed:
            yield from self._lookup("box", [_texts(*_box(frame)) for frame in frames])
        if self.turned:
            yield from self._lookup("axes", [_texts(*_axes(frame)) for frame in frames])

    def _pivot(self, frame: TableFrame) -> tuple[str, ...]:
        x, y = frame.pivot
        return float32_text(x), float32_text(y if self.table.origin == "top" else 1 - y)

    def _grid_rect(self) -> Iterator[str]:
        """The line of cells by whole numbers; in floats half a frame is added, so that no division errs."""
        assert self.table.grid is not None
        length = self._("line")
        number = f"frame / {length}" if self.dialect.has_whole_numbers else f"floor((frame + 0.5) / {length})"
        along, across = f"float(frame - band * {length})", "float(band)"
        cell = f"vec2({along}, {across})" if self.table.grid.fill == "across" else f"vec2({across}, {along})"
        body = [
            self.dialect.let("index", "band", number),
            f"return vec4({self._('margin')} + {cell} * {self._('pitch')}, {self._('cell')});",
        ]
        yield "// x, y, width and height on the page, in pixels from the top left"
        yield from self.dialect.function("vec4", f"{self.name}_rect", [_FRAME], body)

    def _flipped(self, at: str) -> str:
        """A place from the texture's own origin as one from the top left, and the other way round."""
        return f"vec2({at}.x, 1.0 - {at}.y)" if self.table.origin == "bottom" else at

    def _place(self, half: str) -> list[str]:
        """Where a place of a frame lies on the page, half a texel and more inside its rectangle."""
        name, let = self.name, self.dialect.let
        body = [let("vec4", "rect", f"{name}_rect(frame)"), let("vec2", "size", f"{name}_page_size(frame)")]
        inside = self._flipped("at")
        if self.trimmed:
            body.append(let("vec4", "box", f"{name}_box(frame)"))
            inside = f"({inside} * {name}_canvas(frame) - box.xy) / box.zw"
        body.append(let("vec2", "inside", inside))
        body.append(let("vec2", "edges", self._edges("inside")))
        stored = "inside"
        if self.turned:
            body.append(let("vec4", "axes", f"{name}_axes(frame)"))
            middle = self._("middle")
            body.append(let("vec2", "away", f"inside - {middle}"))
            stored = f"{middle} + away.x * axes.xy + away.y * axes.zw"
        return [
            *body,
            let("vec2", "stored", stored),
            let("vec2", "farthest", f"max(rect.zw - {half}, {half})"),
            let("vec2", "pixel", f"rect.xy + clamp(stored * rect.zw, {half}, farthest)"),
            let("vec2", "share", "pixel / size"),
            let("vec2", "place", self._flipped("share")),
            "return vec3(place, edges.x * edges.y);",
        ]

    def _places(self) -> Iterator[str]:
        name, let, half = self.name, self.dialect.let, self._("half_texel")
        yield from self.dialect.function("vec3", f"{name}_place", [_FRAME, _AT], self._place(half))
        moved = [
            let("vec2", "pivot", f"{name}_pivot(frame)"),
            f"return {name}_place(frame, pivot + (at - shift - pivot) / scale);",
        ]
        arguments = [_FRAME, _AT, Argument("vec2", "scale"), Argument("vec2", "shift")]
        yield from self.dialect.function("vec3", f"{name}_moved", arguments, moved)
        layer = [
            let("vec2", "nearest", f"{half} / {name}_canvas(frame)"),
            let("vec2", "edges", self._edges("at")),
            f"return vec3(clamp(at, nearest, {self._('all')} - nearest), edges.x * edges.y);",
        ]
        yield from self.dialect.function("vec3", f"{name}_layer_place", [_FRAME, _AT], layer)

    def _edges(self, what: str) -> str:
        """1 across and 1 down between the edges, else 0."""
        return f"step({self._('nothing')}, {what}) * step({what}, {self._('all')})"

    def _colors(self) -> Iterator[str]:
        """Two frames mixed by a weight: their colours as far as they cover, unless that is in them already."""
        name, dialect = self.name, self.dialect
        first, second, weight = Argument("vec4", "first"), Argument("vec4", "second"), Argument("float", "weight")
        body = ["return mix(first, second, weight);"]
        if self.table.shown.is_color and self.table.shown.alpha == "straight":
            body = [
                dialect.let("float", "alpha", "mix(first.w, second.w, weight)"),
                dialect.let("vec3", "covered", "mix(first.xyz * first.w, second.xyz * second.w, weight)"),
                f"return vec4(covered / max(alpha, {self._('tiny')}), alpha);",
            ]
        yield from dialect.function("vec4", f"{name}_mixed", [first, second, weight], body)
        shown = Argument("vec3", "shown")
        places = [
            dialect.let("vec3", "first", f"{name}_place(index(shown.x), at)"),
            dialect.let("vec3", "second", f"{name}_place(index(shown.y), at)"),
        ]
        layers = [line.replace("_place", "_layer_place") for line in places]
        if len(self.table.pages) == 1:
            colors = dialect.sample("page", "first.xy"), dialect.sample("page", "second.xy")
            yield from self._mixing("color", [Argument("page", "page"), shown, _AT], places, colors)
        if dialect.layers:
            colors = (
                dialect.sample_layer("layers", "first.xy", "shown.x"),
                dialect.sample_layer("layers", "second.xy", "shown.y"),
            )
            yield from self._mixing("layer_color", [Argument("layers", "layers"), shown, _AT], layers, colors)
        colors = dialect.sample("page", "first.xy"), dialect.sample("next", "second.xy")
        yield "// the textures of the two frames, where each has its own"
        arguments = [Argument("page", "page"), Argument("page", "next"), shown, _AT]
        yield from self._mixing("texture_color", arguments, layers, colors)

    def _mixing(
        self, what: str, arguments: Sequence[Argument], places: list[str], colors: tuple[str, str]
    ) -> Iterator[str]:
        body = [
            *places,
            self.dialect.let("vec4", "before", f"{colors[0]} * first.z"),
            self.dialect.let("vec4", "after", f"{colors[1]} * second.z"),
            f"return {self.name}_mixed(before, after, shown.z);",
        ]
        yield from self.dialect.function("vec4", f"{self.name}_{what}", arguments, body)

    def _motion(self, known: TableMotion) -> Iterator[str]:
        """Two frames warped towards each other, then mixed.

        The motion is filtered here: a graphics card that filters 8 bits in 8 bits would add up to 9 of 255 of error.
        """
        name, half = self.name, 1 << (known.depth - 1)
        yield "// Motion: bind its page without sRGB and mip levels, and the colour's with linear filtering. Straight"
        yield "// colour has to go on beyond its edges (bleed), or be premultiplied, as wherever textures are filtered."
        yield self._named("reach", "vec2", *(float32_text(Fraction(one)) for one in known.motion.reach))
        yield self._named("motion_texel", "vec2", *_texts(known.parts, known.parts))
        yield self._named("motion_half", "vec2", *[float32_text(Fraction(known.parts, 2))] * 2)
        yield self._named("motion_full", "float", f"{2 * half - 1}.0")
        yield self._named("motion_middle", "float", f"{half}.0")
        yield "// the frame that a frame's motion leads to, -1 for none"
        later = [-1 if frame is None else frame for frame in known.motion.later]
        yield from self._lookup("leads", [(f"{frame}.0",) for frame in later])
        yield from self.dialect.function(
            "vec3", f"{name}_motion_place", [_FRAME, _AT], self._place(self._("motion_half"))
        )
        kept = "clamp(at, low, high)"
        if known.motion.wraps:
            kept = "at - floor((at - low) / (high - low + more)) * (high - low + more)"
        ends = [_AT, Argument("vec2", "low"), Argument("vec2", "high"), Argument("vec2", "more")]
        yield from self.dialect.function("vec2", f"{name}_kept", ends, [f"return {kept};"])
        yield from self._motion_at()
        yield from self._warped()

    def _motion_at(self) -> Iterator[str]:
        """Reads the four texels around a place, and mixes what they say."""
        name, let = self.name, self.dialect.let
        motion = Argument("page", "motion")
        zero, one, middle = self._("nothing"), self._("all"), self._("middle")
        codes = []
        for number, corner in enumerate(("vec2(0.0, 0.0)", "vec2(1.0, 0.0)", "vec2(0.0, 1.0)", "vec2(1.0, 1.0)")):
            texel = f"{name}_kept(low + {corner}, {zero}, size - {one}, {one})"
            codes.append(let("vec2", f"texel{number}", f"({texel} + {middle}) / size"))
            codes.append(
                let("vec3", f"place{number}", f"{name}_motion_place(frame, {self._flipped(f'texel{number}')})")
            )
            codes.append(let("vec4", f"code{number}", self.dialect.sample("motion", f"place{number}.xy")))
        decoded = f"(codes * {self._('motion_full')} - {self._('motion_middle')})"
        scale = f"{self._('reach')} / (({self._('motion_middle')} - 1.0) * {name}_canvas(frame))"
        body = [
            let("vec2", "size", f"{name}_canvas(frame) / {self._('motion_texel')}"),
            let("vec2", "inside", f"at * size - {middle}"),
            let("vec2", "low", "floor(inside)"),
            let("vec2", "share", "inside - low"),
            *codes,
            let("vec2", "above", "mix(code0.xy, code1.xy, share.x)"),
            let("vec2", "below", "mix(code2.xy, code3.xy, share.x)"),
            let("vec2", "codes", "mix(above, below, share.y)"),
            f"return {decoded} * {scale};",
        ]
        yield "// how far things move at a place from the top left, in shares of the canvas"
        yield from self.dialect.function("vec2", f"{name}_motion", [motion, _FRAME, _AT], body)

    def _warped(self) -> Iterator[str]:
        """The colour of two frames that are warped towards each other."""
        name, let = self.name, self.dialect.let
        page, motion = Argument("page", "page"), Argument("page", "motion")
        zero, one = self._("nothing"), self._("all")
        handed, leading = self.dialect.hand_on("motion"), "index(mix(shown.y, shown.x, ahead))"
        free = f"{zero}, {one}, {zero}"
        body = [
            let("vec2", "there", self._flipped("at")),
            let("float", "ahead", f"1.0 - step(0.5, abs({name}_leads(index(shown.x)) - shown.y))"),
            let("float", "back", f"(1.0 - ahead) * (1.0 - step(0.5, abs({name}_leads(index(shown.y)) - shown.x)))"),
            let(
                "vec2",
                "moves",
                f"{name}_motion({handed}, {leading}, there) * (ahead - back)",
            ),
            let("vec2", "behind", f"{name}_kept(there - moves * shown.z, {free})"),
            let("vec2", "beyond", f"{name}_kept(there + moves * (1.0 - shown.z), {free})"),
            let("vec3", "first", f"{name}_place(index(shown.x), {self._flipped('behind')})"),
            let("vec3", "second", f"{name}_place(index(shown.y), {self._flipped('beyond')})"),
        ]
        colors = self.dialect.sample("page", "first.xy"), self.dialect.sample("page", "second.xy")
        yield "// as ..._color, but warped along the motion where it leads from one of both to the other"
        yield from self._mixing("warped", [page, motion, Argument("vec3", "shown"), _AT], body, colors)

    def _clip(self, name: str, table: StepTable, rows: Sequence[tuple[str, ...]], alike: str) -> Iterator[str]:
        """Its steps: when each begins, what a second adds to the weight of the next, its frame and the next.

        `alike` is the first clip that has the same: copies at another phase share one table.
        """
        clip, seconds_in = table.clip, [Argument("float", "seconds")]
        yield f"// {clip.name!a}: {counted(len(table.steps), 'step')}"
        seconds = [Fraction(ticks) / clip.timebase for ticks in (table.cycle_ticks, table.phase_ticks)]
        yield self._named("cycle", "float", float32_text(seconds[0]), of=name)
        yield self._named("phase", "float", float32_text(seconds[1]), of=name)
        if alike != name:
            yield from self.dialect.function("vec3", f"{name}_at", seconds_in, [f"return {alike}_at(seconds);"])
            return
        starts = [f"{name}_step_{number}".upper() + ".x" for number in range(len(rows))]
        yield from self._lookup("step", rows, of=name, by=seconds_in[0], bounds=starts, folded=False)
        weight = "clamp((seconds - now.x) * now.y, 0.0, 1.0)"
        body = [self.dialect.let("vec4", "now", f"{name}_step(seconds)"), f"return vec3(now.zw, {weight});"]
        yield from self.dialect.function("vec3", f"{name}_at", seconds_in, body)

    def _lookup(
        self,
        what: str,
        rows: Sequence[tuple[str, ...]],
        *,
        of: str = "",
        by: Argument = _FRAME,
        bounds: Sequence[str] | None = None,
        folded: bool = True,
    ) -> Iterator[str]:
        """A function that finds a row by halving; equal neighbours are one."""
        name = of or self.name
        firsts = [n for n, row in enumerate(rows) if not folded or n == 0 or row != rows[n - 1]]
        kind = _KINDS[len(rows[0])]
        names = [f"{name}_{what}_{first}".upper() if len(firsts) > 1 or not folded else f"{name}_{what}".upper()
                 for first in firsts]  # fmt: skip
        yield from (self.dialect.named(one, kind, *rows[first]) for one, first in zip(names, firsts, strict=True))
        texts = bounds or [self.dialect.number(first) for first in firsts]
        body = list(_halved(names, texts, by.name, 0, len(names), ""))
        yield from self.dialect.function(kind, f"{name}_{what}", [by], body)

    def _named(self, what: str, kind: str, *values: str, of: str = "") -> str:
        return self.dialect.named(f"{of or self.name}_{what}".upper(), kind, *values)

    def _(self, what: str) -> str:
        """The name of a constant."""
        return f"{self.name}_{what}".upper()


def _halved(
    names: Sequence[str], bounds: Sequence[str], given: str, start: int, end: int, indent: str
) -> Iterator[str]:
    """Lines that return the last name whose bound is not above what is given; twice as many are one line deeper."""
    if end - start == 1:
        yield f"{indent}return {names[start]};"
        return
    middle = (start + end) // 2
    yield f"{indent}if ({given} < {bounds[middle]}) {{"
    yield from _halved(names, bounds, given, start, middle, f"{indent}    ")
    yield f"{indent}}}"
    yield from _halved(names, bounds, given, middle, end, indent)


def _step_row(table: StepTable, number: int) -> tuple[str, ...]:
    step, following = table.steps[number], table.steps[(number + 1) % len(table.steps)]
    blends = table.clip.blends and step.frame != following.frame
    rate = table.clip.timebase / step.hold if blends else Fraction(0)
    start = float32_text_above(step.start / table.clip.timebase)
    return start, float32_text(rate), *_texts(step.frame, following.frame)


def _box(frame: TableFrame) -> tuple[int, int, int, int]:
    """Where its pixels lie on its canvas; of an empty frame, outside."""
    w, h = frame.rect.size if frame.turn == 0 else frame.rect.size[::-1]
    return (*frame.offset, w, h) if w and h else _NOWHERE


def _axes(frame: TableFrame) -> tuple[int, int, int, int]:
    """Where a step to the right of the frame leads on the page, and one down: mirrored, then turned clockwise."""
    right, down = -1 if "x" in frame.flip else 1, -1 if "y" in frame.flip else 1
    turn: dict[int, Callable[[int, int], tuple[int, int]]] = {0: lambda x, y: (x, y), 90: lambda x, y: (-y, x)}
    return (*turn[frame.turn](right, 0), *turn[frame.turn](0, down))


def _texts(*values: int) -> tuple[str, ...]:
    return tuple(f"{value}.0" for value in values)
