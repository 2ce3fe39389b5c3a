"""Build everything in a recipe (kivel.toml) that is out of date."""

from __future__ import annotations

from typing import ClassVar

from kivel.making.options.groups.common_options import CommonOptions
from kivel.making.options.groups.output_options import WritingOptions
from kivel.making.options.option import Option
from kivel.making.options.value_kinds import ANY_TEXT, FLAG, PATH, moved_path, whole

__all__ = ["BuildOptions"]


class BuildOptions(WritingOptions, CommonOptions):
    """Holds what is built, and how."""

    title = "what"
    exclusive: ClassVar = (
        ("list", "why", "clean", "init", "schema", "ninja", "lock", "watch"),
        ("lock", "frozen"),
        ("jobs", "cluster"),
    )
    everyday: ClassVar = (
        "things", "file", "list", "why", "dry-run", "keep-going", "remake", "prune", "clean", "init", "watch", "force",
        "jobs",
    )  # fmt: skip
    things: Option[tuple[str, ...]] = Option(
        ANY_TEXT, "names or patterns of what to build, with everything that it depends on", default=(), many=True,
        positional=True, form="NAME", shown="all",
    )  # fmt: skip
    file: Option[str] = Option(
        PATH, "the recipe", default="kivel.toml", shown="kivel.toml in this folder", from_folder=moved_path
    )
    list: Option[bool] = Option(FLAG, "list what can be made, and write nothing", default=False)
    why: Option[str | None] = Option(
        ANY_TEXT, "explain why something would be built or not, and build nothing", default=None, form="NAME"
    )
    keep_going: Option[bool] = Option(
        FLAG, "if something fails, keep building whatever does not depend on it", default=False
    )
    remake: Option[bool] = Option(FLAG, "build everything, changed or not", default=False)
    verify: Option[bool] = Option(FLAG, "read every file, even if its size and time are unchanged", default=False)
    prune: Option[bool] = Option(
        FLAG, "remove files that Kivel wrote, nobody edited, and that are no longer made", default=False
    )
    clean: Option[bool] = Option(FLAG, "delete kept steps and the state of earlier builds", default=False)
    init: Option[bool] = Option(FLAG, "write a recipe for the manifests and frames in this folder", default=False)
    schema: Option[bool] = Option(
        FLAG, "print the JSON Schema, and nothing else; of recipes, for editors", default=False
    )
    lock: Option[bool] = Option(FLAG, "write the digests of all outputs to kivel.lock", default=False)
    frozen: Option[bool] = Option(FLAG, "fail if an output differs from kivel.lock", default=False)
    watch: Option[bool] = Option(
        FLAG, "rebuild whenever a file that the recipe reads changes; Ctrl-C ends it", default=False,
        command_only=True,
    )  # fmt: skip
    depfile: Option[str | None] = Option(
        PATH, "write a dependency file for Make or Ninja", default=None, form="FILE",
        from_folder=moved_path,
    )  # fmt: skip
    ninja: Option[str | None] = Option(
        PATH, "write rules for Ninja, and build nothing", default=None, form="FILE", from_folder=moved_path
    )
    cluster: Option[str | None] = Option(
        ANY_TEXT, "build on the workers of a Dask cluster that see this folder under the same path",
        default=None, form="ADDRESS",
    )  # fmt: skip
    dry_run = WritingOptions.dry_run.but(help="print what would be written, and write nothing")
    jobs = CommonOptions.jobs.but(help="number of jobs that run in parallel", kind=whole(1, 1024))
