"""Prints the result of `kivel check`."""

from __future__ import annotations

from collections import Counter
from typing import TYPE_CHECKING

from kivel import __version__
from kivel.cli.report import Report, files_as_json
from kivel.core.checks.codes import CODES, explained
from kivel.core.errors import spelled
from kivel.core.wording import counted
from kivel.files.formats.sarif_files import sarif_text

if TYPE_CHECKING:
    from kivel.core.checks.findings import Finding
    from kivel.making.checking.check import CheckMade
    from kivel.making.options.check_options import CheckOptions

__all__ = ["show"]


def show(made: CheckMade, options: CheckOptions, report: Report) -> int:
    if options.codes is not None:
        _show_codes(options.codes, report)
        return 0
    report.document(
        {
            "findings": [one.document() for one in made.findings],
            "passed": made.passed,
            "files": files_as_json(made.files),
            "notes": list(made.notes),
        }
    )
    if options.format == "sarif" and not report.as_json:
        for line in sarif_text(made.findings, __version__).splitlines():
            report.line(line)
    else:
        for finding in made.findings:
            _show(finding, report)
        report.line(_summary(made))
        report.written(made.files, {}, dry_run=options.dry_run)
    return 1 if made.fails(strict=options.strict) else 0


def _show(finding: Finding, report: Report) -> None:
    where = str(finding.where)
    report.line(f"{finding.severity:8} {finding.code:16} {where}")
    report.line(f"         {finding.text}")
    if finding.fix:
        report.line(f"         -> {finding.fix}")


def _summary(made: CheckMade) -> str:
    count = Counter(one.severity for one in made.findings)
    parts = [counted(count[word], word) for word in ("error", "warning", "note") if count[word]]
    passed = f"; {made.passed} let pass" if made.passed else ""
    return f"{', '.join(parts) or 'no findings'}{passed}"


def _show_codes(name: str, report: Report) -> None:
    if name == "all":
        width = max(map(len, CODES))
        for code, one in CODES.items():
            report.line(f"{code:{width}}  {one.about}")
    else:
        for line in explained(name).splitlines():
            report.line(spelled(line))
    chosen = CODES if name == "all" else {name: CODES[name]}
    report.document(
        {
            "codes": [
                {
                    "code": code,
                    **{key: value if key == "asked" else spelled(value) for key, value in one._asdict().items()},
                }
                for code, one in chosen.items()
            ]
        }
    )
