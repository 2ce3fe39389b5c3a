"""The JSON Schema (2020-12) of a model, from its types and what they hold."""

from __future__ import annotations

from dataclasses import MISSING, fields
from fractions import Fraction
from typing import Any, Literal

from kivel.core.fields import Holds
from kivel.files.models import FieldType, field_types

__all__ = ["Schema", "fields_schema"]

Schema = dict[str, Any]
_TYPES = {int: "integer", float: "number", str: "string", bool: "boolean"}
_BOUNDS = {"least": "minimum", "above": "exclusiveMinimum", "most": "maximum", "pattern": "pattern"}


def fields_schema(model: type, definitions: dict[str, Schema]) -> Schema:
    """Return the schema of a record; what its types name is put into `definitions`."""
    types = field_types(model)
    absent = {field.name for field in fields(model) if field.default is None}
    # what may be absent is not stated as null
    found = {
        name: _described(kind._replace(nullable=kind.nullable and name not in absent), definitions)
        for name, kind in types.items()
    }
    required = []
    for field in (one for one in fields(model) if one.name in found):
        if field.default is MISSING and field.default_factory is MISSING:
            required.append(field.name)
        elif field.default not in (None, ()):
            found[field.name]["default"] = _plain(field.default)
    return {"type": "object", "required": required, "properties": found}


def _described(kind: FieldType, definitions: dict[str, Schema]) -> Schema:
    """Return what a type is, or where it is defined, with the text about it in this place."""
    named = next((number for number, one in enumerate(kind.holds) if one.name), None)
    if named is None:
        return _about(kind.holds) | _schema(kind, definitions)
    inner, outer = kind.holds[: named + 1], kind.holds[named + 1 :]
    name = kind.holds[named].name
    if name not in definitions:
        definitions[name] = {}  # its place, before what it is made of
        definitions[name] |= _about(inner) | _schema(kind._replace(holds=inner, nullable=False), definitions)
    return {"$ref": f"#/$defs/{name}"} | _about(outer)


def _about(holds: tuple[Holds, ...]) -> Schema:
    texts = [one.about for one in holds if one.about]
    return {"description": texts[-1]} if texts else {}


def _schema(kind: FieldType, definitions: dict[str, Schema]) -> Schema:
    if kind.is_model:
        return fields_schema(kind.kind, definitions)
    if kind.kind is Literal:
        words = list(kind.arguments)
        return {"const": words[0]} if len(words) == 1 else {"enum": words}
    if kind.kind is dict:
        return _table(kind, definitions)
    if kind.items:
        return _items(kind, definitions)
    if kind.each:
        fewest = {"minItems": kind.stated("fewest")} if kind.stated("fewest") else {}
        return {"type": "array", "items": _described(kind.each, definitions), **fewest}
    named = _TYPES[kind.kind]
    bounds = {word: value for name, word in _BOUNDS.items() if (value := kind.stated(name)) not in (None, "")}
    return {"type": [named, "null"] if kind.nullable else named, **bounds}


def _table(kind: FieldType, definitions: dict[str, Schema]) -> Schema:
    keys = {"required": list(kind.stated("keys"))} if kind.stated("keys") else {}
    values = {"additionalProperties": _described(kind.each, definitions)} if kind.each else {}
    return {"type": "object", **keys, **values}


def _items(kind: FieldType, definitions: dict[str, Schema]) -> Schema:
    items = [_described(one, definitions) for one in kind.items]
    each = {"items": items[0]} if all(one == items[0] for one in items) else {"prefixItems": items}
    return {"type": "array", **each, "minItems": len(items), "maxItems": len(items)}


def _plain(default: Any) -> Any:
    if isinstance(default, Fraction):
        return [default.numerator, default.denominator]
    if isinstance(default, tuple):
        return list(default)
    return None if default == "forever" else default
