"""Findings on the frames of a sequence."""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable, Iterator
from typing import get_args

import numpy as np

from kivel.core.checks.cut_borders import box_above, cut_sides
from kivel.core.checks.findings import Finding, Severity, Spot
from kivel.core.checks.flicker import Shades, brightness_of, flickers
from kivel.core.checks.shifted import shifted_frames
from kivel.core.digest import pixel_digest
from kivel.core.errors import AllErrors, option
from kivel.core.looping.likeness import mirror
from kivel.core.looping.seam import judge_seam, tile_seam
from kivel.core.looping.signature import Signature, Thumbnail, planes_of, signatures, thumbnail
from kivel.core.named_tuples import NamedTuple
from kivel.core.numbering import spans
from kivel.core.pixels.compose import to_8_bits
from kivel.core.pixels.pixels import Box, looks_premultiplied
from kivel.core.survey import Side
from kivel.core.wording import counted, first_few
from kivel.files.images import FrameSource
from kivel.files.threads import in_order
from kivel.making.checking.check_settings import CheckSettings
from kivel.sequences.sequence import FrameSequence, straightened

__all__ = ["FrameLooks", "frame_findings", "looks_of"]

_VISIBLE, _FAINT_GROWTH, _NEAR = 16, 0.25, 2
_FAINT = 7
_THIN_SIDE = 32
_JUDGED = 32


class FrameLook(NamedTuple):
    """One frame; `strongest` is its largest alpha, `box` and `firm` hold what is visible, and what is more than faint.

    `thumbnail` and `brightness` are of every this many pixels: they are compared with others alone.
    """

    digest: str
    premultiplied: bool | None
    thumbnail: Thumbnail
    brightness: Shades
    cut: tuple[Side, ...]
    strongest: int
    box: Box
    firm: Box


class FrameLooks(NamedTuple):
    """Every frame looked at once; signatures where all are of one size."""

    frames: FrameSequence
    looks: tuple[FrameLook, ...]
    signatures: tuple[Signature, ...]


