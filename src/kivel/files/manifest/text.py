"""A manifest as text: keys in a fixed order, two-space indent, short arrays on one line, the same bytes everywhere."""

from __future__ import annotations

import json
from dataclasses import fields, is_dataclass
from fractions import Fraction
from functools import cache
from typing import Any

import xxhash

from kivel.core.errors import option
from kivel.core.numbers import LONGEST
from kivel.core.playback.clip import Clip
from kivel.core.playback.groups import Group
from kivel.files.manifest.model import FramePlace, Manifest
from kivel.files.manifest.names import FORMAT, VERSION, ManifestError

__all__ = ["MANIFEST_KEYS", "is_as_made", "laid_out", "manifest_text", "plain_value", "self_digest"]


_LINE = 160
_FILE_KEYS = ("format", "version", "digest")
_SAFE = 10**9
_ENCODER = json.JSONEncoder(ensure_ascii=False)
MANIFEST_KEYS = ("made", "pages", "grid", "sliced_from", "frames", "clips", "groups", "faded", "removed")


def manifest_text(manifest: Manifest, *, edited: bool = False) -> str:
    """The whole file. Its last key is the digest of all before it, which tells a file edited by hand.

    One that was `edited` before it was changed has none: it is still not what Kivel alone made.

    Raises
    ------
    ManifestError
        If there is a number in it that no reader need understand.
    """
    content: dict[str, Any] = {"format": FORMAT, "version": VERSION}
    content |= {key: plain_value(getattr(manifest, key)) for key in MANIFEST_KEYS if getattr(manifest, key) is not None}
    content |= manifest.extra
    return laid_out(content if edited else content | {"digest": self_digest(content)})


def laid_out(content: dict[str, Any]) -> str:
    """Return a document as JSON with what fits on a line on one; the document and lists of objects are broken up."""
    return _lines(content, "") + "\n"


def self_digest(content: dict[str, Any]) -> str:
    """The digest of a manifest's content, its key `digest` left out."""
    rest = {key: value for key, value in content.items() if key != "digest"}
    canonical = json.dumps(rest, ensure_ascii=False, separators=(",", ":"))
    return f"xxh3-128:{xxhash.xxh3_128_hexdigest(canonical.encode())}"


def is_as_made(data: bytes) -> bool:
    """Whether a manifest's bytes hold what a command made and nothing else: nothing set since, edited, or unknown.

    Told without its models, which are slow to load; False where that is not sure.
    """
    if b'"set"' in data or b'"removed"' in data:
        return False
    try:
        content = json.loads(data)
        as_written = content["digest"] == self_digest(content)
        parts = [*content["frames"], *content["clips"], *content["groups"]]
        known = {*_names(FramePlace), *_names(Clip), *_names(Group)}
        return (
            as_written
            and all(known.issuperset(part) for part in parts)
            and {*MANIFEST_KEYS, *_FILE_KEYS}.issuperset(content)
        )
    except (ValueError, TypeError, KeyError, RecursionError):
        return False


def plain_value(value: Any) -> Any:
    """Dataclasses become objects with their unknown keys behind the known ones, tuples arrays, rationals pairs.

    What is None is left out; a clip that plays forever says so, by a repeat of null.
    """
    kind = type(value)
    if kind is str or kind is float or (kind is int and -_SAFE < value < _SAFE):
        return value  # most are
    if isinstance(value, (tuple, list)):
        return [plain_value(item) for item in value]
    if is_dataclass(kind):
        known = {}
        for name in _names(kind):
            if (item := getattr(value, name)) is not None:
                known[name] = plain_value(item)
        if kind is Clip and value.repeat == "forever":
            known["repeat"] = None
        return known | getattr(value, "extra", {})
    if isinstance(value, dict):
        return {key: plain_value(item) for key, item in value.items()}
    if isinstance(value, Fraction):
        return [plain_value(value.numerator), plain_value(value.denominator)]
    if isinstance(value, int) and abs(value) >= 10**LONGEST:
        raise ManifestError(
            f"a manifest holds no number of more than {LONGEST} digits, as {value:.3e} is; use shorter times, or a "
            f"coarser clock, like {option('timebase', 1000)}"
        )
    return value


@cache
def _names(model: type) -> tuple[str, ...]:
    return tuple(f.name for f in fields(model) if f.name != "extra")


def _lines(value: Any, indent: str) -> str:
    if isinstance(value, list) and value and isinstance(value[0], dict):
        return _broken([_lines(item, indent + "  ") for item in value], "[]", indent)
    if indent or not isinstance(value, dict):
        line = _on_one_line(value)
        if not isinstance(value, (dict, list)) or not value or len(indent) + len(line) <= _LINE:
            return line
    if isinstance(value, list):
        return _broken(_filled_rows(value, indent + "  "), "[]", indent)
    return _broken(
        [f"{_ENCODER.encode(key)}: {_lines(item, indent + '  ')}" for key, item in value.items()],
        "{}",
        indent,
    )


def _on_one_line(value: Any) -> str:
    kind = type(value)
    if kind is int:
        return str(value)
    if kind is list and all(type(item) is int for item in value):
        return str(value)  # Python writes whole numbers like JSON does, ten times as fast as the library starts
    return _ENCODER.encode(value)


def _broken(items: list[str], brackets: str, indent: str) -> str:
    inner = f",\n{indent}  ".join(items)
    return f"{brackets[0]}\n{indent}  {inner}\n{indent}{brackets[1]}"


def _filled_rows(values: list[Any], indent: str) -> list[str]:
    """Numbers, texts and small arrays, as many to a line as fit."""
    rows: list[str] = []
    for text in (_lines(value, indent) for value in values):
        if rows and len(indent) + len(rows[-1]) + len(text) + 2 <= _LINE:
            rows[-1] += f", {text}"
        else:
            rows.append(text)
    return rows
