"""The JSON Schema (2020-12) of recipes, from the options that the commands declare."""

from __future__ import annotations

from typing import Any

from kivel.making.commands import command
from kivel.making.options.option import Option
from kivel.recipe.things import FRAME_COMMANDS, FROM, RECIPE_COMMANDS

__all__ = ["recipe_schema"]

_TEXTS = {"oneOf": [{"type": "string"}, {"type": "array", "items": {"type": "string"}}]}


def recipe_schema() -> dict[str, Any]:
    """As editors use it: every key with what it is for."""
    acts = {name: {"$ref": f"#/$defs/{name}"} for name in RECIPE_COMMANDS}
    several = {name: {"oneOf": [one, {"type": "array", "items": one}]} for name, one in acts.items()}
    steps = {
        "type": "object", "minProperties": 1, "maxProperties": 1, "additionalProperties": False,
        "properties": {name: acts[name] for name in (*FRAME_COMMANDS, "retime")},
    }  # fmt: skip
    thing = _table({"from": _TEXTS, "steps": {"type": "array", "items": steps}, **several})
    common: dict[str, Any] = {}
    for name in RECIPE_COMMANDS:
        for key, one in command(name).options.declared().items():
            common.setdefault(key, _value(one))
    return {
        "$schema": "https://json-schema.org/draft/2020-12/schema",
        "title": "A Kivel recipe, kivel.toml",
        **_table(
            {
                "include": _TEXTS,
                "allow": _TEXTS,
                "store": {"type": "string", "pattern": r"^\d+(\.\d+)? ?(kB|MB|GB)$"},
                "defaults": _table(common | {name: _either(common.get(name), one) for name, one in acts.items()}),
                "make": {"type": "object", "additionalProperties": thing},
            }
        ),
        "$defs": {name: _act(name) for name in RECIPE_COMMANDS},
    }


def _table(properties: dict[str, Any]) -> dict[str, Any]:
    return {"type": "object", "properties": properties, "additionalProperties": False}


def _either(one: Any, other: Any) -> dict[str, Any]:
    """A name can be both a command's and an option's."""
    return {"anyOf": [one, other]} if one else dict(other)


def _act(name: str) -> dict[str, Any]:
    declared = command(name).options.declared()
    table = _table({key: _value(one) for key, one in declared.items() if not one.direct})
    table["description"] = f"of {FROM.get(name, 'sources')}: {(command(name).about or '').strip()}"
    return {"anyOf": [table, *([_TEXTS] if name == "prep" else [])]}


def _value(one: Option[Any]) -> dict[str, Any]:
    """Options are texts; where numbers, flags and words are meant, these too."""
    if one.is_flag:
        return {"type": "boolean", "description": one.help}
    if one.kind.words:
        single: dict[str, Any] = {"enum": list(one.kind.words)}
    else:
        single = {"type": ["string", "number"]}
    if one.repeats:
        single = {"anyOf": [single, {"type": "array"}, {"type": "object"}]}
    return {**single, "description": one.help}
