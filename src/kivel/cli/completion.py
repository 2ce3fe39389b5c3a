"""Completion in the shell: words of options, files, and the clips and groups of a manifest that is named."""

from __future__ import annotations

import argparse
from pathlib import Path
from typing import Any

from kivel.making.options.option import Option

__all__ = ["SHELLS", "complete_line", "completes", "script"]

SHELLS = ("bash", "zsh", "fish")


def script(shell: str) -> str:
    """Return what a shell reads once, to ask Kivel for completions."""
    from argcomplete.shell_integration import shellcode

    return str(shellcode(["kivel"], shell=shell))


def complete_line(parser: argparse.ArgumentParser) -> None:
    """Answer the shell that asks, and leave; files are offered wherever nothing else is meant."""
    import argcomplete

    argcomplete.autocomplete(parser, always_complete_options=False)


def completes(action: argparse.Action, one: Option[Any]) -> None:
    """Return what may follow an option."""
    if one.kind.words:
        action.completer = lambda **_: one.kind.words  # type: ignore[attr-defined]
    elif one.name in ("clip", "then"):
        action.completer = lambda parsed_args, **_: _names(parsed_args, "clips")  # type: ignore[attr-defined]
    elif one.name == "group":
        action.completer = lambda parsed_args, **_: _names(parsed_args, "groups")  # type: ignore[attr-defined]


def _names(args: argparse.Namespace, what: str) -> list[str]:
    """The clips or groups of the manifests that depend on the line, or that know the images which do."""
    from kivel.core.errors import KivelError
    from kivel.files.manifest.parsing import read_manifest
    from kivel.files.ownership import meant_manifest

    found: list[str] = []
    for value in vars(args).values():
        for text in value if isinstance(value, list) else [value]:
            if isinstance(text, str) and Path(text).is_file():
                try:
                    manifest = read_manifest(meant_manifest(Path(text)))
                except KivelError:
                    continue  # it is no manifest: there is nothing to offer
                found += [each.name for each in getattr(manifest, what)]
    return found
