"""Findings on the pages of a sheet or an atlas, and on its companion maps."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from pathlib import Path

import numpy as np

from kivel.core.checks.bleed import Bleed, frame_bleed
from kivel.core.checks.findings import Finding, Severity, Spot
from kivel.core.checks.fringe import fringe, hidden_colours
from kivel.core.checks.map_faults import (
    NormalFigures,
    common_shift,
    coverage,
    map_lag,
    map_shift,
    normal_figures,
    place_energy,
    unseen_emission,
)  # fmt: skip
from kivel.core.contents import CONTENTS
from kivel.core.errors import KivelError, option
from kivel.core.named_tuples import NamedTuple
from kivel.core.pixels.compose import to_8_bits
from kivel.core.pixels.pixels import Pixels, Rect
from kivel.core.wording import counted
from kivel.files.manifest.model import FramePlace, Manifest, Page
from kivel.files.manifest.names import COLOR
from kivel.files.page_store import StoredPage, stored_page
from kivel.files.safety import shown
from kivel.files.threads import in_order
from kivel.sequences.inspection import check_pages
from kivel.sequences.placed import sequence_of_manifest
from kivel.sequences.settings import SourceSettings

__all__ = ["PageSettings", "map_findings", "page_findings"]

_BLEED_NOTE, _BLEED_WARNING, _PROMISE = 2.0, 16.0, 2.0
_FRINGE_NOTE, _FRINGE_WARNING = 8.0, 16.0
_HIDDEN, _WASTE = 64, 0.5
_PRECISION = 2.0**-9
_COVERED, _LAG_LEAST, _LAG_BETTER = 0.8, 0.1, 0.05
_UNSEEN = 0.1
_EDITED = {
    "missing": ("page-missing", "error"),
    "unreadable": ("page-unreadable", "error"),
    "other size": ("page-size", "error"),
    "other pixels": ("page-edited", "warning"),
}


class PageSettings(NamedTuple):
    """How many levels are looked at, from 1; how many bytes a page may take; the limits of reading."""

    levels: int
    budget: int | None
    max_pixels: int
    jobs: int


def page_findings(
    manifest: Manifest, path: Path, settings: PageSettings, advance: Callable[[], None]
) -> Iterator[Finding]:
    """Return what is odd about each page; `advance` is called after each frame that was looked at."""
    file = shown(path)
    for check in check_pages(manifest, path, max_pixels=settings.max_pixels):
        if check.state != "as stated":
            code, severity = _EDITED[check.state]
            fix = (
                "run the command that made it again" if code != "page-edited" else "run kivel sheet again if it matters"
            )
            yield Finding(code, _severity(severity), Spot(check.file, map=check.map), None, check.detail, fix)
    for number, page in enumerate(manifest.pages):
        try:
            stored = _stored(manifest, path, number, COLOR, settings)
            image = _in_8_bits(manifest, stored, number, COLOR)
        except KivelError:
            yield from _shape(page, 8, settings)
            continue  # said above
        yield from _shape(page, stored.info.depth, settings)
        frames = [frame for frame in manifest.frames if frame.page == number and frame.rect.w and frame.rect.h]
        # OpenEXR holds colours multiplied by alpha: filtering them makes no fringe
        yield from _edges(page, image, frames) if stored.info.depth != 32 else ()
        yield from _bleeding(manifest, page, image[..., 3], frames, settings, advance)
        used = sum(w * h for _, _, w, h in {tuple(frame.rect) for frame in frames})
        waste = 1 - used / (page.size[0] * page.size[1])
        if waste > _WASTE:
            text = f"{waste:.0%} of it is empty"
            yield Finding("waste", "note", Spot(page.maps[COLOR].file), round(waste, 3), text, f"kivel plan {file}")


def _severity(word: str) -> Severity:
    return "error" if word == "error" else "warning"


def _stored(manifest: Manifest, path: Path, number: int, map: str, settings: PageSettings) -> StoredPage:
    tell: Callable[[str], object] = lambda _text: None  # noqa: E731 - an edited page is a finding
    return stored_page(manifest, path, number, map, max_pixels=settings.max_pixels, tell=tell)


def _in_8_bits(manifest: Manifest, stored: StoredPage, number: int, map: str) -> Pixels:
    kind = CONTENTS[manifest.pages[number].maps[map].kind].kind
    return to_8_bits(stored.pixels(), is_color=kind == "color")


def _shape(page: Page, depth: int, settings: PageSettings) -> Iterator[Finding]:
    where = Spot(page.maps[COLOR].file)
    odd = [side for side in page.size if side % 4]
    if odd:
        text = f"{page.size} px: block compression needs a width and height that are multiples of 4"
        yield Finding("sides-of-four", "note", where, odd[0], text, f"{option('multiple-of', '4')}")
    memory = page.size[0] * page.size[1] * 4 * depth // 8
    smaller = "astc-hdr-4x4" if depth == 32 else "bc7"
    if settings.budget is not None and memory > settings.budget:
        text = f"takes {memory:,} bytes uncompressed, above the budget of {settings.budget:,}"
        yield Finding(
            "memory",
            "warning",
            where,
            memory,
            text,
            f"{option('page-limit')}, or kivel export {option('to', 'ktx2')} {option('pixel-format', smaller)}",
        )
    error = max(page.size) * 2.0**-25
    if error > _PRECISION:
        text = f"32-bit texture coordinates are up to {error:.4f} texels off"
        yield Finding("texture-precision", "note", where, error, text, "several smaller pages")


def _edges(page: Page, image: Pixels, frames: list[FramePlace]) -> Iterator[Finding]:
    where = Spot(page.maps[COLOR].file)
    if page.alpha != "straight" or not frames:
        return
    figure = fringe(image)
    if figure > _FRINGE_NOTE:
        text = f"edges get a dark or coloured fringe: {figure:.0f} of 255 shows from under transparent pixels"
        severity: Severity = "warning" if figure > _FRINGE_WARNING else "note"
        yield Finding(
            "fringe", severity, where, round(figure, 1), text, f"kivel prep SRC {option('step', 'bleed')} -o OUT"
        )
    hidden = hidden_colours(image)
    if hidden >= _HIDDEN:
        text = f"{hidden} colours under transparent pixels, far from anything visible"
        yield Finding("hidden-color", "note", where, hidden, text, f"kivel prep SRC {option('step', 'bleed')} -o OUT")


def _bleeding(
    manifest: Manifest,
    page: Page,
    alpha: np.ndarray,
    frames: list[FramePlace],
    settings: PageSettings,
    advance: Callable[[], None],
) -> Iterator[Finding]:
    """The frame that takes most from its neighbours, at the first level where that is too much, and at the worst."""
    skirt = manifest.grid.skirt if manifest.grid else 0
    places = sorted({Rect(*frame.rect) for frame in frames})
    names = {Rect(*frame.rect): frame.name for frame in reversed(frames)}
    plane = np.ascontiguousarray(alpha)

    def measured(rect: Rect) -> list[Bleed]:
        own = [Rect(rect.x - skirt, rect.y - skirt, rect.w + 2 * skirt, rect.h + 2 * skirt)]
        return frame_bleed(plane, rect, own, settings.levels)

    found: list[tuple[Rect, list[Bleed]]] = []
    for rect, bleeds in zip(places, in_order(measured, places, jobs=settings.jobs), strict=True):
        found.append((rect, bleeds))
        advance()
    if not found:
        return
    where = Spot(page.maps[COLOR].file)
    promised = _promised(manifest)
    broken = [(one.inside, rect, one.level) for rect, bleeds in found for one in bleeds if one.level <= promised]
    worst_inside = max(broken, default=(0.0, places[0], 0), key=lambda each: each[0])
    if promised >= 0 and worst_inside[0] > _PROMISE:
        value, rect, level = worst_inside
        text = (
            f"was made safe to mip {promised}, but {value:.0f} of 255 bleeds in from neighbouring cells at mip {level}"
        )
        spot = where._replace(frame=names[rect], mip=level)
        yield Finding("cell-bleed", "error", spot, round(value, 1), text, "make the sheet again")
        return
    value, rect, level = max(((one.edge, rect, one.level) for rect, bleeds in found for one in bleeds), key=_by_value)
    if value <= _BLEED_NOTE:
        return
    first = min(one.level for _, bleeds in found for one in bleeds if one.edge > _BLEED_NOTE)
    count = sum(any(one.edge > _BLEED_NOTE for one in bleeds) for _, bleeds in found)
    text = (
        f"{value:.0f} of 255 bleeds in from neighbouring cells at mip {level}, from mip {first} on; "
        f"{counted(count, 'frame')} of {len(found)}"
    )
    severity: Severity = "warning" if value > _BLEED_WARNING else "note"
    last = settings.levels - 1
    inside = option("half-texel", True)
    fix = f"{option('mip-safe', last)} {option('gap', 2**last)}, or sample half a texel inside (export {inside})"
    yield Finding("cell-bleed", severity, where._replace(frame=names[rect], mip=level), round(value, 1), text, fix)


def _by_value(each: tuple[float, Rect, int]) -> float:
    return each[0]


def _promised(manifest: Manifest) -> int:
    """The last level that the sheet was made to be safe at; -1 for none."""
    stated = manifest.made.options.get("mip-safe") if manifest.made else None
    return stated if isinstance(stated, int) else -1


def map_findings(
    manifest: Manifest, path: Path, settings: PageSettings, advance: Callable[[], None]
) -> Iterator[Finding]:
    """Return what is odd about companion maps against the colour, frame by frame."""
    names = [name for name in manifest.pages[0].maps if name != COLOR]
    # motion is spread beyond what is visible, and is judged by what it does
    names = [
        name for name in names if all(name in page.maps and page.maps[name].kind != "motion" for page in manifest.pages)
    ]
    for name in names:
        try:
            yield from _against_color(manifest, path, name, settings, advance)
        except KivelError:
            continue  # a page that is missing or cannot be read is noted by itself


def _against_color(
    manifest: Manifest, path: Path, name: str, settings: PageSettings, advance: Callable[[], None]
) -> Iterator[Finding]:
    reading = SourceSettings(settings.max_pixels)
    color = sequence_of_manifest(manifest, path, reading)
    other = sequence_of_manifest(manifest, path, reading._replace(show=name))
    file = manifest.pages[0].maps[name]
    content = CONTENTS[file.kind]
    where = Spot(file.file, map=name)
    ground = content.ground(np.uint8, opaque=True)
    energies: tuple[list[np.ndarray], list[np.ndarray]] = ([], [])
    shares, shifts, unseen, normals = [], [], [], []
    before: tuple[Pixels, Pixels] | None = None
    for base, frame in zip(color.frames, other.frames, strict=True):
        pair = _at_one_size(to_8_bits(base.load()), to_8_bits(frame.load(), is_color=content.kind == "color"))
        shares.append((coverage(*pair, ground), frame.name))
        shifts.append(map_shift(*pair, ground))
        if name.startswith("emission"):
            unseen.append(unseen_emission(*pair))
        if content.kind.startswith("normal"):
            normals.append(normal_figures(pair[1], pair[0], y_down=content.kind == "normal-down"))
        if before is not None and all(a.shape == b.shape for a, b in zip(before, pair, strict=True)):
            for known, old, new in zip(energies, before, pair, strict=True):
                known.append(place_energy(old, new))
        before = pair
        advance()
    shift = common_shift(shifts)
    if shift:
        far = max(abs(shift[0]), abs(shift[1]))
        text = f"lies {_way(*shift)} of its colour, in most frames"
        yield Finding("map-shifted", "warning", where, far, text, "render both with one camera and one canvas")
    yield from _coverage_findings(where, [(share, frame) for share, frame in shares if share is not None])
    if unseen and max(unseen) > _UNSEEN:
        text = f"up to {max(unseen):.0%} of its light is on transparent pixels"
        yield Finding("emission-unseen", "note", where, round(max(unseen), 3), text, "check that it belongs there")
    yield from _normal_findings(where, [one for one in normals if one])
    lag = map_lag(*energies) if len(energies[0]) == len(color.frames) - 1 else None
    if lag and lag.frames and lag.there >= _LAG_LEAST and lag.there - lag.here >= _LAG_BETTER:
        way = "late" if lag.frames > 0 else "early"
        text = f"seems {counted(abs(lag.frames), 'frame')} {way}: its changes match the colour better there"
        yield Finding("map-late", "warning", where, lag.frames, text, "check the numbers of its files")


def _way(x: int, y: int) -> str:
    """This many pixels, in words."""
    parts = [f"{abs(x)} px {'right' if x > 0 else 'left'}"] if x else []
    return " and ".join([*parts, *([f"{abs(y)} px {'below' if y > 0 else 'above'}"] if y else [])])


def _at_one_size(color: Pixels, other: Pixels) -> tuple[Pixels, Pixels]:
    """A map may have a part of the colour's sides."""
    step = max(1, color.shape[0] // max(1, other.shape[0]))
    thin = color[::step, ::step][: other.shape[0], : other.shape[1]]
    return thin, other[: thin.shape[0], : thin.shape[1]]


def _coverage_findings(where: Spot, shares: list[tuple[float, str]]) -> Iterator[Finding]:
    if shares and min(shares)[0] < _COVERED:
        least, name = min(shares)
        text = f"only {least:.0%} of its pixels are visible in the colour"
        fix = "check that it belongs to these frames"
        yield Finding("map-coverage", "warning", where._replace(frame=name), round(least, 3), text, fix)


def _normal_findings(where: Spot, figures: list[NormalFigures]) -> Iterator[Finding]:
    if not figures:
        return
    median = float(np.median([one.length_median for one in figures]))
    p90 = float(np.median([one.length_p90 for one in figures]))
    inward = float(np.median([one.inward for one in figures]))
    axes = [one.axis for one in figures if one.axis is not None]
    if median > 0.1 or p90 > 0.15:
        text = f"its vectors are not of length 1: off by {median:.2f} in the middle, {p90:.2f} at the worst tenth"
        severity: Severity = "warning" if median > 0.15 else "note"
        yield Finding("normal-length", severity, where, round(median, 3), text, "save it as linear data, not sRGB")
    if inward > 0.01:
        text = f"{inward:.0%} of its vectors point into the surface"
        yield Finding("normal-inward", "warning", where, round(inward, 3), text, "check the z channel")
    axis = float(np.median(axes)) if axes else 0.0
    if axis <= -0.1:
        text = f"an axis seems flipped: its slopes contradict each other ({axis:.2f})"
        severity = "warning" if axis <= -0.2 else "note"
        yield Finding(
            "normal-axis",
            severity,
            where,
            round(axis, 3),
            text,
            f"{option('map-kind', 'normal=normal-down')}, or invert green",
        )
