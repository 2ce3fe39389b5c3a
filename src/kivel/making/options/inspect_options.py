"""Say what is there: frames, gaps, sizes, alpha, timing, memory; and whether a manifest still holds."""

from __future__ import annotations

from kivel.making.options.groups.output_options import WritingOptions
from kivel.making.options.groups.source_options import SourceOptions
from kivel.making.options.option import Option
from kivel.making.options.value_kinds import FLAG, PATH, moved_path

__all__ = ["InspectOptions"]


class InspectOptions(SourceOptions):
    """What is looked at, and how it is told."""

    title = "output"
    chart: Option[str | None] = Option(
        PATH,
        "draw the changes, the seam and the path of the mass",
        default=None,
        form="OUT.png",
        from_folder=moved_path,
    )
    force = WritingOptions.force.but(help="overwrite a chart that is there")
    schema: Option[bool] = Option(FLAG, "print the JSON Schema of a manifest, and nothing else", default=False)

    def check(self) -> None:
        if not self.schema:
            super().check()
