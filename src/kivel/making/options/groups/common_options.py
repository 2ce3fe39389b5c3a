"""Describes what every command can be told."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from kivel.making.options.option import Option, Options
from kivel.making.options.value_kinds import whole

if TYPE_CHECKING:
    from kivel.making.work import Work
    from kivel.sequences.settings import SourceSettings

__all__ = ["CommonOptions"]


class CommonOptions(Options):
    """Every command has them."""

    title = "general"
    jobs: Option[int | None] = Option(
        whole(1, 1024), "number of jobs that run in parallel", default=None, shown="one per processor", kept=False
    )
    max_pixels: Option[int | None] = Option(
        whole(1),
        "refuse images with more pixels",
        default=None,
        shown="268435456, a 16384x16384 page",
        kept=False,
    )

    @property
    def threads(self) -> int:
        from kivel.files.threads import default_jobs

        return self.jobs or default_jobs()

    @property
    def pixel_limit(self) -> int:
        from kivel.core.room import DEFAULT_MAX_PIXELS

        return self.max_pixels or DEFAULT_MAX_PIXELS

    def source_settings(self, work: Work, *, keep_float: bool = False, **more: Any) -> SourceSettings:
        """How to read sources; `keep_float` for commands that can write float frames."""
        from kivel.sequences.settings import SourceSettings

        return SourceSettings(max_pixels=self.pixel_limit, keep_float=keep_float, tell=work.note, **more)
