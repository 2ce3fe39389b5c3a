"""Clips as a picture: steps to scale with their frames, events, cycles and the pace at which frames go by."""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from fractions import Fraction
from itertools import pairwise
from statistics import median
from typing import Any

import numpy as np
from numpy.typing import NDArray

from kivel.core.named_tuples import NamedTuple
from kivel.core.pixels.compose import over, to_8_bits
from kivel.core.pixels.pixels import Pixels, Size
from kivel.core.playback.clip import Clip
from kivel.core.playback.notation import format_repeat, format_seconds
from kivel.core.playback.player import Happening, Player
from kivel.core.playback.properties import PROPERTIES
from kivel.core.wording import counted, printable
from kivel.views.charts import Chart
from kivel.views.drawing import VIEW
from kivel.views.terminal import scaled_to_window

__all__ = ["MOST_CLIPS", "clip_facts_drawn", "draw_timing"]

MOST_CLIPS = 12
"""As many as can be read in one picture."""

_DPI = 100
_WIDTH, _TITLE, _ROOM = 1280, 56, 246
"""Pixels: of the picture, of its title, of a clip at most."""
_COMPACT = 150
"""A clip with less room has its name beside it, and only bars."""
_BACK, _PANEL, _INK, _DIM, _LINE = "#1c1f26", "#242832", "#eceef2", "#8b93a3", "#3a404d"
_BARS = ("#3f6a94", "#31557a")
_PACE, _EVENT, _CYCLE, _END = "#ffc861", "#e2725b", "#eceef2", "#7fbf7f"
_BAR_TOP, _PACE_SPAN, _PICTURES = 0.26, (0.31, 0.47), (0.5, 0.98)
"""Where in a panel things lie, from its bottom to its top."""
_LEFT, _WIDE = 0.02, 0.96
_MOST_SHOWN = 40
"""Steps that are drawn of a clip that repeats; one cycle at least."""
_NUMBER_PX, _THUMB_PX = 16, 14
"""A bar narrower than this has no number, or no picture."""
_ENDS = {"last": "stays on its last step", "first": "goes back to its first", "none": "then nothing"}


