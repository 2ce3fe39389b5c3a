"""Describe in a file of your own what an engine or a pack wants: write a profile, check it, and list what its
templates can use.
"""

from __future__ import annotations

from typing import ClassVar, Literal

from kivel.core.errors import UsageError, option
from kivel.making.options.groups.output_options import WritingOptions
from kivel.making.options.option import Option
from kivel.making.options.value_kinds import PATH, choice, moved_path

__all__ = ["SHIPPED_PROFILES", "ProfileOptions"]

SHIPPED_PROFILES = ("blank", "tiles", "figures", "pictures", "cells", "burst", "regions")
"""Those of the demo's world, and one with nothing but its defaults."""


class ProfileOptions(WritingOptions):
    """Holds what to do with a profile."""

    title = "profile"
    everyday: ClassVar = ("on", "example", "force", "dry-run")
    action: Option[Literal["new", "check", "show"] | None] = Option(
        choice("new", "check", "show"),
        "new: write a profile to fill in; check: find errors in it; show: list what its templates can use",
        default=None,
        form="new|check|show",
        positional=True,
        needed=True,
    )
    file: Option[str | None] = Option(
        PATH, "the profile, NAME.toml", default=None, form="FILE", positional=True, needed=True, from_folder=moved_path
    )
    on: Option[tuple[str, ...]] = Option(
        PATH,
        "manifests of the sheets that the profile is for (many)",
        default=(),
        form="MANIFEST",
        many=True,
        from_folder=moved_path,
    )
    example: Option[str] = Option(
        choice(*SHIPPED_PROFILES), "new: start from one of the demo's profiles", default="blank", shown="blank"
    )

    def check(self) -> None:
        super().check()
        if self.action is None or self.file is None:
            raise UsageError("new, check or show, and FILE are needed: kivel profile new tiles.toml")
        if self.action == "new" and self.on:
            raise UsageError(f"{option('on')} is for check and show")
