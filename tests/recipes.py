"""Recipes to build, and what they are made of."""

from __future__ import annotations

import json
from collections.abc import Mapping
from pathlib import Path
from typing import Any

from program import art, files, write

OWN = (".kivel", "kivel.toml")


def draw_moth_and_owl(folder: Path) -> None:
    for number in range(6):
        write(folder / f"moth/moth_{number}.png", art(number))
        write(folder / f"owl/owl_{number}.png", art(10 + number))


def toml(value: Any) -> str:
    """A value on one line."""
    if isinstance(value, Mapping):
        return "{ " + ", ".join(f"{json.dumps(key)} = {toml(one)}" for key, one in value.items()) + " }"
    if isinstance(value, (list, tuple)):
        return "[" + ", ".join(map(toml, value)) + "]"
    return json.dumps(value, ensure_ascii=False)


def recipe(things: Mapping[str, Mapping[str, Any]], **top: Any) -> None:
    lines = [f"{key} = {toml(value)}" for key, value in top.items()]
    for name, thing in things.items():
        lines += [f"[make.{json.dumps(name)}]", *(f"{key} = {toml(value)}" for key, value in thing.items())]
    Path("kivel.toml").write_text("\n".join(lines) + "\n", encoding="utf-8")


def made_files(folder: Path = Path()) -> dict[str, Any]:
    return {name: data for name, data in files(folder).items() if not name.startswith(OWN)}


def chain() -> dict[str, dict[str, Any]]:
    return {
        "moth": {
            "from": "moth", "steps": [{"prep": "trim"}, {"resample": {"count": 4}}],
            "sheet": {"out": "out/moth.png", "hold": 2}, "export": {"out": "out/moth.json"},
        },
        "both": {"from": ["@moth", "owl"], "atlas": {"out": "out/both.png", "effort": "quick"}},
    }  # fmt: skip
