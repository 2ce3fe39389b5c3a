"""Describe an engine or a pack in a file of your own: write a profile, check it, see what its templates get."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING, Any, ClassVar, Literal

from kivel.core.errors import UsageError, option
from kivel.core.named_tuples import NamedTuple
from kivel.making.options.option import Option
from kivel.making.options.output_options import WritingOptions
from kivel.making.options.value_kinds import PATH, choice, moved_path

if TYPE_CHECKING:
    from kivel.files.output_set import Written
    from kivel.files.profile_file import ProfileFile
    from kivel.making.exports.packs import Pack
    from kivel.making.work import Work

__all__ = ["SHIPPED_PROFILES", "ProfileMade", "ProfileOptions", "make_profile"]

SHIPPED_PROFILES = ("blank", "tiles", "burst", "regions")
"""Those of the demo's world, and one with nothing but its defaults."""


class ProfileOptions(WritingOptions):
    """What to do with a profile."""

    title = "profile"
    everyday: ClassVar = ("on", "example", "force", "dry-run")
    action: Option[Literal["new", "check", "show"] | None] = Option(
        choice("new", "check", "show"),
        "new: write one to fill in; check: is it right; show: what its templates get",
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
        "check, show: try it on a manifest (many)",
        default=(),
        form="MANIFEST",
        many=True,
        from_folder=moved_path,
    )
    example: Option[str] = Option(
        choice(*SHIPPED_PROFILES), "new: begin with one of the demo's profiles", default="blank", shown="blank"
    )

    def check(self) -> None:
        super().check()
        if self.action is None or self.file is None:
            raise UsageError("new, check or show, and FILE are needed: kivel profile new tiles.toml")
        if self.action == "new" and self.on:
            raise UsageError(f"{option('on')} is for check and show; a new profile is on nothing yet")


class ProfileMade(NamedTuple):
    """What a new profile became; of one that was checked, the names in the pack; what templates get, by name."""

    files: tuple[Written, ...]
    about: str
    outputs: tuple[str, ...]
    variables: dict[str, Any]
    notes: tuple[str, ...]


def make_profile(options: ProfileOptions, work: Work) -> ProfileMade:
    """Write, check or show a profile.

    Raises
    ------
    KivelError
        What is wrong with it, with file, line and key; nothing is written then.
    """
    from kivel.files.profile_file import read_profile
    from kivel.making.exports.packs import variables_of

    path = Path(options.file or "")
    if options.action == "new":
        text = Path(__file__).with_name("exports").joinpath("profiles", f"{options.example}.toml").read_text("utf-8")
        with options.output_set(work, with_manifest=False) as out:
            out.add(path, [text.encode()])
        return ProfileMade(tuple(out.written), "", (), {}, tuple(work.notes))
    file = read_profile(path)
    pack = _tried(file, options, work)
    names = tuple(pack.files) if pack else ()
    variables = variables_of(file, pack.sheets) if pack and options.action == "show" else {}
    return ProfileMade((), file.profile.about, names, variables, tuple(work.notes))


def _tried(file: ProfileFile, options: ProfileOptions, work: Work) -> Pack | None:
    """The pack of the manifests that it is tried on; of none, a syntax error in a template is told all the same."""
    from kivel.files.ownership import manifest_for
    from kivel.making.export import ExportOptions
    from kivel.making.exports.packs import pack_of, require_templates

    if not options.on:
        require_templates(file)
        return None
    paths = [manifest_for(Path(name)) for name in options.on]
    words = {"manifests": [str(path) for path in paths], "profile": str(file.path), "max-pixels": options.pixel_limit}
    return pack_of(file, paths, ExportOptions.of(words, door="python"), work)
