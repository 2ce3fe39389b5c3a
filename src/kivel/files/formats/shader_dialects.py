"""How four shading languages write the same few things."""

from __future__ import annotations

import re
from collections.abc import Iterator, Mapping, Sequence

from kivel.core.named_tuples import NamedTuple

__all__ = ["SHADER_DIALECTS", "Argument", "ShaderDialect"]


class Argument(NamedTuple):
    """Holds what a function is given. `page` is a texture with its sampler, `layers` an array of them, `index` a
    number.
    """

    kind: str
    name: str


class ShaderDialect(NamedTuple):
    """One language; bodies are written in GLSL ES 3.00, and `words` are what it says instead.

    `index` is its type for the number of a frame. The patterns take `type`, `name`, `value`, `arguments`, `place` and
    `layer`; one that is empty is a thing that it does not have.
    """

    name: str
    words: Mapping[str, str]
    constant: str
    head: str
    argument: str
    local: str
    page: str
    layers: str
    sampled: str
    layered: str
    preamble: tuple[str, ...] = ()
    handed_on: str = "{name}"

    @property
    def has_whole_numbers(self) -> bool:
        """Whether the number of a frame is an int: of GLSL ES 1.00 only the floats are sure to reach far enough."""
        return self.words["index"] != "float"

    def number(self, value: int) -> str:
        """The number of a frame."""
        return str(value) if self.has_whole_numbers else f"{value}.0"

    def named(self, name: str, kind: str, *values: str) -> str:
        """A constant: one value, or the two to four of a vector."""
        value = values[0] if len(values) == 1 else f"{kind}({', '.join(values)})"
        return self.said(self.constant.format(type=kind, name=name, value=value))

    def let(self, kind: str, name: str, value: str) -> str:
        return self.local.format(type=kind, name=name, value=value)

    def sample(self, page: str, place: str) -> str:
        return self.sampled.format(name=page, place=place)

    def hand_on(self, page: str) -> str:
        """A page that a function was given, as it is given to another."""
        return self.handed_on.format(name=page)

    def sample_layer(self, layers: str, place: str, layer: str) -> str:
        return self.layered.format(name=layers, place=place, layer=layer)

    def function(self, kind: str, name: str, arguments: Sequence[Argument], body: Sequence[str]) -> Iterator[str]:
        patterns = {"page": self.page, "layers": self.layers}
        listed = (patterns.get(one.kind, self.argument).format(type=one.kind, name=one.name) for one in arguments)
        yield self.said(self.head.format(type=kind, name=name, arguments=", ".join(listed)))
        yield from (f"    {self.said(line)}" for line in body)
        yield from ("}", "")

    def said(self, text: str) -> str:
        """Our words as its own."""
        return re.sub(r"\b[a-z]\w*\b", lambda found: self.words.get(found[0], found[0]), text)


_GLSL_3 = ShaderDialect(
    "GLSL ES 3.00",
    words={"index": "int"},
    constant="const {type} {name} = {value};",
    head="{type} {name}({arguments}) {{",
    argument="{type} {name}",
    local="{type} {name} = {value};",
    page="sampler2D {name}",
    layers="sampler2DArray {name}",
    sampled="texture({name}, {place})",
    layered="texture({name}, vec3({place}, {layer}))",
    preamble=("precision highp float;", "precision highp int;", "precision highp sampler2DArray;"),
)
_GLSL_1 = _GLSL_3._replace(
    name="GLSL ES 1.00",
    words={"index": "float"},
    layers="",
    sampled="texture2D({name}, {place})",
    layered="",
    preamble=("precision highp float;",),
)
_WGSL = ShaderDialect(
    "WGSL",
    words={"index": "i32", "float": "f32", "vec2": "vec2f", "vec3": "vec3f", "vec4": "vec4f"},
    constant="const {name}: {type} = {value};",
    head="fn {name}({arguments}) -> {type} {{",
    argument="{name}: {type}",
    local="let {name} = {value};",
    page="{name}: texture_2d<f32>, {name}_sampler: sampler",
    layers="{name}: texture_2d_array<f32>, {name}_sampler: sampler",
    sampled="textureSample({name}, {name}_sampler, {place})",
    layered="textureSample({name}, {name}_sampler, {place}, index({layer}))",
    handed_on="{name}, {name}_sampler",
)
_HLSL = ShaderDialect(
    "HLSL",
    words={"index": "int", "vec2": "float2", "vec3": "float3", "vec4": "float4", "mix": "lerp"},
    constant="static const {type} {name} = {value};",
    head=_GLSL_3.head,
    argument=_GLSL_3.argument,
    local=_GLSL_3.local,
    page="Texture2D {name}, SamplerState {name}_sampler",
    layers="Texture2DArray {name}, SamplerState {name}_sampler",
    sampled="{name}.Sample({name}_sampler, {place})",
    layered="{name}.Sample({name}_sampler, vec3({place}, {layer}))",
    handed_on="{name}, {name}_sampler",
)

SHADER_DIALECTS = {".glsl": _GLSL_3, ".frag": _GLSL_1, ".wgsl": _WGSL, ".hlsl": _HLSL}
"""By the suffix of the file."""
