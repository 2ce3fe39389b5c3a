"""Find what would go wrong in the engine: bleeding cells, dark fringes, maps out of step, frames that never show,
stale files.
"""

from __future__ import annotations

from fractions import Fraction
from pathlib import Path
from typing import TYPE_CHECKING, Any, ClassVar, Literal

from kivel.core.checks.codes import CODES
from kivel.core.errors import UsageError, option
from kivel.making.options.groups.common_options import CommonOptions
from kivel.making.options.groups.output_options import WritingOptions
from kivel.making.options.groups.source_options import ChoosingOptions, ReadingOptions
from kivel.making.options.option import Option
from kivel.making.options.value_kinds import ANY_TEXT, FLAG, PATH, RATE, ValueKind, choice, moved_path, whole

if TYPE_CHECKING:
    from kivel.making.checking.check_settings import CheckSettings

__all__ = ["CheckOptions"]

_LEVELS = 4


def _allowance_text(value: Any) -> str:
    """{"code", "pattern", "until", "reason"} as it is written."""
    unknown = set(value) - {"code", "pattern", "until", "reason"}
    if unknown or "code" not in value:
        raise ValueError
    parts = [f"{value['code']}={value['pattern']}" if "pattern" in value else str(value["code"])]
    parts += [f"until {value['until']}"] if "until" in value else []
    parts += [f"because {value['reason']}"] if "reason" in value else []
    return " ".join(parts)


_ALLOWANCE: ValueKind[str] = ValueKind("CODE[=PATTERN]", str, text=_allowance_text, python="str | Mapping[str, str]")


class CheckOptions(ReadingOptions, ChoosingOptions, WritingOptions, CommonOptions):
    """Holds what is checked, and what is let pass."""

    title = "what for"
    everyday: ClassVar = (
        "only", "ignore", "strict", "baseline", "codes", "plays", "tolerance", "difference", "clip", "profile", "on",
        "format", "clock",
    )  # fmt: skip
    sources: Option[tuple[str, ...]] = Option(
        PATH,
        "a manifest, a folder or files of frames; with a profile, the folder of a pack",
        default=(),
        form="SRC",
        many=True,
        positional=True,
        from_folder=moved_path,
    )
    only: Option[tuple[str, ...]] = Option(
        ANY_TEXT,
        "report only these codes: one, a pattern, or several with commas (many)",
        default=(),
        many=True,
        form="CODE",
    )
    ignore: Option[tuple[str, ...]] = Option(
        _ALLOWANCE,
        'ignore findings by code: fringe, cut=moth*; may end with "until 2027-01-31" or "because REASON" (many)',
        default=(),
        many=True,
    )
    strict: Option[bool] = Option(FLAG, "fail instead of warning", default=False)
    baseline: Option[str | None] = Option(
        PATH, "ignore findings that this earlier JSON report already has", default=None, from_folder=moved_path
    )
    codes: Option[str | None] = Option(
        ANY_TEXT, "list all finding codes, or explain one: what is measured, the limit, and why", default=None,
        form="NAME", bare="all",
    )  # fmt: skip
    format: Option[Literal["text", "sarif"]] = Option(
        choice("text", "sarif"), "output format; sarif is SARIF 2.1.0 for other tools", default="text"
    )
    mips: Option[int] = Option(
        whole(0, 12), "last mip level at which bleeding is measured", default=_LEVELS - 1, shown=str(_LEVELS - 1)
    )
    budget: Option[int | None] = Option(
        whole(1), "uncompressed megabytes allowed for each page", default=None, form="MB", shown="none"
    )
    sides: Option[bool] = Option(FLAG, "frames are tiles: check whether their sides meet", default=False)
    clock: Option[Fraction | None] = Option(
        RATE, "the target's clock, R ticks a second; reports holds that are not whole ticks", default=None
    )
    plays: Option[str | None] = Option(
        PATH, "proof: compare a manifest with its source, pixel by pixel and time by time", default=None,
        form="SRC", from_folder=moved_path,
    )  # fmt: skip
    tolerance: Option[int] = Option(whole(0, 255), "proof: largest difference allowed, of 255", default=0, shown="0")
    frames_only: Option[bool] = Option(FLAG, "proof: compare frames by number, ignoring order and times", default=False)
    difference: Option[str | None] = Option(
        PATH, "proof: draw a picture of the first difference", default=None, form="OUT.png", from_folder=moved_path
    )
    profile: Option[str | None] = Option(
        PATH,
        "profile (NAME.toml) of the engine or pack; SRC is the folder of the pack",
        default=None,
        from_folder=moved_path,
    )
    on: Option[tuple[str, ...]] = Option(
        PATH, "manifests of the sheets that the profile is for (many)", default=(), form="MANIFEST", many=True,
        from_folder=moved_path,
    )  # fmt: skip

    def check(self) -> None:
        if self.codes is not None:
            if self.codes != "all" and self.codes not in CODES:
                raise UsageError(f"unknown code {self.codes!r}; {option('codes', True)} lists them")
            return
        super().check()
        if not self.sources:
            raise UsageError("SRC is needed: a manifest, a folder of frames, or a pack")
        if self.difference and not self.plays:
            raise UsageError(f"{option('difference')} needs {option('plays')}")
        if self.frames_only and not self.plays:
            raise UsageError(f"{option('frames-only', True)} needs {option('plays')}")
        if self.on and not self.profile:
            raise UsageError(f"{option('on')} needs {option('profile')}")

    def settings(self) -> CheckSettings:
        """Return what is looked for and what is let pass.

        Raises
        ------
        KivelError
            If an allowance or a code is none, or the baseline no report.
        """
        from kivel.making.checking.allowances import known_findings, parse_allowance
        from kivel.making.checking.check_settings import CheckSettings

        return CheckSettings(
            only=frozenset(code for text in self.only for pattern in text.split(",") for code in _matching(pattern)),
            allowances=tuple(parse_allowance(text) for text in self.ignore),
            known=known_findings(Path(self.baseline)) if self.baseline else None,
            strict=self.strict,
            levels=self.mips + 1,
            budget=None if self.budget is None else self.budget * 1_000_000,
            clock=self.clock,
            sides=self.sides,
        )


def _matching(pattern: str) -> list[str]:
    from fnmatch import fnmatchcase

    codes = [code for code in CODES if fnmatchcase(code, pattern)]
    if not codes:
        raise UsageError(f"{option('only', pattern)}: unknown code; {option('codes', True)} lists them")
    return codes
