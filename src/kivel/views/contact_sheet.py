"""A contact sheet: every frame in order with its number and its hold, on a checkerboard."""

from __future__ import annotations

from collections.abc import Sequence
from fractions import Fraction

import numpy as np
import PIL.Image
import PIL.ImageDraw
from numpy.typing import NDArray

from kivel.core.errors import option
from kivel.core.named_tuples import NamedTuple
from kivel.core.pixels.compose import Backdrop, scaled_size
from kivel.core.pixels.pixels import Size
from kivel.core.playback.clip import Clip
from kivel.core.playback.notation import format_repeat, format_seconds
from kivel.core.room import require_room
from kivel.core.wording import counted_from_0, printable
from kivel.files.images import FrameSource
from kivel.files.threads import in_order
from kivel.views.drawing import FAINT, GROUND, TEXT, VIEW, font, spoken_name
from kivel.views.looks import NO_MARKS, Look, Marks, Smoothing, marked, shown_frame

__all__ = ["draw_contact_sheet"]

_PADDING = 10
_TITLE_PX = 44
_CAPTION_PX = 20
_NARROWEST = 60
_NAME_GAP_PX = 8
_FONT_PX = 13
_SMALL_FONT_PX = 11
_ROOMY_PX = 84
_TITLE_FONT_PX = 20


class _Arrangement(NamedTuple):
    """Columns, the cell that a frame and its caption take, and the scale of the frames."""

    columns: int
    cell: Size
    scale: Fraction


