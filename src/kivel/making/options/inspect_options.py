"""Show what is there: frames, gaps, sizes, alpha, timing and memory. For a manifest, also whether its images still
match.
"""

from __future__ import annotations

from kivel.making.options.groups.output_options import WritingOptions
from kivel.making.options.groups.source_options import SourceOptions, SourceRateOptions
from kivel.making.options.option import Option
from kivel.making.options.value_kinds import FLAG, PATH, moved_path

__all__ = ["InspectOptions"]


class InspectOptions(SourceRateOptions, SourceOptions):
    """Options of `inspect`: what to look at, and how to show it."""

    title = "output"
    chart: Option[str | None] = Option(
        PATH,
        "draw a chart of the changes between frames, the seam and the path of the centre of mass",
        default=None,
        form="OUT.png",
        from_folder=moved_path,
    )
    force = WritingOptions.force.but(help="overwrite files that Kivel did not write")
    schema: Option[bool] = Option(FLAG, "print the JSON Schema, and nothing else; of manifests", default=False)

    def check(self) -> None:
        if not self.schema:
            super().check()
