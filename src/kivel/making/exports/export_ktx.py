"""A sheet as a texture that the graphics card takes as it is: an array of frames, or one page."""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from fractions import Fraction
from functools import partial
from typing import TYPE_CHECKING

import numpy as np

from kivel.core.errors import KivelError, UsageError, option
from kivel.core.exporting.layer_plan import LayerPlan, layer_plan
from kivel.core.exporting.mips import full_levels, layer_mips, page_mips
from kivel.core.named_tuples import NamedTuple
from kivel.core.pixels.pixels import Pixels, Rect, associated, full_scale
from kivel.core.wording import counted
from kivel.files.formats.block_formats import BLOCK_FORMATS, BlockFormat
from kivel.files.formats.float_formats import FLOAT_FORMATS
from kivel.files.formats.ktx_files import KtxAnimation, KtxTexture, ktx_bytes
from kivel.files.formats.table_files import json_table_text
from kivel.files.threads import in_order

if TYPE_CHECKING:
    from kivel.making.exports.exported_sheets import ExportedSheet, ToExport

__all__ = ["KtxMade", "ktx_of"]

_MOST_LAYERS = 2048
"""Says what every card of the last ten years takes."""
_MOST_NUMBER = 0xFFFFFFFF
_PLAIN = ("rgba8", "rgba16f", "rgb9e5")
_PACKAGES = {"bc1": "etcpak", "bc3": "etcpak", "bc7": "etcpak", "etc2": "etcpak"}


class KtxMade(NamedTuple):
    """The file, what lies beside it by the ending of its name, and what a person should know."""

    content: bytes
    beside: Mapping[str, bytes]
    notes: tuple[str, ...]


