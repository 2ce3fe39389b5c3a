"""Runs exported GLSL on whatever draws here: numbers in, numbers out, as 32-bit floats."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

import numpy as np
from numpy.typing import NDArray

Numbers = NDArray[np.float32]
_CORNERS = np.array([-1, -1, 3, -1, -1, 3], np.float32)
_HEADS = {
    ".glsl": ("#version 300 es", "in", "out highp vec4 result;", "texture"),
    ".frag": ("#version 100", "attribute", "", "texture2D"),
}


class ShaderRun:
    """A shader that computes `expression` for `one`, each row of (N, 4) numbers.

    It may read an `image`, and a `motion`; with that the image is filtered.
    """

    def __init__(self, context: Any, code: str, suffix: str, expression: str) -> None:
        version, corner, result, texture = _HEADS[suffix]
        self.context = context
        vertex = f"{version}\n{corner} vec2 corner; void main() {{ gl_Position = vec4(corner, 0.0, 1.0); }}"
        to = "result" if result else "gl_FragColor"
        main = (
            "uniform highp sampler2D given, image, motion; uniform highp vec2 count;\n"
            f"void main() {{ vec4 one = {texture}(given, gl_FragCoord.xy / count); {to} = vec4({expression}); }}"
        )
        self.program = context.program(vertex, "\n".join([version, code, result, main]))
        corners = context.buffer(_CORNERS.tobytes())
        self.shape = context.simple_vertex_array(self.program, corners, "corner")

    def __call__(self, given: Numbers, image: Numbers | None = None, motion: Numbers | None = None) -> Numbers:
        """(N, 4) from (N, 4)."""
        across = 1024
        down = -(-len(given) // across)
        padded = np.zeros((down * across, 4), np.float32)
        padded[: len(given)] = given
        textures: Mapping[str, Numbers | None] = {
            "given": padded.reshape(down, across, 4),
            "image": image,
            "motion": motion,
        }
        for unit, (name, pixels) in enumerate(textures.items()):
            if pixels is None or name not in self.program:
                continue
            texture = self.context.texture(pixels.shape[1::-1], pixels.shape[2], pixels.tobytes(), dtype="f4")
            smooth = name == "image" and motion is not None
            texture.filter = (0x2601, 0x2601) if smooth else (0x2600, 0x2600)  # GL_LINEAR, GL_NEAREST
            texture.use(unit)
            self.program[name].value = unit
        if "count" in self.program:
            self.program["count"].value = (across, down)
        target = self.context.framebuffer([self.context.texture((across, down), 4, dtype="f4")])
        target.use()
        self.shape.render(vertices=3)
        read = np.frombuffer(target.read(components=4, dtype="f4"), np.float32).reshape(-1, 4)
        found: Numbers = read[: len(given)]
        return found
