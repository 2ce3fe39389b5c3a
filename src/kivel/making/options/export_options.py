"""Write what a manifest says for other programs: rectangles and times, CSS, SVG, shaders, glTF, KTX 2.0, WebVTT, or
a pack.
"""

from __future__ import annotations

from fractions import Fraction
from pathlib import Path
from typing import ClassVar, Literal

from kivel.core.errors import UsageError, option
from kivel.core.named_tuples import NamedTuple
from kivel.core.option_words import TextureOrigin
from kivel.making.options.groups.output_options import OutputOptions
from kivel.making.options.groups.source_options import ChoosingOptions, ShowOptions
from kivel.making.options.option import Option
from kivel.making.options.value_kinds import FLAG, PATH, RATE, SCALING, choice, moved_path, whole

__all__ = ["FEATURES", "TARGETS", "Carries", "ExportOptions", "Target"]


class Carries(NamedTuple):
    """Holds what becomes of each thing that a clip or a sheet may have and a target may lack.

    "yes", "written out" where that is exact, "noted" where it is lost, "refused", or "one" of several.
    """

    blending: str = "yes"
    repeat: str = "yes"
    phase: str = "yes"
    end: str = "yes"
    then: str = "yes"
    events: str = "yes"
    groups: str = "yes"
    unequal_holds: str = "yes"
    turned_frames: str = "yes"
    several_pages: str = "yes"
    maps: str = "yes"


FEATURES = tuple(name.replace("_", " ") for name in Carries._fields)
"""Says what people call them."""


class Target(NamedTuple):
    """Holds what a target is; the suffixes of its forms, the usual one first; whether it takes one clip.

    `called` is its name in a sentence.
    """

    called: str
    about: str
    suffixes: tuple[str, ...]
    of_a_clip: bool
    carries: Carries


_OUT = "written out"
_STEPPED = Carries(blending="noted", phase=_OUT, end=_OUT, then=_OUT, events="noted", groups="noted", maps="one")
_PLAYED = _STEPPED._replace(blending="refused", several_pages="refused")
TARGETS = {
    "table": Target(
        "a table",
        "frames, texture coordinates, pivots and the steps of every clip, as JSON, CSV or a C header",
        (".json", ".csv", ".h"),
        False,
        Carries(),
    ),
    "css": Target(
        "CSS",
        "a class that plays a clip on a page, pixel for pixel, at its exact times; or a fragment of a page with it",
        (".css", ".html"),
        True,
        _PLAYED,
    ),
    "svg": Target("an SVG", "the same as one picture that plays by itself, its page in it", (".svg",), True, _PLAYED),
    "shader": Target(
        "a shader",
        "code that finds frames and mixes them in time, as GLSL ES 3.00, GLSL ES 1.00 (.frag), WGSL or HLSL",
        (".glsl", ".frag", ".wgsl", ".hlsl"),
        False,
        Carries(repeat="noted", end="noted", then="noted", events="noted", maps="one"),
    ),
    "gltf": Target(
        "glTF",
        "a glTF 2.0 file with a rectangle for each clip, its texture in it, stepped by keys",
        (".glb",),
        False,
        _STEPPED._replace(repeat="noted"),
    ),
    "ktx2": Target(
        "KTX 2.0",
        "a KTX 2.0 texture with its levels: an array of frames, or a page as it is",
        (".ktx2",),
        False,
        _STEPPED._replace(unequal_holds=_OUT, turned_frames=_OUT, several_pages=_OUT),
    ),
    "vtt": Target(
        "WebVTT",
        "WebVTT: when each rectangle shows, in milliseconds",
        (".vtt",),
        True,
        _STEPPED._replace(repeat="noted", turned_frames="noted"),
    ),
}