def ktx_of(what: ToExport) -> KtxMade:
    """A page under `--page`, else an array of layers.

    Raises
    ------
    KivelError
        If an extra package is missing, the format has no alpha and the frames do, or there are too many layers.
    """
    sheet, options = what.sheet, what.sheet.options
    name = options.pixel_format
    require_packages(name)
    form = _form_of(sheet, name)
    kind = sheet.content.kind
    most = options.levels or math.inf
    if options.page is not None:
        page = sheet.stored_page(0) if name in FLOAT_FORMATS else sheet.page(0)
        parts = sheet.manifest.pages[0].maps[options.show].parts
        rects = [Rect(*(side // parts for side in frame.rect)) for frame in what.table.frames]
        count = int(min(most, full_levels(page.shape[1], page.shape[0])))
        whole = [rect for rect in rects if rect.w and rect.h]
        levels = [
            level[None] for level in page_mips(page, whole, kind, premultiplied=sheet.is_premultiplied, count=count)
        ]
        notes = []
        if len(levels) < count:
            notes.append(f"{counted(len(levels), 'level')}: with more, the frames would not lie on whole pixels")
        return _made(what, form, levels, layers=None, animation=None, beside={}, notes=notes)
    return _layered(what, form, most)


def _form_of(sheet: ExportedSheet, name: str) -> BlockFormat:
    """The format by a name, which must be one of those for pages of this depth."""
    if name not in FLOAT_FORMATS:
        sheet.require_bytes("KTX 2.0", or_by=option("pixel-format", "rgba16f"))
        return BLOCK_FORMATS[name]
    if sheet.depth != 32:
        raise UsageError(
            f"{sheet.path}: {option('pixel-format', name)} is for float pages, and these have {sheet.depth} bits a "
            "channel; rgba8 keeps 8 bits exactly"
        )
    return FLOAT_FORMATS[name]


def require_packages(name: str) -> None:
    """Say how the packages are had that a format needs."""
    needed = ["zstandard"]
    if name not in _PLAIN:
        needed.append(_PACKAGES.get(name, "astc_encoder"))
        needed += [] if name in FLOAT_FORMATS else ["texture2ddecoder"]
    for package in needed:
        try:
            __import__(package)
        except ImportError as error:
            raise KivelError("KTX files need extra packages: pip install 'kivel[ktx]'") from error


def _layered(what: ToExport, form: BlockFormat, most: float) -> KtxMade:
    sheet, options = what.sheet, what.sheet.options
    plan, why = _plan(what)
    if options.layers == "steps" and plan is None:
        raise UsageError(f"{sheet.path}: {option('layers', 'steps')}: {why}")
    frames: Sequence[int | None] = range(len(sheet.manifest.frames))
    notes, animation, beside = [], None, {}
    if plan and (options.layers == "steps" or (options.layers is None and len(plan.frames) <= len(frames))):
        frames, animation = plan.frames, KtxAnimation(plan.seconds, plan.repeat)
        notes.append(f"each layer is a step of {_seconds(plan.seconds)}, timing inside")
    else:
        notes.append(f"each layer is a frame{f' ({why})' if why else ''}; steps in the .steps.json beside it")
        beside[".steps.json"] = json_table_text(what.table).encode()
    if len(frames) > _MOST_LAYERS:
        raise UsageError(
            f"{sheet.path}: {len(frames)} layers are more than the {_MOST_LAYERS} that every graphics card takes"
        )
    layers, padded = _stacked(sheet, frames, as_stored=options.pixel_format in FLOAT_FORMATS)
    if padded:
        notes.append("frames of several sizes share the largest canvas, from the top left")
    count = int(min(most, full_levels(layers.shape[2], layers.shape[1])))
    levels = layer_mips(layers, sheet.content.kind, premultiplied=sheet.is_premultiplied, count=count)
    return _made(what, form, levels, layers=len(frames), animation=animation, beside=beside, notes=notes)


def _plan(what: ToExport) -> tuple[LayerPlan | None, str]:
    """The layers of the one clip that is meant; else why there are none."""
    if len(what.clips) != 1:
        return (
            None,
            f"{counted(len(what.clips), 'clip')}; with one, the timing is inside the file" if what.clips else "no clip",
        )
    plan = layer_plan(what.clips[0], what.sheet.others)
    numbers = (plan.seconds.numerator, plan.seconds.denominator, 0 if plan.repeat == "forever" else plan.repeat)
    if len(plan.frames) > _MOST_LAYERS:
        return None, f"its holds would make {len(plan.frames)} layers, above {_MOST_LAYERS}"
    if max(numbers) > _MOST_NUMBER:
        return None, "its holds are not 32-bit fractions"
    used = len(what.sheet.manifest.frames)
    return plan, f"steps of equal length would be {len(plan.frames)} layers" if len(plan.frames) > used else ""


def _stacked(sheet: ExportedSheet, frames: Sequence[int | None], *, as_stored: bool) -> tuple[Pixels, bool]:
    """(N, H, W, 4), of 8 bits or as they are stored, and whether some frames were smaller than others."""
    load = partial(sheet.map_frame, map=sheet.options.show) if as_stored else sheet.frame
    images = {number: load(number) for number in sorted({one for one in frames if one is not None})}
    height, width = (max(image.shape[axis] for image in images.values()) for axis in (0, 1))
    layers = np.zeros((len(frames), height, width, 4), np.float32 if as_stored else np.uint8)
    for layer, number in zip(layers, frames, strict=True):
        if number is not None:
            image = images[number]
            layer[: image.shape[0], : image.shape[1]] = image
    return layers, len({image.shape for image in images.values()}) > 1


def _made(
    what: ToExport,
    form: BlockFormat,
    levels: Sequence[Pixels],
    *,
    layers: int | None,
    animation: KtxAnimation | None,
    beside: Mapping[str, bytes],
    notes: list[str],
) -> KtxMade:
    sheet, options = what.sheet, what.sheet.options
    is_float = options.pixel_format in FLOAT_FORMATS
    if not form.keeps_alpha and _needs_alpha(levels[0]):
        raise UsageError(
            f"{sheet.path}: {option('pixel-format', options.pixel_format)} has no alpha, and these pixels have; "
            f"choose {'rgba16f' if is_float else 'bc3 or bc7'}"
        )
    is_color = sheet.content.kind == "color"
    premultiplied = sheet.is_premultiplied or (is_float and is_color)
    if is_float and is_color:
        levels = [np.stack([associated(image) for image in level]) for level in levels]
        notes.append("colours are linear and multiplied by alpha, as in OpenEXR; light without alpha is kept")
    encode = partial(form.encoded, is_color=is_color)
    images = [image for level in levels for image in level]
    with sheet.work.progress("encoding", len(images)) as advance:
        parts = []
        for data in in_order(encode, images, jobs=options.threads):
            parts.append(data)
            advance()
    number = len(levels[0])
    joined = [b"".join(parts[first : first + number]) for first in range(0, len(parts), number)]
    height, width = levels[0].shape[1:3]
    texture = KtxTexture(form, width, height, layers, joined, is_color, premultiplied, animation)
    content = ktx_bytes(texture)
    size = f"{width}x{height}" if layers is None else f"{counted(layers, 'layer')} of {width}x{height}"
    memory = sum(map(len, joined))
    quality = _quality(form, levels[0], parts[:number]) if options.pixel_format != "rgba8" else "exact"
    if sheet.depth > 8 and not is_float:
        quality = f"rounded to 8 bits, then {quality}" if quality != "exact" else "rounded to 8 bits"
    transfer = "sRGB" if is_color and form.is_srgb else "linear"
    told = (
        f"{size}, {counted(len(levels), 'level')}, {options.pixel_format} {transfer}: "
        f"{_bytes(len(content))} on disk, {_bytes(memory)} on the GPU, {quality}"
    )
    return KtxMade(content, beside, (told, *notes))


def _quality(form: BlockFormat, images: Pixels, parts: Sequence[bytes]) -> str:
    """The peak signal-to-noise ratio of the decoded pixels, over red, green, blue and alpha where that is kept.

    The peak of float pixels is the brightest of them.
    """
    height, width = images.shape[1:3]
    kept = slice(4 if form.keeps_alpha else 3)
    total = 0.0
    for image, data in zip(images, parts, strict=True):
        difference = image[..., kept].astype(np.float32) - form.decoded(data, width, height)[..., kept]
        total += float(np.square(difference, dtype=np.float64).sum())
    if not total:
        return "exact"
    peak = 255.0 if images.dtype == np.uint8 else float(images[..., kept].max())
    return f"PSNR {10 * math.log10(peak**2 * images[..., kept].size / total):.1f} dB"


def _needs_alpha(images: Pixels) -> bool:
    """Whether anything is lost without alpha: float light that has none anywhere, and opaque pixels, lose nothing."""
    alpha = images[..., 3]
    return bool((alpha < full_scale(images)).any()) and not (images.dtype == np.float32 and (alpha <= 0).all())


def _seconds(seconds: Fraction) -> str:
    return f"{float(seconds * 1000):.6g} ms"


def _bytes(length: int) -> str:
    return f"{length / 1e6:.2f} MB" if length >= 10_000 else f"{length:,} bytes"
