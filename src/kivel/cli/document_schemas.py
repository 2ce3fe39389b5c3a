"""The JSON Schema (2020-12) of what each command prints under --json.

What is `required` here is always there, and of its type. Documents may get more keys without another version.
"""

from __future__ import annotations

from typing import Any

__all__ = ["DOCUMENTS", "document_schema"]

Schema = dict[str, Any]

_TEXT, _WHOLE, _NUMBER, _YES = ({"type": kind} for kind in ("string", "integer", "number", "boolean"))
_ANY: Schema = {}
_OBJECT = {"type": "object"}


def _maybe(schema: Schema) -> Schema:
    return {"anyOf": [schema, {"type": "null"}]}


def _list(of: Schema) -> Schema:
    return {"type": "array", "items": of}


def _table(needed: dict[str, Schema], **more: Schema) -> Schema:
    """An object with these keys; `more` are not always there."""
    return {"type": "object", "properties": {**needed, **more}, "required": list(needed)}


_SIZE = {"type": "array", "items": _WHOLE, "minItems": 2, "maxItems": 2}
_FILES = _list(
    _table({"path": _TEXT, "outcome": {"enum": ["new", "replaced", "unchanged", "removed"]}, "bytes": _WHOLE})
)
_NOTES = _list(_TEXT)
_EDITS = _list(
    _table(
        {"kind": {"enum": ["added", "removed", "renamed", "repainted", "resized", "moved"]}, "frame": _TEXT},
        was=_TEXT, clips=_list(_TEXT), after=_TEXT, hold=_SIZE,
    )
)  # fmt: skip
"""Says what was done to the frames since a manifest said something of them; a hold is a fraction of seconds."""
_SEAM = _table({"verdict": _TEXT, "change": _NUMBER, "confidence": _NUMBER, "value": _NUMBER, "limit": _NUMBER})
_FRAMES: dict[str, Schema] = {
    "files": _FILES, "frames": _WHOLE, "sizes": _list(_SIZE), "clips": _list(_TEXT), "notes": _NOTES,
}  # fmt: skip
"""For commands that write frames into a folder."""
_ROW = {"clips": _list(_TEXT), "files": _FILES, "frames": _WHOLE, "source": _TEXT}
_FINDING = _table(
    {"code": _TEXT, "severity": {"enum": ["error", "warning", "note"]}, "where": _OBJECT, "text": _TEXT}, figure=_ANY
)
_TASK = _table(
    {
        "name": _TEXT, "command": _TEXT, "state": _TEXT, "reasons": _list(_TEXT), "files": _list(_TEXT),
        "changed": _list(_TEXT),
    },
    error=_TEXT,
)  # fmt: skip

DOCUMENTS: dict[str, Schema] = {
    "inspect": _table(
        {"notes": _NOTES},
        name=_TEXT, count=_WHOLE, first=_maybe(_WHOLE), last=_maybe(_WHOLE), sizes=_list(_OBJECT), alpha=_TEXT,
        depth=_WHOLE, clips=_list(_OBJECT), groups=_list(_OBJECT), pages=_list(_OBJECT), frames=_list(_OBJECT),
        series=_list(_OBJECT), found=_list(_OBJECT), file_bytes=_WHOLE, texture_bytes=_WHOLE,
    ),
    "prep": _table({**_FRAMES, "steps": _list(_ANY), "measured": _list(_ANY)}),
    "loop": _table(
        {"frames": _WHOLE, "notes": _NOTES}, clip=_TEXT, seam=_SEAM, windows=_list(_OBJECT), closed=_SEAM,
        loops=_list(_OBJECT), files=_FILES
    ),
    "layer": _table({**_FRAMES, "layers": _list(_OBJECT)}),
    "scroll": _table({**_FRAMES, "closes": _YES, "seam": _ANY}),
    "channels": _table({**_FRAMES, "kind": _TEXT}),
    "resample": _table({**_FRAMES, "of": _WHOLE, "taken": _list(_ANY)}),
    "plan": _table({"name": _TEXT, "frames": _WHOLE, "layouts": _list(_OBJECT), "commands": _list(_TEXT),
                    "file_bytes": _OBJECT, "notes": _NOTES}, size=_SIZE, page=_maybe(_OBJECT)),
    "sheet": _table({"files": _FILES, "notes": _NOTES}, frames=_WHOLE, size=_SIZE, pages=_WHOLE, columns=_WHOLE,
                    rows=_WHOLE, cell=_SIZE, empty=_WHOLE, clips=_list(_TEXT)),
    "atlas": _table({"files": _FILES, "frames": _WHOLE, "pages": _list(_ANY), "notes": _NOTES}, clips=_list(_TEXT)),
    "slice": _table({"notes": _NOTES}, **_ROW, sheets=_list(_table(_ROW))),
    "adopt": _table({"notes": _NOTES}, **_ROW, sheets=_list(_table(_ROW))),
    "again": _table({"files": _FILES, "notes": _NOTES}),
    "retime": _table({"files": _FILES, "changes": _ANY, "notes": _NOTES}, groups=_ANY),
    "timeline": _table({"rows": _list(_OBJECT), "notes": _NOTES}),
    "export": _table({}, files=_FILES, removed=_list(_TEXT), notes=_NOTES, targets=_list(_OBJECT)),
    "profile": _table({}, files=_FILES, notes=_NOTES, about=_ANY, outputs=_ANY, variables=_ANY),
    "check": _table({}, findings=_list(_FINDING), passed=_WHOLE, files=_FILES, notes=_NOTES, codes=_ANY),
    "preview": _table({}, files=_FILES, frames=_ANY, clip=_maybe(_TEXT), notes=_NOTES, address=_TEXT),
    "play": _table({}),
    "build": _table({"tasks": _list(_TASK), "leftover": _list(_TEXT), "removed": _list(_TEXT), "notes": _NOTES,
                     "files": _FILES}),
    "demo": _table({"files": _FILES, "commands": _list(_ANY)}),
}  # fmt: skip
"""By command, without what all have: `format` and `version`."""

_ERROR = _table(
    {
        "format": {"const": "kivel-error"},
        "version": {"const": 1},
        "error": _table(
            {
                "code": _TEXT, "message": _TEXT, "file": _maybe(_TEXT), "line": _maybe(_WHOLE), "key": _maybe(_TEXT),
                "hint": _maybe(_TEXT),
            },
        ),
    }
)  # fmt: skip


def document_schema(command: str) -> Schema:
    """Return the schema of a command's document, and of that of an error in its place."""
    own = DOCUMENTS[command]
    head = {"format": {"const": f"kivel-{command}"}, "version": {"const": 1}}
    whole = own | {"properties": head | own["properties"] | {"edits": _EDITS}, "required": [*head, *own["required"]]}
    return {
        "$schema": "https://json-schema.org/draft/2020-12/schema",
        "title": f"The document that kivel {command} --json prints",
        "oneOf": [whole, _ERROR],
    }
