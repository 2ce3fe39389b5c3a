"""glTF 2.0 as one .glb file: for each clip a rectangle that steps from frame to frame.

By the ratified extensions KHR_texture_transform, KHR_animation_pointer and KHR_materials_unlit. Every key is a STEP.
Times are 32-bit floats rounded down: rounded to the nearest, the sample at a key may show what was before it.
"""

from __future__ import annotations

import json
import struct
from collections.abc import Sequence
from fractions import Fraction
from itertools import accumulate
from typing import Any, Literal

import numpy as np
from numpy.typing import NDArray

from kivel.core.errors import UsageError
from kivel.core.exporting.float_text import float32_below
from kivel.core.exporting.quads import NO_QUAD, Quad
from kivel.core.named_tuples import NamedTuple
from kivel.files.own_digest import BLANK_DIGEST

__all__ = ["GltfClip", "GltfPage", "MeshPoint", "glb_bytes"]

_FLOAT, _SHORT = 5126, 5123
MeshPoint = tuple[float, float]
"""A share of a rectangle's width and height, from its top left."""
_KINDS = {1: "SCALAR", 2: "VEC2", 3: "VEC3"}
_VERTICES, _INDICES = 34962, 34963
_NEAREST, _LINEAR, _CLAMP = 9728, 9729, 33071
_CORNERS: tuple[MeshPoint, ...] = ((0, 0), (1, 0), (1, 1), (0, 1))
_QUARTER = -float(np.float32(np.pi / 2))
_TRANSFORM = "KHR_texture_transform"


class GltfPage(NamedTuple):
    """A page as a PNG file, and how its alpha is taken: not at all, as a mask with a limit of a half, or blended."""

    png: bytes
    alpha: Literal["opaque", "mask", "blend"]


class GltfClip(NamedTuple):
    """A clip: at which page and rectangle it shows for how many seconds, in order, and how far to the right it lies.

    `mesh` is the convex part of each rectangle that is drawn, clockwise as seen; without points it is all of it.
    """

    name: str
    shown: Sequence[tuple[int, Quad, Fraction]]
    right: Fraction
    mesh: tuple[MeshPoint, ...] = ()


def glb_bytes(clips: Sequence[GltfClip], pages: Sequence[GltfPage], unit_px: int, *, nearest: bool) -> bytes:
    """The file. One unit of space is `unit_px` pixels; `nearest` keeps pixels crisp.

    Raises
    ------
    UsageError
        If steps lie closer together than 32-bit times can tell.
    """
    return _Document(pages, unit_px, nearest=nearest).whole(clips)


