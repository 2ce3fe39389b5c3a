"""Make all that a recipe says, as far as it is not as it should be already: kivel.toml, its steps and outputs."""

from __future__ import annotations

from typing import ClassVar

from kivel.making.options.groups.common_options import CommonOptions
from kivel.making.options.groups.output_options import WritingOptions
from kivel.making.options.option import Option
from kivel.making.options.value_kinds import ANY_TEXT, FLAG, PATH, moved_path, whole

__all__ = ["BuildOptions"]


class BuildOptions(WritingOptions, CommonOptions):
    """What is built, and how."""

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
        ANY_TEXT, "which things, by name or pattern, with all that they stand on", default=(), many=True,
        positional=True, form="NAME", shown="all",
    )  # fmt: skip
    file: Option[str] = Option(
        PATH, "the recipe", default="kivel.toml", shown="kivel.toml in this folder", from_folder=moved_path
    )
    list: Option[bool] = Option(FLAG, "say what the recipe makes, and make nothing", default=False)
    why: Option[str | None] = Option(
        ANY_TEXT, "say why a thing would be made, or would not, and make nothing", default=None, form="NAME"
    )
    keep_going: Option[bool] = Option(FLAG, "where one fails, make what does not stand on it", default=False)
    remake: Option[bool] = Option(FLAG, "make everything again, changed or not", default=False)
    verify: Option[bool] = Option(FLAG, "read every file, whatever its times say", default=False)
    prune: Option[bool] = Option(FLAG, "remove what is no longer made, if nobody changed it", default=False)
    clean: Option[bool] = Option(FLAG, "throw away what is kept of steps and of earlier builds", default=False)
    init: Option[bool] = Option(FLAG, "write a recipe of the manifests and frames that lie here", default=False)
    schema: Option[bool] = Option(FLAG, "print the JSON Schema of recipes, for editors", default=False)
    lock: Option[bool] = Option(FLAG, "write the digests of all that is made, to kivel.lock", default=False)
    frozen: Option[bool] = Option(FLAG, "fail where what is made is not as kivel.lock says", default=False)
    watch: Option[bool] = Option(
        FLAG, "build again whenever something changes that the recipe reads; Ctrl-C ends it", default=False,
        command_only=True,
    )  # fmt: skip
    depfile: Option[str | None] = Option(
        PATH, "write what was read and written, as Make and Ninja read it", default=None, form="FILE",
        from_folder=moved_path,
    )  # fmt: skip
    ninja: Option[str | None] = Option(
        PATH, "write rules for Ninja, and make nothing", default=None, form="FILE", from_folder=moved_path
    )
    cluster: Option[str | None] = Option(
        ANY_TEXT, "build on the workers of a Dask cluster that see this folder under the same path",
        default=None, form="ADDRESS",
    )  # fmt: skip
    dry_run = WritingOptions.dry_run.but(help="say what would be made, and make nothing")
    jobs = CommonOptions.jobs.but(help="how many are made at once", kind=whole(1, 1024))
