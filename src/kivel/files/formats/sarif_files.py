"""Findings as SARIF 2.1.0 (OASIS, "Static Analysis Results Interchange Format"), for tools that gather such."""

from __future__ import annotations

import json
from collections.abc import Sequence
from typing import Any
from urllib.parse import quote

from kivel.core.checks.codes import CODES
from kivel.core.checks.findings import Finding

__all__ = ["sarif_text"]

_SCHEMA = "https://json.schemastore.org/sarif-2.1.0.json"


def sarif_text(findings: Sequence[Finding], version: str) -> str:
    """One run; its rules are the codes that were found, in the order of all codes."""
    used = [code for code in CODES if any(one.code == code for one in findings)]
    rules = [
        {
            "id": code,
            "shortDescription": {"text": CODES[code].about},
            "fullDescription": {"text": f"Measured: {CODES[code].measure}. Said: {CODES[code].threshold}."},
            "help": {"text": CODES[code].why},
        }
        for code in used
    ]
    driver = {"name": "Kivel", "version": version, "rules": rules}
    results = [_result(one, used.index(one.code)) for one in findings]
    document = {"$schema": _SCHEMA, "version": "2.1.0", "runs": [{"tool": {"driver": driver}, "results": results}]}
    return json.dumps(document, indent=2, ensure_ascii=False) + "\n"


def _result(finding: Finding, index: int) -> dict[str, Any]:
    where = finding.where
    result: dict[str, Any] = {
        "ruleId": finding.code,
        "ruleIndex": index,
        "level": finding.severity,
        "message": {"text": f"{finding.text}{f'; {finding.fix}' if finding.fix else ''}"},
        "properties": {"figure": finding.figure, "where": str(where)},
    }
    if where.file:
        logical = [
            {"name": str(name), "kind": kind}
            for kind, name in (("map", where.map), ("clip", where.clip), ("frame", where.frame))
            if name
        ]
        location: dict[str, Any] = {"physicalLocation": {"artifactLocation": {"uri": quote(where.file, safe="/:")}}}
        result["locations"] = [location | ({"logicalLocations": logical} if logical else {})]
    return result
