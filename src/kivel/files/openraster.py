"""OpenRaster (`.ora`): a zip archive of a `stack.xml` and a PNG for each layer. Each layer is a frame, or each group.

After the Baseline of the OpenRaster specification 0.0.6: layers, groups (`stack`), opacity, visibility, composite-op.
"""

from __future__ import annotations

import contextlib
import zipfile
from collections.abc import Callable, Iterator, Mapping, Set
from pathlib import Path
from typing import Any, get_args

import numpy as np

from kivel.core.errors import KivelError, located
from kivel.core.named_tuples import NamedTuple
from kivel.core.option_words import LayerFrames
from kivel.core.pixels.blend import BLENDS, OPERATORS, Layer, stacked
from kivel.core.pixels.pixels import Pixels, Size, bit_depth, size_of
from kivel.files.png.chunks import SIGNATURE, Header, parse_header
from kivel.files.png.read import parse_png, pixels_of
from kivel.files.safety import opened_file, shown

__all__ = ["LAYER_FRAMES", "LayeredFrame", "LayeredImage", "OpenRasterError", "layered_frames"]

LAYER_FRAMES: tuple[LayerFrames, ...] = get_args(LayerFrames)

_MOST_XML = 16 << 20
_DEEPEST = 64
_MOST_LAYERS = 4096


class OpenRasterError(KivelError):
    """An OpenRaster file cannot be read."""


class _Node(NamedTuple):
    """A layer (with `src`), or a group (without) and its children from the bottom up."""

    name: str
    visible: bool
    opacity: float
    blend: str
    operator: str
    offset: tuple[int, int]
    src: str
    children: tuple[_Node, ...]


class LayeredFrame(NamedTuple):
    """One frame: the name of its layer or group, and how to get its pixels."""

    name: str
    load: Callable[[], Pixels]


class LayeredImage(NamedTuple):
    """The canvas, the bits of the deepest layer, the frames from the bottom up, and what was left out."""

    size: Size
    depth: int
    frames: tuple[LayeredFrame, ...]
    note: str


def layered_frames(path: Path, wanted: LayerFrames | None, check: Callable[[Size, int, int], None]) -> LayeredImage:
    """The frames of an OpenRaster file.

    Parameters
    ----------
    wanted : "layers", "groups" or None
        None takes the groups of the top level if there are any, else the layers.
    check : callable
        Raises if an image of that size and depth is too large, drawn of this many pixels in all: layers, and a canvas
        for each group. Called before anything is decoded.

    Raises
    ------
    OpenRasterError
        If the archive or its stack is damaged or holds nothing visible.
    """
    with _archive(path) as archive:
        size, root = _stack(archive)
        headers = _headers(archive, root)
    depth = max((header.depth for header in headers.values() if header.depth > 8), default=8)
    by_group = any(not node.src for node in root.children) if wanted is None else wanted == "groups"
    chosen = list(root.children) if by_group else list(_leaves(root, hidden=False))
    shown_nodes = [node for node in chosen if node.visible]
    hidden = [node.name for node in chosen if not node.visible]
    note = f"hidden layers skipped: {', '.join(hidden[:8])}" if hidden else ""
    if not shown_nodes:
        raise OpenRasterError("it has no visible layer")
    for node in shown_nodes:
        check(size, depth, size.w * size.h + _pixels_within(node, headers, size))
    frames = tuple(LayeredFrame(node.name, _loader(path, node, size, depth)) for node in shown_nodes)
    return LayeredImage(size, depth, frames, note)


def _headers(archive: zipfile.ZipFile, root: _Node) -> dict[str, Header]:
    """Return what the images of all layers state of themselves."""
    layers = list(_leaves(root))
    if len(layers) > _MOST_LAYERS:
        raise OpenRasterError(f"it has {len(layers):,} layers; at most {_MOST_LAYERS:,} are read")
    names = set(archive.namelist())
    return {layer.src: _header(archive, layer.src, layer.name, names) for layer in layers}


def _header(archive: zipfile.ZipFile, src: str, name: str, names: Set[str]) -> Header:
    """That of an image which is there, and no larger in the archive than it can be."""
    if src not in names:
        raise OpenRasterError(f"layer {name!r}: {src} is not in the archive; save it again")
    with archive.open(src) as file:
        start = file.read(len(SIGNATURE) + 8 + 13)
    if not start.startswith(SIGNATURE) or len(start) < len(SIGNATURE) + 21:
        raise OpenRasterError(f"layer {name!r}: {src} is not a PNG; save it again")
    header = parse_header(start[-13:])
    size = header.size
    # a header may state a small image over data that unpacks without end
    if archive.getinfo(src).file_size > 16 * size.w * size.h + _MOST_XML:
        raise OpenRasterError(f"layer {name!r}: {src} is larger than {size} px can be; save it again")
    return header