def draw_contact_sheet(
    frames: Sequence[FrameSource],
    clip: Clip,
    *,
    numbers: Sequence[int] | None = None,
    scale: Fraction | None = None,
    filtering: Smoothing | None = None,
    backdrop: Backdrop = "checker",
    marks: Marks = NO_MARKS,
    jobs: int = 1,
) -> NDArray[np.uint8]:
    """The contact sheet of a clip as (H, W, 4) uint8.

    Parameters
    ----------
    frames : sequence of FrameSource
        Read on `jobs` threads, drawn in order and let go.
    numbers : sequence of int, optional
        Those of the frames that are drawn, by which they are labelled: all of them, unless stated otherwise.
    scale : Fraction, optional
        Of the frames, in place of the largest at which all of them fit on the page.
    filtering : "nearest" or "smooth", optional
        Frames larger than their cell are shrunk smoothly, smaller ones enlarged by a whole number of pixels, unless
        this says otherwise.

    Notes
    -----
    1280x800 px, or less high; higher when there are more frames than fit legibly, wider where one at a stated scale is.
    """
    numbers = range(len(frames)) if numbers is None else numbers
    drawn = [frames[number] for number in numbers]
    sizes = [frame.size for frame in drawn]
    count = len(sizes)
    largest = Size(max(size.w for size in sizes), max(size.h for size in sizes))
    plan = _planned(count, largest) if scale is None else _scaled(largest, scale)
    width = max(VIEW.w, plan.cell.w + 2 * _PADDING)
    height = _TITLE_PX + -(-count // plan.columns) * (plan.cell.h + _PADDING) + _PADDING
    require_room(width, height, what="the contact sheet would have", todo=f"make {option('scale')} smaller, or")
    page = PIL.Image.new("RGBA", (width, height), (*GROUND, 255))
    draw = PIL.ImageDraw.Draw(page)
    _draw_title(draw, clip, numbers, len(frames))
    look = Look(plan.scale, filtering or ("smooth" if plan.scale < 1 else "nearest"), backdrop)
    captions = _captions(clip, len(frames))

    def shown(frame: FrameSource) -> PIL.Image.Image:
        return PIL.Image.fromarray(marked(shown_frame(frame.load(), look), frame, marks))

    pictures = in_order(shown, drawn, jobs=jobs)
    for index, picture in enumerate(pictures):
        row, column = divmod(index, plan.columns)
        x = _PADDING + column * (plan.cell.w + _PADDING)
        y = _TITLE_PX + row * (plan.cell.h + _PADDING)
        page.paste(picture, (x, y), picture)
        number = numbers[index]
        place = (x, y + plan.cell.h - _CAPTION_PX + 3)
        name = spoken_name(frames[number].name)
        # a name may go on beside a narrow picture
        width = plan.cell.w if name else picture.width
        _draw_caption(draw, place, number, captions[number], width, name)
    return np.asarray(page)


def _planned(count: int, frame: Size) -> _Arrangement:
    """The fewest columns, and so the largest frames, with which all fit on the page; else the narrowest cells."""
    plans = [_arranged(columns, frame) for columns in range(1, max(1, _widest_count()) + 1)]
    room = VIEW.h - _TITLE_PX - _PADDING
    fitting = [p for p in plans if -(-count // p.columns) * (p.cell.h + _PADDING) <= room]
    return max(fitting, key=lambda p: (p.scale, -p.columns)) if fitting else plans[-1]


def _scaled(frame: Size, scale: Fraction) -> _Arrangement:
    """As many columns as fit on the page."""
    size = scaled_size(frame, scale)
    width = max(_NARROWEST, size.w)
    return _Arrangement(max(1, (VIEW.w - _PADDING) // (width + _PADDING)), Size(width, size.h + _CAPTION_PX), scale)


def _widest_count() -> int:
    return (VIEW.w - _PADDING) // (_NARROWEST + _PADDING)


def _arranged(columns: int, frame: Size) -> _Arrangement:
    width = (VIEW.w - _PADDING) // columns - _PADDING
    scale = Fraction(width, frame.w)
    tallest = VIEW.h - _TITLE_PX - 2 * _PADDING - _CAPTION_PX
    scale = min(scale, Fraction(tallest, frame.h))
    if scale > 1:
        scale = Fraction(int(scale))
    return _Arrangement(columns, Size(width, max(1, round(frame.h * scale)) + _CAPTION_PX), scale)


def _draw_title(draw: PIL.ImageDraw.ImageDraw, clip: Clip, numbers: Sequence[int], count: int) -> None:
    title, faint = font(_TITLE_FONT_PX), font(_FONT_PX)
    name = printable(clip.name)
    draw.text((_PADDING, 10), name, TEXT, font=title)
    span = counted_from_0(count, "frame")
    if len(numbers) < count:
        span = f"{len(numbers)} of {span}"
    playback = f"{format_seconds(clip.length)} a cycle   {clip.direction}, {format_repeat(clip.repeat)}"
    about = f"{span}   {playback}"
    draw.text((_PADDING + draw.textlength(name, font=title) + 20, 16), about, FAINT, font=faint)


def _captions(clip: Clip, count: int) -> list[str]:
    """For each frame its hold; all of them when several steps show it."""
    holds: list[list[int]] = [[] for _ in range(count)]
    for step in clip.steps:
        holds[step.frame].append(step.hold)
    return [_holds_text(clip, of_frame) for of_frame in holds]


def _holds_text(clip: Clip, ticks: list[int]) -> str:
    if not ticks:
        return "not shown"
    if len(set(ticks)) == 1:
        each = f"{len(ticks)} x " if len(ticks) > 1 else ""
        return each + format_seconds(clip.seconds(ticks[0]))
    return f"{len(ticks)} x, in all {format_seconds(clip.seconds(sum(ticks)))}"


def _draw_caption(
    draw: PIL.ImageDraw.ImageDraw, place: tuple[int, int], number: int, hold: str, width: int, name: str = ""
) -> None:
    """The number and the hold, with the name between them where there is room."""
    face = font(_FONT_PX if width >= _ROOMY_PX else _SMALL_FONT_PX)
    right = place[0] + max(width, _NARROWEST) - draw.textlength(hold, font=face)
    named = f"{number} {name}"
    fits = name and place[0] + draw.textlength(named, font=face) + _NAME_GAP_PX <= right
    draw.text(place, named if fits else str(number), TEXT, font=face)
    draw.text((right, place[1]), hold, FAINT, font=face)