class _Document:
    """A document in the making: each part is named by its number in its list."""

    def __init__(self, pages: Sequence[GltfPage], unit_px: int, *, nearest: bool) -> None:
        self.unit_px = unit_px
        scaling = _NEAREST if nearest else _LINEAR
        self.pages = pages
        self.binary = bytearray()
        self._meshes: dict[tuple[MeshPoint, ...], dict[str, Any]] = {}
        self.content: dict[str, Any] = {
            "asset": {"version": "2.0", "generator": "Kivel", "extras": {"digest": BLANK_DIGEST}},
            "extensionsUsed": ["KHR_animation_pointer", "KHR_materials_unlit", _TRANSFORM],
            "extensionsRequired": [_TRANSFORM],
            "scene": 0,
            "scenes": [{"nodes": []}],
            **{key: [] for key in ("nodes", "meshes", "materials", "animations", "accessors", "bufferViews")},
            # no mips: neighbours on the page would show at small ones
            "samplers": [{"magFilter": scaling, "minFilter": scaling, "wrapS": _CLAMP, "wrapT": _CLAMP}],
            "images": [],
            "textures": [],
        }

    def whole(self, clips: Sequence[GltfClip]) -> bytes:
        for number, page in enumerate(self.pages):
            view = self._view(page.png)
            self._add("images", {"bufferView": view, "mimeType": "image/png"})
            self._add("textures", {"sampler": 0, "source": number})
        for clip in clips:
            self._add_clip(clip, self._geometry(clip.mesh or _CORNERS))
        self.content["buffers"] = [{"byteLength": len(self.binary)}]
        return self._packed()

    def _geometry(self, mesh: tuple[MeshPoint, ...]) -> dict[str, Any]:
        """Vertices and triangles of a convex polygon, counterclockwise with y up; equal ones are stored once."""
        if mesh not in self._meshes:
            points = np.array(mesh[::-1], np.float32)
            corners = np.column_stack((points[:, 0], 1 - points[:, 1], np.zeros(len(points), np.float32)))
            fan = [(0, number, number + 1) for number in range(1, len(mesh) - 1)]
            self._meshes[mesh] = {
                "attributes": {
                    "POSITION": self._accessor(corners.astype(np.float32), bounded=True, target=_VERTICES),
                    "TEXCOORD_0": self._accessor(points, target=_VERTICES),
                },
                "indices": self._accessor(np.array(fan, np.uint16).ravel(), target=_INDICES),
            }
        return self._meshes[mesh]

    def _add_clip(self, clip: GltfClip, geometry: dict[str, Any]) -> None:
        """A node, one below it for each page that it plays on, and the animation of all of them."""
        starts = [Fraction(0), *accumulate(seconds for _, _, seconds in clip.shown)]
        times = np.array([float32_below(start) for start in starts])
        if not (np.diff(times) > 0).all():
            raise UsageError(f'clip "{clip.name}": its steps are too short for 32-bit times; use longer holds')
        keys = self._accessor(times, bounded=True)
        animation: dict[str, Any] = {"name": clip.name, "channels": [], "samplers": []}
        children = []
        for page in sorted({page for page, quad, _ in clip.shown if quad.width}):
            quads = [quad if page == on else NO_QUAD for on, quad, _ in clip.shown]
            children.append(self._add_quad(animation, keys, page, [*quads, quads[-1]], geometry))
        root = {"name": clip.name, "translation": self._units(clip.right, 0), "children": children}
        self.content["scenes"][0]["nodes"].append(self._add("nodes", root if children else {"name": clip.name}))
        if animation["channels"]:
            self._add("animations", animation)

    def _add_quad(
        self, animation: dict[str, Any], keys: int, page: int, quads: Sequence[Quad], geometry: dict[str, Any]
    ) -> int:
        """A node with its own material, and a track for each value that changes."""
        tracks = {
            "translation": [self._units(quad.left, quad.bottom) for quad in quads],
            "scale": [[*self._units(quad.width, quad.height)[:2], 1.0] for quad in quads],
            "offset": [[_float(quad.u), _float(quad.v)] for quad in quads],
            "rotation": [[_QUARTER if quad.turned else 0.0] for quad in quads],
            "texture scale": [[_float(quad.s_scale), _float(quad.t_scale)] for quad in quads],
        }
        first = {name: values[0] for name, values in tracks.items()}
        transform = {"offset": first["offset"], "rotation": first["rotation"][0], "scale": first["texture scale"]}
        material = self._add(
            "materials",
            {
                "name": f"{animation['name']}",
                "pbrMetallicRoughness": {
                    "baseColorTexture": {"index": page, "extensions": {_TRANSFORM: transform}},
                    "metallicFactor": 0.0,
                },
                "alphaMode": self.pages[page].alpha.upper(),
                **({"alphaCutoff": 0.5} if self.pages[page].alpha == "mask" else {}),
                "doubleSided": True,
                "extensions": {"KHR_materials_unlit": {}},
            },
        )
        mesh = self._add("meshes", {"primitives": [geometry | {"material": material}]})
        node = self._add("nodes", {"mesh": mesh, "translation": first["translation"], "scale": first["scale"]})
        pointer = f"/materials/{material}/pbrMetallicRoughness/baseColorTexture/extensions/{_TRANSFORM}"
        targets: dict[str, dict[str, Any]] = {
            "translation": {"node": node, "path": "translation"},
            "scale": {"node": node, "path": "scale"},
            "offset": _pointed(f"{pointer}/offset"),
            "rotation": _pointed(f"{pointer}/rotation"),
            "texture scale": _pointed(f"{pointer}/scale"),
        }
        for name, values in tracks.items():
            if any(value != values[0] for value in values):
                output = self._accessor(np.array(values, np.float32))
                animation["samplers"].append({"input": keys, "interpolation": "STEP", "output": output})
                animation["channels"].append({"sampler": len(animation["samplers"]) - 1, "target": targets[name]})
        return node

    def _units(self, x: Fraction | int, y: Fraction | int) -> list[float]:
        return [_float(Fraction(x) / self.unit_px), _float(Fraction(y) / self.unit_px), 0.0]

    def _accessor(self, values: NDArray[Any], *, bounded: bool = False, target: int | None = None) -> int:
        flat = values if values.ndim == 2 else values[:, None]
        accessor = {
            "bufferView": self._view(values.tobytes(), target),
            "componentType": _SHORT if values.dtype == np.uint16 else _FLOAT,
            "count": len(values),
            "type": _KINDS[flat.shape[1]],
        }
        if bounded:
            accessor |= {"min": flat.min(axis=0).tolist(), "max": flat.max(axis=0).tolist()}
        return self._add("accessors", accessor)

    def _view(self, data: bytes, target: int | None = None) -> int:
        self.binary += bytes(-len(self.binary) % 4)
        view = {"buffer": 0, "byteOffset": len(self.binary), "byteLength": len(data)}
        self.binary += data
        return self._add("bufferViews", view | ({"target": target} if target else {}))

    def _add(self, kind: str, thing: dict[str, Any]) -> int:
        self.content[kind].append(thing)
        return len(self.content[kind]) - 1

    def _packed(self) -> bytes:
        """The two chunks: JSON filled up with spaces, the binary one with zeros."""
        filled = {key: value for key, value in self.content.items() if value != []}
        text = json.dumps(filled, ensure_ascii=False, separators=(",", ":")).encode()
        text += b" " * (-len(text) % 4)
        data = bytes(self.binary) + bytes(-len(self.binary) % 4)
        length = 12 + 8 + len(text) + 8 + len(data)
        return b"".join(
            [
                struct.pack("<4sII", b"glTF", 2, length),
                struct.pack("<I4s", len(text), b"JSON"),
                text,
                struct.pack("<I4s", len(data), b"BIN\0"),
                data,
            ]
        )


def _pointed(pointer: str) -> dict[str, Any]:
    return {"path": "pointer", "extensions": {"KHR_animation_pointer": {"pointer": pointer}}}


def _float(value: Fraction) -> float:
    """As it is stored: what is compared, and what is written as text, are the same 32 bits."""
    return float(np.float32(float(value)))
