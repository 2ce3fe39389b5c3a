"""Describes what a check lets pass: codes that are ignored, with a reason and until when; findings that are known
already.
"""

from __future__ import annotations

import json
import re
from collections import Counter
from collections.abc import Iterable, Sequence
from datetime import date
from fnmatch import fnmatchcase
from pathlib import Path

from kivel.core.checks.codes import CODES
from kivel.core.checks.findings import SEVERITIES, Finding, Spot
from kivel.core.errors import KivelError, UsageError, option
from kivel.core.named_tuples import NamedTuple
from kivel.files.documents import DocumentError, read_json
from kivel.files.safety import shown

__all__ = ["Allowance", "Allowed", "known_findings", "let_pass", "parse_allowance"]

_ALLOWANCE = re.compile(
    r"(?P<code>[a-z*-]+)(?:=(?P<pattern>.*?))?(?:\s+until\s+(?P<until>\d{4}-\d\d-\d\d))?(?:\s+because\s+(?P<reason>.+))?"
)
_MOST_BYTES = 64 << 20


class Allowance(NamedTuple):
    """Findings of a code whose place matches a pattern are let pass, up to and with a day."""

    code: str
    pattern: str = "*"
    until: date | None = None
    reason: str = ""

    def covers(self, finding: Finding) -> bool:
        places = [str(finding.where), *(str(part) for part in finding.where if part is not None)]
        return fnmatchcase(finding.code, self.code) and any(fnmatchcase(place, self.pattern) for place in places)


class Allowed(NamedTuple):
    """Holds what is left of findings, and how many were let pass."""

    findings: list[Finding]
    passed: int


def parse_allowance(text: str) -> Allowance:
    """`cell-bleed`, `cut=moth*`, `fringe=*.png until 2027-01-31 because drawn so`.

    Raises
    ------
    UsageError
        If it is none, or there is no such code.
    """
    found = _ALLOWANCE.fullmatch(text.strip())
    if found is None:
        raise UsageError(f"expected CODE, CODE=PATTERN, then until 2027-01-31 or because REASON, found {text!r}")
    code = found["code"]
    if not any(fnmatchcase(known, code) for known in CODES):
        raise UsageError(f"unknown code {code!r}; kivel check {option('codes')} lists them")
    try:
        until = date.fromisoformat(found["until"]) if found["until"] else None
    except ValueError as error:
        raise UsageError(f"{found['until']} is not a date; write it like 2027-01-31") from error
    return Allowance(code, found["pattern"] or "*", until, found["reason"] or "")


def let_pass(findings: Iterable[Finding], allowances: Sequence[Allowance], known: Counter[str], today: date) -> Allowed:
    """Findings without those that are allowed or known; an allowance that has ended is noted, and allows nothing."""
    left, passed = [], 0
    ended: dict[Allowance, None] = {}
    known = Counter(known)
    for finding in findings:
        covering = [one for one in allowances if one.covers(finding)]
        ended |= dict.fromkeys(one for one in covering if one.until is not None and one.until < today)
        key = finding_key(finding)
        if known[key] > 0:
            known[key] -= 1
            passed += 1
        elif any(one.until is None or one.until >= today for one in covering):
            passed += 1
        else:
            left.append(finding)
    for one in ended:
        text = f"the allowance for {one.code}={one.pattern} ended on {one.until}"
        left.append(Finding(one.code, "note", Spot(), None, text, "extend it, or fix the problem"))
    order = list(CODES)
    left.sort(
        key=lambda one: (SEVERITIES.index(one.severity), str(one.where.file), order.index(one.code), str(one.where))
    )
    return Allowed(left, passed)


def finding_key(finding: Finding) -> str:
    """Return by which a finding is known again though its figure is another: its code and its place."""
    where = finding.where
    return json.dumps([finding.code, where.file, where.map, where.clip, where.frame])


def known_findings(path: Path) -> Counter[str]:
    """The findings of an earlier report, made by `kivel check --json`.

    Raises
    ------
    KivelError
        If the file is none.
    """
    try:
        content = read_json(path, most=_MOST_BYTES, halves=True)
        return Counter(
            json.dumps([one["code"], *(one["where"].get(key) for key in ("file", "map", "clip", "frame"))])
            for one in content["findings"]
        )
    except (DocumentError, KeyError, TypeError, AttributeError) as error:
        raise KivelError("is not a JSON report of kivel check", where=shown(path)) from error