class ExportOptions(ChoosingOptions, ShowOptions, OutputOptions):
    """Holds what is exported, and how it is counted."""

    title = "what for"
    everyday: ClassVar = (
        "to", "out", "clip", "profile", "diff", "prune", "origin", "half-texel", "clock", "strict", "list", "force",
        "dry-run",
    )  # fmt: skip
    manifests: Option[tuple[str, ...]] = Option(
        PATH,
        "NAME.kivel.json",
        default=(),
        form="MANIFEST",
        many=True,
        positional=True,
        from_folder=moved_path,
    )
    to: Option[tuple[str, ...]] = Option(
        choice(*TARGETS), "what to export to (many)", default=(), many=True, shown="from the suffix of OUT, else table"
    )
    out = OutputOptions.out.but(
        form="OUT", help="where to write; the suffix chooses the format, several files need a folder"
    )
    show = ShowOptions.show.but(help="which map to use: color, emission, ...; of a manifest")
    page: Option[int | None] = Option(
        whole(0), "export only this page; its frames are numbered from 0", default=None, form="N", shown="all pages"
    )
    origin: Option[TextureOrigin] = Option(
        choice(TextureOrigin), "corner where texture coordinates begin", default="top", shown="top"
    )
    filter: Option[Literal["nearest", "smooth"] | None] = Option(
        SCALING,
        "sampling: nearest for pixel art, or smooth; for the program that shows the pixels",
        default=None,
        shown="nearest up to 128 px a side, else smooth",
    )
    alpha: Option[Literal["opaque", "mask", "blend"] | None] = Option(
        choice("opaque", "mask", "blend"),
        "gltf: ignore alpha, cut it off at a half (alpha test), or blend",
        default=None,
        shown="as the pixels need",
    )
    outline: Option[int] = Option(
        whole(3, 64),
        "add a convex outline of up to N points around what is visible",
        default=0,
        shown="none; the mesh of a glTF is cut to it",
    )
    pixel_format: Option[str] = Option(
        choice(
            "rgba8",
            "bc1",
            "bc3",
            "bc7",
            "etc2",
            "astc-4x4",
            "astc-6x6",
            "rgba16f",
            "rgb9e5",
            "astc-hdr-4x4",
            "astc-hdr-6x6",
        ),
        "ktx2: pixel format on the graphics card; of float pages rgba16f, rgb9e5 or astc-hdr",
        default="rgba8",
        shown="rgba8, lossless",
    )
    layers: Option[Literal["steps", "frames"] | None] = Option(
        choice("steps", "frames"),
        "ktx2: a layer for each step of the clip, repeated for longer holds, or for each frame",
        default=None,
        shown="whichever is fewer",
    )
    levels: Option[int | None] = Option(whole(1), "ktx2: number of mip levels", default=None, shown="down to one pixel")
    half_texel: Option[bool] = Option(
        FLAG,
        "texture coordinates at the centres of the outermost texels, against bleeding",
        default=False,
    )
    clock: Option[Fraction | None] = Option(
        RATE,
        "the target's clock, R ticks a second; rounds holds to whole ticks and prints the largest error",
        default=None,
    )

    strict: Option[bool] = Option(
        FLAG, "fail instead of warning; where the target has no place for something", default=False
    )
    list: Option[bool] = Option(FLAG, "list what can be made, and write nothing", default=False)

    profile: Option[str | None] = Option(
        PATH,
        "profile (NAME.toml) of the engine or pack; OUT is the folder of the pack",
        default=None,
        from_folder=moved_path,
    )
    diff: Option[bool] = Option(
        FLAG, "with a profile: list what would change in the pack, and write nothing", default=False
    )
    prune: Option[bool] = Option(
        FLAG, "remove files that Kivel wrote, nobody edited, and that are no longer made", default=False
    )

    def check(self) -> None:
        if self.list:
            return
        if self.profile and self.to:
            raise UsageError(
                f"{option('to')} cannot be combined with {option('profile')}: a profile knows its own files"
            )
        if not self.profile and (self.diff or self.prune):
            raise UsageError(f"{option('diff', True)} and {option('prune', True)} need {option('profile')}")
        if not self.manifests:
            raise UsageError("MANIFEST is needed: NAME.kivel.json")
        super().check()
        if self.profile:
            return
        if self.is_a_file and Path(self.out or "").suffix.lower() not in TARGETS[self.targets[0]].suffixes:
            if self.to:
                ends = f"a {self.targets[0]} ends in {', '.join(TARGETS[self.targets[0]].suffixes)}"
            else:
                ends = (
                    f"its ending says what to write: {', '.join(s for one in TARGETS.values() for s in one.suffixes)}"
                )
            raise UsageError(f"{option('out', self.out)}: {ends}")

        known = [suffix for target in TARGETS.values() for suffix in target.suffixes]
        if not self.is_a_file and Path(self.out or "").suffix.lower() in known:
            raise UsageError(
                f"{option('out', self.out)}: there are several files; use a folder (a name without a suffix)"
            )

    @property
    def targets(self) -> tuple[str, ...]:
        return tuple(dict.fromkeys(self.to)) or (self._by_suffix or "table",)

    @property
    def _by_suffix(self) -> str | None:
        """The target whose files end as OUT does."""
        suffix = Path(self.out or "").suffix.lower()
        return next((name for name, target in TARGETS.items() if suffix in target.suffixes), None)

    @property
    def is_a_file(self) -> bool:
        """Whether OUT is one file, and not a folder of several."""
        one = len(self.manifests) == len(self.targets) == 1
        return one and bool(self.out) and bool(Path(self.out or "").suffix)
