"""Profiles: made, checked and shown."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING, Any

from kivel.core.named_tuples import NamedTuple
from kivel.files.ownership import manifest_for
from kivel.files.profile_file import read_profile
from kivel.making.exports.packs import pack_of, require_templates, variables_of
from kivel.making.options.export_options import ExportOptions
from kivel.making.options.profile_options import ProfileOptions

if TYPE_CHECKING:
    from kivel.files.output_set import Written
    from kivel.files.profile_file import ProfileFile
    from kivel.making.exports.packs import Pack
    from kivel.making.work import Work

__all__ = ["ProfileMade", "make_profile"]


class ProfileMade(NamedTuple):
    """Holds what a new profile became; of one that was checked, the names in the pack; what templates get, by name."""

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
    path = Path(options.file or "")
    if options.action == "new":
        text = Path(__file__).with_name("profiles").joinpath(f"{options.example}.toml").read_text("utf-8")
        with options.output_set(work, with_manifest=False) as out:
            out.add(path, [text.encode()])
        return ProfileMade(tuple(out.written), "", (), {}, tuple(work.notes))
    file = read_profile(path)
    pack = _tried(file, options, work)
    names = tuple(pack.files) if pack else ()
    variables = variables_of(file, pack.sheets) if pack and options.action == "show" else {}
    return ProfileMade((), file.profile.about, names, variables, tuple(work.notes))


def _tried(file: ProfileFile, options: ProfileOptions, work: Work) -> Pack | None:
    """The pack of the manifests that it is tried on; of none, a syntax error in a template is noted all the same."""
    if not options.on:
        require_templates(file)
        return None
    paths = [manifest_for(Path(name)) for name in options.on]
    words = {"manifests": [str(path) for path in paths], "profile": str(file.path), "max-pixels": options.pixel_limit}
    return pack_of(file, paths, ExportOptions.of(words, door="python"), work)