def draw_timing(name: str, clips: Sequence[Clip], load: Callable[[int], Pixels]) -> NDArray[np.uint8]:
    """(up to 800, 1280, 4) uint8: the first clips, a panel for each. `load` gives a frame's pixels by its number."""
    shown = clips[:MOST_CLIPS]
    room = min(_ROOM, (VIEW.h - _TITLE) // len(shown))
    height = _TITLE + room * len(shown)
    chart = Chart((_WIDTH / _DPI, height / _DPI), dpi=_DPI, back=_BACK)
    figure = chart.figure
    title = f"{printable(name)}   {len(clips)} clip{'s' if len(clips) > 1 else ''}"
    if len(clips) > len(shown):
        title += f", the first {len(shown)} shown"
    figure.text(_LEFT, 1 - 32 / height, title, color=_INK, fontsize=14, parse_math=False)
    _legend(figure, 1 - 30 / height, with_pace=room >= _COMPACT)
    for row, clip in enumerate(shown):
        bottom = height - _TITLE - room * (row + 1)
        low = room < _COMPACT
        left, wide = (0.17, 0.81) if low else (_LEFT, _WIDE)
        panel_px = room - (20 if low else 24 + 28)
        axes = figure.add_axes((left, (bottom + (18 if low else 24)) / height, wide, panel_px / height))
        (_draw_low if low else _draw_full)(axes, clip, load, _Scale(wide * _WIDTH, panel_px))
    return chart.pixels()


def _legend(figure: Any, y: float, *, with_pace: bool) -> None:
    x = 0.62
    signs = [("event", _EVENT), ("cycle ends", _CYCLE), ("clip ends", _END), ("steps elapsed", _PACE)]
    for text, colour in signs if with_pace else signs[:-1]:
        figure.text(x, y, "\u25a0", color=colour, fontsize=10)
        figure.text(x + 0.014, y, text, color=_DIM, fontsize=9)
        x += 0.03 + 0.0062 * len(text)


class _Scale(NamedTuple):
    """A panel in pixels."""

    wide: float
    high: float


def _draw_full(axes: Any, clip: Clip, load: Callable[[int], Pixels], scale: _Scale) -> None:
    """Bars, events, the pace, and pictures."""
    player = Player(clip)
    end = _shown_until(player)
    happenings = list(player.happenings(Fraction(0), end))
    pixels = scale.wide / float(end)
    bars = _bars(happenings, end)
    _draw_bars(axes, bars, pixels, top=_BAR_TOP)
    _pictures(axes, bars, load, pixels, scale.high)
    _pace(axes, player, bars)
    _draw_happenings(axes, player, happenings, end, pixels, top=_BAR_TOP)
    _dress(axes, end)
    axes.set_title(printable(clip.name), parse_math=False, color=_INK, fontsize=11, loc="left", pad=4)
    axes.set_title("   ".join(clip_facts_drawn(clip)), color=_DIM, fontsize=9, loc="right", pad=4)


def _draw_low(axes: Any, clip: Clip, _load: Callable[[int], Pixels], scale: _Scale) -> None:
    """Bars and events, the name beside them."""
    player = Player(clip)
    end = _shown_until(player)
    happenings = list(player.happenings(Fraction(0), end))
    pixels = scale.wide / float(end)
    top = 1 - 16 / scale.high
    _draw_bars(axes, _bars(happenings, end), pixels, top=top)
    _draw_happenings(axes, player, happenings, end, pixels, top=top)
    _dress(axes, end)
    cycle, direction, *others = clip_facts_drawn(clip)
    others = [fact for fact in others if fact != format_repeat("forever")]
    lines = [
        printable(clip.name),
        cycle,
        ", ".join(others if direction == "normal" and others else [direction, *others]),
    ]
    for number, line in enumerate(lines):
        size, colour = (8, _DIM) if number else (10, _INK)
        x, y = -0.15 / 0.81, 1 - (number + 0.35) * 13 / scale.high
        axes.text(x, y, line, transform=axes.transAxes, color=colour, fontsize=size, va="center", parse_math=False)


def _bars(happenings: Sequence[Happening], end: Fraction) -> list[_Bar]:
    shows = [each for each in happenings if each.kind == "show"]
    return [
        _Bar(show.frame, float(show.time), float(after.time - show.time))
        for show, after in pairwise([*shows, Happening(end, "show", 0)])
    ]


def _draw_bars(axes: Any, bars: Sequence[_Bar], pixels: float, *, top: float) -> None:
    for parity, colour in enumerate(_BARS):
        spans = [(bar.start, bar.wide) for bar in bars[parity::2]]
        axes.broken_barh(spans, (0, top), facecolor=colour, linewidth=0)
    for bar in bars:
        if bar.wide * pixels >= _NUMBER_PX:
            middle = bar.start + bar.wide / 2
            axes.text(middle, top / 2, str(bar.frame), color=_INK, fontsize=8, ha="center", va="center")


def _draw_happenings(
    axes: Any, player: Player, happenings: Sequence[Happening], end: Fraction, pixels: float, *, top: float
) -> None:
    free_from = -math.inf
    for each in happenings:
        time = float(each.time)
        if each.kind == "cycle":
            axes.axvline(time, color=_CYCLE, linewidth=0.8, linestyle="--")
        if each.kind != "event":
            continue
        axes.plot([time, time], [0, top + 0.06], color=_EVENT, linewidth=2, zorder=4, clip_on=False)
        if time * pixels >= free_from:
            axes.text(
                time + 3 / pixels,
                top + 0.01,
                printable(each.name or ""),
                color=_EVENT,
                fontsize=8,
                zorder=6,
                parse_math=False,
            )
            free_from = time * pixels + 6.5 * len(each.name or "") + 8
    if player.length is not None and player.length <= end:
        axes.axvspan(float(end) - 3 / pixels, float(end), color=_END, linewidth=0, zorder=7)


class _Bar(NamedTuple):
    """A frame on the axis of time, in seconds."""

    frame: int | None
    start: float
    wide: float


def _shown_until(player: Player) -> Fraction:
    """All of a short clip, else as many cycles as can be read."""
    cycles = max(1, min(2, _MOST_SHOWN // len(player.order)))
    until = cycles * player.cycle_length
    return until if player.length is None else min(until, player.length or player.cycle_length)


def _pictures(axes: Any, bars: Sequence[_Bar], load: Callable[[int], Pixels], pixels: float, height_px: float) -> None:
    """Thumbnails above their bars, all of one size but for those whose bars are much narrower than most."""
    from matplotlib.offsetbox import AnnotationBbox, OffsetImage

    usual = median(bar.wide for bar in bars) * pixels
    common = min(bar.wide * pixels for bar in bars if bar.wide * pixels >= usual / 2)
    low, high = _PICTURES
    for bar in bars:
        if bar.frame is None:
            continue
        image = load(bar.frame)
        own = bar.wide * pixels
        wide = int(own if image.shape[1] > common else min(own, common)) - 2
        if wide < _THUMB_PX:
            continue
        small = scaled_to_window(image, Size(wide, int(height_px * (high - low))))
        box = OffsetImage(over(to_8_bits(small), "checker"), zoom=72 / _DPI, interpolation="nearest")
        place = bar.start + bar.wide / 2, (low + high) / 2
        axes.add_artist(AnnotationBbox(box, place, frameon=False, pad=0, annotation_clip=False))


def _pace(axes: Any, player: Player, bars: Sequence[_Bar]) -> None:
    """Return what share of the cycle's steps has gone by; straight where they are even."""
    count = len(player.order)
    points: list[tuple[float, float]] = []
    for number, bar in enumerate(bars):
        gone = (math.floor(player.clip.phase) + number) % count
        points += [(bar.start, gone / count), (bar.start + bar.wide, (gone + 1) / count)]
        if gone == count - 1:
            points.append((math.nan, math.nan))
    low, high = _PACE_SPAN
    axes.plot([x for x, _ in points], [low + (high - low) * y for _, y in points], color=_PACE, linewidth=1.2)


def clip_facts_drawn(clip: Clip) -> list[str]:
    """Return what the chart says of a clip in words, beside what it draws."""
    player = Player(clip)
    facts = [
        f"{counted(len(player.order), 'step')}, {format_seconds(player.cycle_length)}",
        clip.direction + (", ends held" if clip.hold_ends else ""),
        format_repeat(clip.repeat) + _after(clip, player),
    ]
    drawn = [(one.drawn, one.short(clip)) for one in reversed(PROPERTIES) if one.drawn and one.short]
    return facts + [form.format(text) for form, text in drawn if text]


def _after(clip: Clip, player: Player) -> str:
    """Return what shows when it has ended, or is left."""
    if clip.then is not None:
        return f", then {printable(clip.then)}" if player.length else f", when left {printable(clip.then)}"
    return f", {_ENDS[clip.end]}" if player.length else ""


def _dress(axes: Any, end: Fraction) -> None:
    axes.set_facecolor(_PANEL)
    axes.set_xlim(0, float(end))
    axes.set_ylim(0, 1)
    axes.set_yticks([])
    axes.tick_params(colors=_DIM, labelsize=8, pad=2)
    axes.xaxis.set_major_formatter(lambda value, _place: f"{value:g} s")
    for spine in axes.spines.values():
        spine.set_color(_LINE)
