"""The JSON Schema of manifests, which comes from their model."""

from __future__ import annotations

from kivel.files.manifest.model import Manifest
from kivel.files.manifest.names import FORMAT, VERSION
from kivel.files.manifest.text import MANIFEST_KEYS, laid_out
from kivel.files.model_schemas import Schema, fields_schema

__all__ = ["schema_text"]

_DIGEST = {
    "$ref": "#/$defs/digest",
    "description": "Digest of everything else; shows whether the file was edited by hand.",
}


def schema_text() -> str:
    """Return the JSON Schema (2020-12) of a manifest, as text."""
    definitions: dict[str, Schema] = {}
    own = fields_schema(Manifest, definitions)
    known = {key: own["properties"][key] for key in MANIFEST_KEYS}
    return laid_out(
        {
            "$schema": "https://json-schema.org/draft/2020-12/schema",
            "title": f"Kivel manifest, version {VERSION}",
            "description": "Everything known about a sheet or an atlas. "
            "Unknown keys are allowed and are kept on rewriting.",
            "type": "object",
            "required": ["format", "version", *own["required"]],
            "properties": {"format": {"const": FORMAT}, "version": {"const": VERSION}, **known, "digest": _DIGEST},
            "$defs": definitions,
        }
    )
