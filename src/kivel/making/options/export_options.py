"""Write what a manifest says for other programs: the numbers of every frame, and when each shows."""

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
    """What becomes of each thing that a clip or a sheet may have and a target may lack.

    "yes", "written out" where that is exact, "told" where it is lost, "refused", or "one" of several.
    """

    blending: str = "yes"
    repeat: str = "yes"
    phase: str = "yes"
    end: str = "yes"
    then: str = "yes"
    events: str = "yes"
    unequal_holds: str = "yes"
    turned_frames: str = "yes"
    several_pages: str = "yes"
    maps: str = "yes"


FEATURES = tuple(name.replace("_", " ") for name in Carries._fields)
"""What people call them."""


class Target(NamedTuple):
    """What a target is; the suffixes of its forms, the usual one first; whether it takes one clip.

    `called` is its name in a sentence.
    """

    called: str
    about: str
    suffixes: tuple[str, ...]
    of_a_clip: bool
    carries: Carries


_OUT = "written out"
_STEPPED = Carries(blending="told", phase=_OUT, end=_OUT, then=_OUT, events="told", maps="one")
_PLAYED = _STEPPED._replace(blending="refused", turned_frames="refused", several_pages="refused")
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
        Carries(repeat="told", end="told", then="told", events="told", maps="one"),
    ),
    "gltf": Target(
        "glTF",
        "a glTF 2.0 file with a rectangle for each clip, its texture in it, stepped by keys",
        (".glb",),
        False,
        _STEPPED._replace(repeat="told"),
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
        _STEPPED._replace(repeat="told", turned_frames="told"),
    ),
}


class ExportOptions(ChoosingOptions, ShowOptions, OutputOptions):
    """What is exported, and how it is counted."""

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
        choice(*TARGETS), "what to write (many)", default=(), many=True, shown="by the suffix of OUT, else table"
    )
    out = OutputOptions.out.but(
        form="OUT", help="the file, its suffix choosing the form; a folder where there are several"
    )
    show = ShowOptions.show.but(help="which map is meant")
    page: Option[int | None] = Option(
        whole(0), "one page alone, its frames numbered anew", default=None, form="N", shown="all pages"
    )
    origin: Option[TextureOrigin] = Option(
        choice(TextureOrigin), "where texture coordinates begin", default="top", shown="top"
    )
    filter: Option[Literal["nearest", "smooth"] | None] = Option(
        SCALING,
        "how pixels are scaled by whoever shows them",
        default=None,
        shown="nearest up to 128 px a side, else smooth",
    )
    pixel_format: Option[str] = Option(
        choice("rgba8", "bc1", "bc3", "bc7", "etc2", "astc-4x4", "astc-6x6"),
        "ktx2: how the graphics card keeps the pixels",
        default="rgba8",
        shown="rgba8, exact",
    )
    layers: Option[Literal["steps", "frames"] | None] = Option(
        choice("steps", "frames"),
        "ktx2: a layer for each step of one clip, repeated where holds differ, or for each frame",
        default=None,
        shown="whatever is fewer",
    )
    levels: Option[int | None] = Option(
        whole(1), "ktx2: how many levels, each half as large as the one before", default=None, shown="down to one pixel"
    )
    half_texel: Option[bool] = Option(
        FLAG,
        "texture coordinates from the centres of the outermost texels, so that neighbours never show",
        default=False,
    )
    clock: Option[Fraction | None] = Option(
        RATE, "holds in whole ticks of another clock, R a second; prints the largest rounding error", default=None
    )

    strict: Option[bool] = Option(FLAG, "refuse what a target has no place for; otherwise it is told", default=False)
    list: Option[bool] = Option(FLAG, "say what there is to export to, and nothing else", default=False)

    profile: Option[str | None] = Option(
        PATH, "a whole pack into the folder OUT, as a profile of yours says", default=None, from_folder=moved_path
    )
    diff: Option[bool] = Option(
        FLAG, "with a profile: say what would change in the pack, and write nothing", default=False
    )
    prune: Option[bool] = Option(
        FLAG, "with a profile: remove what Kivel wrote there, nobody edited, and is no longer made", default=False
    )

    def check(self) -> None:
        if self.list:
            return
        if self.profile and self.to:
            raise UsageError(f"give {option('to')} or {option('profile')}: a profile says by itself what is written")
        if not self.profile and (self.diff or self.prune):
            raise UsageError(
                f"{option('diff', True)} and {option('prune', True)} are about a pack; give a {option('profile')}"
            )
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
                f"{option('out', self.out)}: there are several files; give a folder, a name without an ending"
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