def _pixels_within(node: _Node, headers: Mapping[str, Header], size: Size) -> int:
    """How many pixels are there at a time while a layer or group is drawn: all that is visible in it."""
    if node.src:
        stated = headers[node.src].size
        return stated.w * stated.h
    visible = [child for child in node.children if child.visible]
    groups = sum(not child.src for child in visible)
    return groups * size.w * size.h + sum(_pixels_within(child, headers, size) for child in visible)


@contextlib.contextmanager
def _archive(path: Path) -> Iterator[zipfile.ZipFile]:
    try:
        with opened_file(path) as file, zipfile.ZipFile(file) as archive:
            yield archive
    except (KivelError, MemoryError):
        raise
    except Exception as error:  # each way of packing has errors of its own, and broken names have others
        raise OpenRasterError(f"a damaged archive ({error}); save it again") from error


def _stack(archive: zipfile.ZipFile) -> tuple[Size, _Node]:
    import defusedxml.ElementTree
    from defusedxml import DefusedXmlException

    if "stack.xml" not in archive.namelist():
        raise OpenRasterError("no stack.xml in the archive; save it again")
    if archive.getinfo("stack.xml").file_size > _MOST_XML:
        raise OpenRasterError("its stack.xml is larger than 16 MiB")
    try:
        image = defusedxml.ElementTree.fromstring(archive.read("stack.xml"))
    except (DefusedXmlException, SyntaxError, ValueError) as error:
        raise OpenRasterError(f"stack.xml: {error}; save it again") from error
    stack = image.find("stack")
    if image.tag != "image" or stack is None:
        raise OpenRasterError("stack.xml: expected an image with a stack; save it again")
    with located("stack.xml"):
        return Size(_whole(image, "w", least=1), _whole(image, "h", least=1)), _node(stack)


def _whole(element: Any, key: str, *, least: int | None = None, default: str = "") -> int:
    text = element.get(key, default)
    try:
        value = int(float(text))
    except (ValueError, OverflowError):
        value = None
    if value is None or abs(value) > 1 << 20 or (least is not None and value < least):
        raise OpenRasterError(f"{element.tag} {element.get('name', '')!r}: {key}={text!r} is not a number of pixels")
    return value


def _node(element: Any, depth: int = 0) -> _Node:
    if depth > _DEEPEST:
        raise OpenRasterError(f"groups are nested more than {_DEEPEST} deep")
    blend, operator = _composite(element.get("composite-op", "svg:src-over"))
    try:
        opacity = min(1.0, max(0.0, float(element.get("opacity", "1"))))
    except ValueError:
        opacity = 1.0
    children = tuple(_node(child, depth + 1) for child in reversed(element) if child.tag in ("layer", "stack"))
    return _Node(
        element.get("name", ""),
        element.get("visibility", "visible") == "visible",
        opacity,
        blend,
        operator,
        (_whole(element, "x", default="0"), _whole(element, "y", default="0")) if element.tag == "layer" else (0, 0),
        element.get("src") or "(no src)" if element.tag == "layer" else "",
        children if element.tag == "stack" else (),
    )


def _composite(text: str) -> tuple[str, str]:
    """A composite-op as a blend and an operator."""
    name = text.removeprefix("svg:")
    if name in OPERATORS:
        return "normal", name
    if name in ("plus", "lighter"):
        return "plus-lighter", "src-over"
    if name in BLENDS:
        return name, "src-over"
    raise OpenRasterError(f"composite-op {text!r} is not supported; flatten that layer")


def _leaves(node: _Node, *, hidden: bool = True) -> Iterator[_Node]:
    """The layers of a group, from the bottom up; a hidden group's are all hidden."""
    for child in node.children:
        if child.src:
            yield child
        elif hidden or child.visible:
            yield from _leaves(child, hidden=hidden)


def _loader(path: Path, node: _Node, size: Size, depth: int) -> Callable[[], Pixels]:
    def load() -> Pixels:
        with located(shown(path)), _archive(path) as archive:
            return _drawn(archive, node, size, depth)

    return load


def _drawn(archive: zipfile.ZipFile, node: _Node, size: Size, depth: int) -> Pixels:
    """A layer or group by itself on the canvas, with its own opacity."""
    if node.src:
        image = _pixels(archive, node.src)
        if node.opacity == 1 and node.offset == (0, 0) and size_of(image) == size and bit_depth(image) == depth:
            return image
        return stacked(size, [Layer(image, opacity=node.opacity, offset=node.offset)], depth=depth)
    layers = [
        Layer(
            _pixels(archive, child.src) if child.src else _drawn(archive, child._replace(opacity=1.0), size, depth),
            child.blend,
            child.opacity,
            child.offset,
            child.operator,
        )
        for child in node.children
        if child.visible
    ]
    blank = Layer(np.zeros((size.h, size.w, 4), np.uint8))
    return stacked(size, [blank, *layers], opacity=node.opacity, depth=depth)


def _pixels(archive: zipfile.ZipFile, name: str) -> Pixels:
    with located(name):
        return pixels_of(parse_png(archive.read(name)))
