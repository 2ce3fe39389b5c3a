"""Describes what a check has to say."""

from __future__ import annotations

from typing import Any, Literal

from kivel.core.named_tuples import NamedTuple

__all__ = ["SEVERITIES", "Finding", "Severity", "Spot"]

Severity = Literal["error", "warning", "note"]
SEVERITIES: tuple[Severity, ...] = ("error", "warning", "note")
"""The gravest first."""


class Spot(NamedTuple):
    """Where: as much of it as there is. `file` is as given; `pixel` counts from the top left of the page."""

    file: str | None = None
    map: str | None = None
    frame: str | None = None
    clip: str | None = None
    pixel: tuple[int, int] | None = None
    mip: int | None = None

    def __str__(self) -> str:
        parts = [
            self.file,
            self.map and f"map {self.map}",
            self.clip and f'clip "{self.clip}"',
            self.frame and f"frame {self.frame}",
            self.pixel and f"pixel {self.pixel[0]},{self.pixel[1]}",
            None if self.mip is None else f"mip {self.mip}",
        ]
        return ", ".join(part for part in parts if part)


class Finding(NamedTuple):
    """One thing: its code, how grave, where, the figure measured, in words what it is, and what to type or do."""

    code: str
    severity: Severity
    where: Spot
    figure: float | int | None
    text: str
    fix: str = ""

    def document(self) -> dict[str, Any]:
        where = {key: value for key, value in self.where._asdict().items() if value is not None}
        return self._asdict() | {"where": where}
