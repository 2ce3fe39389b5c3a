"""Change how the clips of a manifest play: frame rate, holds, order, direction, repeat, phase, easing, events."""

from __future__ import annotations

from typing import TYPE_CHECKING, ClassVar

from kivel.core.errors import UsageError, option
from kivel.making.options.groups.clip_options import ChangeOptions, GroupOptions, RowClipOptions
from kivel.making.options.groups.common_options import CommonOptions
from kivel.making.options.groups.output_options import PivotOptions, WritingOptions
from kivel.making.options.groups.source_options import ChoosingOptions
from kivel.making.options.option import Option
from kivel.making.options.value_kinds import ANY_TEXT, FLAG, PATH, moved_path, whole

if TYPE_CHECKING:
    from kivel.making.playback.retimed_clips import RetimeRequest

__all__ = ["RetimeOptions"]


class RetimeOptions(ChoosingOptions, RowClipOptions, ChangeOptions, GroupOptions, PivotOptions, CommonOptions):
    """Changes to the clips of a manifest."""

    title = "which clips"
    everyday: ClassVar = (
        "clip", "order", "fps", "hold", "holds", "length", "speed", "pace", "direction", "hold-ends", "repeat",
        "end", "then", "interpolation", "phase", "event", "new", "rename", "remove", "stagger",
        "make-group", "pivot", "dry-run",
    )  # fmt: skip
    manifest: Option[str] = Option(
        PATH,
        "NAME.kivel.json; it is changed in place",
        default="",
        form="MANIFEST",
        positional=True,
        needed=True,
        from_folder=moved_path,
    )
    new: Option[str | None] = Option(
        ANY_TEXT, "change a copy with this name, and keep the clip", default=None, form="NAME"
    )
    rename: Option[str | None] = Option(ANY_TEXT, "rename the clip", default=None, form="NAME")
    remove: Option[bool] = Option(FLAG, "remove the chosen clips", default=False)
    row_clips = RowClipOptions.row_clips.but(help="one clip for each row: walk,run,rest", group="which clips")
    make_group = GroupOptions.make_group.but(group="many instances")
    choose = GroupOptions.choose.but(group="many instances")
    stagger: Option[int | None] = Option(
        whole(1, 100_000), "add N copies of the clip at evenly spread phases", default=None, group="many instances"
    )
    stagger_seed: Option[int | None] = Option(
        whole(0),
        "spread the phases of the copies at random, from this seed",
        default=None,
        form="SEED",
        group="many instances",
    )
    dry_run = WritingOptions.dry_run.but(help="print what would be written, and write nothing")

    def check(self) -> None:
        super().check()
        if self.stagger_seed is not None and not self.stagger:
            raise UsageError(f"{option('stagger-seed')} needs {option('stagger', 'N')}")
        others = bool(self.new or self.rename or self.stagger or self.changes().entries)
        if self.row_clips and (self.clip or self.new or self.rename or self.remove):
            raise UsageError(f"{option('row-clips')} makes clips of rows; change other clips in a separate run")
        if self.remove and others:
            raise UsageError(f"{option('remove', True)} removes clips; change other clips in a separate run")
        if not (self.says_of_clips or self.pivot):
            raise UsageError(
                f"nothing to change: give an option, like {option('hold', 2)}; kivel timeline lists what plays"
            )

    @property
    def says_of_clips(self) -> bool:
        return bool(
            self.new or self.rename or self.stagger or self.remove or self.row_clips or self.make_group
            or self.changes().entries
        )  # fmt: skip

    def request(self) -> RetimeRequest:
        from kivel.making.playback.retimed_clips import RetimeRequest

        return RetimeRequest(
            patterns=self.clip,
            changes=self.changes(),
            new=self.new,
            rename=self.rename,
            remove=self.remove,
            stagger=self.stagger or 0,
            seed=self.stagger_seed,
            groups=self.group_requests(),
            row_clips=self.row_clips,
        )