def looks_of(frames: FrameSequence, *, jobs: int, advance: Callable[[], None]) -> FrameLooks:
    """Look at every pixel of every frame, on `jobs` threads."""
    looks = []
    every = -(-len(frames.frames) // _JUDGED)
    numbered = [(frame, number % every == 0) for number, frame in enumerate(straightened(frames).frames)]
    errors = AllErrors()

    def looked_at(which: tuple[FrameSource, bool]) -> FrameLook | None:
        with errors.kept():
            return _looked_at(which)
        return None

    for look in in_order(looked_at, numbered, jobs=jobs):
        looks += [look] if look else []
        advance()
    errors.raise_any()
    one_size = len({frame.size for frame in frames.frames}) == 1
    found = tuple(signatures([look.thumbnail for look in looks])) if one_size else ()
    return FrameLooks(frames, tuple(looks), found)


def _looked_at(which: tuple[FrameSource, bool]) -> FrameLook:
    """A frame, and whether its colours are judged by its alpha: some of many tell as much."""
    frame, judged = which
    loaded = frame.load()
    image = to_8_bits(loaded)
    alpha = np.ascontiguousarray(image[..., 3])
    step = max(1, min(alpha.shape) // _THIN_SIDE)
    thin = np.ascontiguousarray(image[::step, ::step])
    opaque = int(alpha.min(initial=255)) == 255
    return FrameLook(
        digest=pixel_digest(loaded),
        premultiplied=looks_premultiplied(loaded) if judged and not opaque else None,
        thumbnail=thumbnail(thin),
        brightness=brightness_of(thin),
        cut=() if opaque else cut_sides(alpha),
        strongest=int(alpha.max(initial=0)),
        box=box_above(alpha, 0),
        firm=box_above(alpha, _FAINT),
    )


def frame_findings(looked: FrameLooks, file: str, settings: CheckSettings) -> Iterator[Finding]:
    """Return what is odd about a sequence; of a sheet, what is odd about the frames on it."""
    yield from _stored(looked, file)
    yield from _drawn(looked, file)
    if settings.sides or _wraps(looked.frames):
        yield from _tiled(looked, file)
    if len(looked.frames.frames) > 1:
        yield from _alike(looked, file)
        yield from _moving(looked, file)
        if settings.wants("frame-shifted") and looked.signatures:
            yield from _shifted(looked, file)


def _stored(looked: FrameLooks, file: str) -> Iterator[Finding]:
    frames = looked.frames.frames
    if looked.frames.gaps:
        text = f"numbers are missing: {spans(looked.frames.gaps)}"
        yield Finding(
            "number-gap", "warning", Spot(file), len(looked.frames.gaps), text, "render them, or renumber the files"
        )
    sizes = Counter(frame.size for frame in frames).most_common()
    # a collection has as many sizes as it likes; where most frames are of one, the others are a slip
    if len(sizes) > 1 and sizes[0][1] * 2 > len(frames) and looked.frames.described_by is None:
        odd = [frame.name for frame in frames if frame.size != sizes[0][0]]
        text = f"{counted(len(odd), 'frame')} of a different size than {sizes[0][0]} px: {first_few(odd)}"
        yield Finding(
            "odd-size",
            "warning",
            Spot(file, frame=odd[0]),
            len(odd),
            text,
            f"{option('odd-size', 'pad')}, or render again",
        )
    modes = Counter(frame.mode for frame in frames).most_common()
    # a palette keeps whatever it is of: what tells is depth, and alpha that only some have
    ways = {(one.depth, "rgba" in one.mode or "alpha" in one.mode) for one in frames if "palette" not in one.mode}
    if len(ways) > 1:
        told = ", ".join(f"{count} {mode}" for mode, count in modes)
        yield Finding(
            "mixed-depth",
            "note",
            Spot(file),
            len(modes),
            f"stored in different ways: {told}",
            "save all of them in one way",
        )


def _drawn(looked: FrameLooks, file: str) -> Iterator[Finding]:
    frames, looks = looked.frames.frames, looked.looks
    one_size = len({frame.size for frame in frames}) == 1
    # pictures of many sizes were cropped one by one: their borders tell nothing
    sides: tuple[Side, ...] = get_args(Side) if one_size else ()
    both = list(zip(frames, looks, strict=True))
    cut = {side: [frame.name for frame, look in both if side in look.cut] for side in sides}
    for side, names in cut.items():
        if names:
            text = f"looks cut off at the {side} in {counted(len(names), 'frame')}: {first_few(names)}"
            yield Finding("cut", "note", Spot(file, frame=names[0]), len(names), text, "render with a larger canvas")
    pale = [(look.strongest, frame.name) for frame, look in both if look.strongest < _VISIBLE]
    if pale:
        most, name = max(pale)
        text = f"hardly visible, alpha at most {most} of 255: {first_few([each for _, each in pale])}"
        yield Finding("hardly-visible", "note", Spot(file, frame=name), most, text, "drop the empty frames")
    boxes = [(look.box, look.firm) for look in looks if look.box and look.firm]
    larger, smaller = (sum(box.w * box.h for box in each) for each in zip(*boxes, strict=True)) if boxes else (0, 0)
    if smaller and larger / smaller - 1 > _FAINT_GROWTH:
        growth = larger / smaller - 1
        text = f"nearly invisible pixels make the frames' boxes {growth:.0%} larger"
        yield Finding(
            "faint-edges",
            "note",
            Spot(file),
            round(growth, 3),
            text,
            f"{option('visible-above', '7')}, or clean the alpha",
        )
    told = [look.premultiplied for look in looks if look.premultiplied is not None]
    if told and all(told) and not looked.frames.premultiplied:
        text = "its colours look premultiplied; shown as straight alpha, they get dark edges"
        yield Finding(
            "premultiplied", "note", Spot(file), None, text, f"kivel prep SRC {option('step', 'unpremultiply')} -o OUT"
        )


def _place(frames: FrameSequence, number: int) -> object:
    """Where a frame's pixels are stored; on a sheet several may be at one place."""
    if frames.described_by is None:
        return number
    place = frames.described_by.frames[number]
    return place.page, tuple(place.rect)


def _alike(looked: FrameLooks, file: str) -> Iterator[Finding]:
    frames = looked.frames.frames
    names = [frame.name for frame in frames]
    by_digest: dict[str, list[int]] = {}
    for number, look in enumerate(looked.looks):
        by_digest.setdefault(look.digest, []).append(number)
    groups = [group for group in by_digest.values() if len(group) > 1]
    clips = looked.frames.clips
    loops = not clips or any(clip.repeat == "forever" or clip.repeat > 1 for clip in clips)
    if loops and [0, len(frames) - 1] in groups:
        groups.remove([0, len(frames) - 1])
        text = f"the last frame, {names[-1]}, repeats the first"
        fix = "drop it: it shows twice at the loop"
        yield Finding("first-is-last", "note", Spot(file, frame=names[-1]), None, text, fix)
    groups = [group for group in groups if len({_place(looked.frames, number) for number in group}) > 1]
    if groups:
        more = f", and {counted(len(groups) - 1, 'group')} more" if len(groups) > 1 else ""
        text = f"identical: {first_few([names[number] for number in groups[0]])}{more}"
        spot = Spot(file, frame=names[groups[0][1]])
        yield Finding(
            "twins", "note", spot, sum(map(len, groups)), text, f"{option('fold', True)} stores each one once"
        )
    for number in range(1, len(frames)):
        if _may_repeat(looked.looks[number - 1], looked.looks[number]):
            difference = _largest_difference(frames[number - 1], frames[number])
            if 0 < difference <= _NEAR:
                text = f"differs from {names[number - 1]} only by noise, at most {difference} of 255"
                spot = Spot(file, frame=names[number])
                yield Finding(
                    "near-repeat",
                    "note",
                    spot,
                    difference,
                    text,
                    "merge it with the previous frame (hold that one longer)",
                )


def _may_repeat(before: FrameLook, after: FrameLook) -> bool:
    """Whether it is worth comparing them pixel by pixel."""
    a, b = before.brightness, after.brightness
    return before.digest != after.digest and a.shape == b.shape and float(np.abs(a - b).max(initial=0)) <= _NEAR


def _largest_difference(first: FrameSource, second: FrameSource) -> int:
    a, b = to_8_bits(first.load()).astype(np.int16), to_8_bits(second.load()).astype(np.int16)
    return int(np.abs(a - b).max()) if a.shape == b.shape else 255


def _moving(looked: FrameLooks, file: str) -> Iterator[Finding]:
    names = [frame.name for frame in looked.frames.frames]
    if not looked.signatures:
        return
    half = mirror(looked.signatures)
    if half:
        yield Finding("mirrored-half", "note", Spot(file), None, "its second half is the first half backwards", _FRO)
    if _loops(looked):
        seam = judge_seam(looked.signatures)
        if seam.verdict == "open" and seam.sureness != "a close call":
            figure = round(seam.of_largest, 2)
            text = f"it plays forever and jumps at the loop: {figure} times the largest change within"
            yield Finding(
                "loop-pops", "note", Spot(file), figure, text, f"kivel loop SRC {option('close', '4')} -o OUT"
            )
    for number in flickers([look.brightness for look in looked.looks]):
        text = "brighter or darker than both neighbours"
        yield Finding("flicker", "note", Spot(file, frame=names[number]), None, text, "render it again")


def _shifted(looked: FrameLooks, file: str) -> Iterator[Finding]:
    frames = straightened(looked.frames).frames
    for one in shifted_frames(frame.load() for frame in frames):
        way = f"{one.x:+d}, {one.y:+d}"
        text = f"lies {way} px off from its neighbours"
        spot = Spot(file, frame=frames[one.frame].name)
        yield Finding("frame-shifted", "note", spot, max(abs(one.x), abs(one.y)), text, f"{option('step', 'steady')}")


def _wraps(frames: FrameSequence) -> bool:
    """Whether they were laid out as tiles."""
    known = frames.described_by
    grid = known and (known.grid or (known.sliced_from and known.sliced_from.grid))
    return bool((grid and grid.wrap) or (known and known.made and known.made.options.get("skirt-wrap")))


def _tiled(looked: FrameLooks, file: str) -> Iterator[Finding]:
    for frame in straightened(looked.frames).frames:
        seam = tile_seam(planes_of(frame.load()))
        if not seam.meets:
            severity: Severity = "warning" if seam.verdict == "does not meet" else "note"
            figure = round(max(seam.across, seam.down), 2)
            which = "left and right" if seam.across >= seam.down else "top and bottom"
            text = f"as a tile, its {which} sides do not meet: {figure} times its own larger changes"
            yield Finding("tile-seam", severity, Spot(file, frame=frame.name), figure, text, "paint over the seam")


_FRO = f"keep the first half and play it with {option('direction', 'alternate')}"


def _loops(looked: FrameLooks) -> bool:
    """Whether a clip plays all of it for ever, one after the other."""
    return any(
        clip.repeat == "forever" and not clip.alternates and len(clip.steps) == len(looked.frames.frames)
        for clip in looked.frames.clips
    )
