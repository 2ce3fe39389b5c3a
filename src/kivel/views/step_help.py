"""Describes what steps there are, and how each is written."""

from __future__ import annotations

from kivel.core.errors import UsageError
from kivel.core.prepare.parameters import REQUIRED, Parameter
from kivel.core.prepare.step_kind import StepKind
from kivel.core.prepare.table import STEP_GROUPS, STEPS
from kivel.core.suggestions import did_you_mean

__all__ = ["step_list", "step_page"]


def step_list() -> str:
    """A line for each step, by group."""
    width = max(map(len, STEPS))
    lines = ['Steps of prep, written as --step "NAME VALUE KEY=VALUE":']
    for title, names in STEP_GROUPS.items():
        lines += ["", f"{title}:", *(f"  {name:{width}}  {STEPS[name].summary}" for name in names)]
    return "\n".join((*lines, "", "kivel prep --steps NAME explains one"))


def step_page(name: str) -> str:
    """One step with its values and an example.

    Raises
    ------
    UsageError
        If there is no such step.
    """
    if name not in STEPS:
        raise UsageError(
            f"no step of prep is called {name!r}{did_you_mean(name, STEPS, kind='step', otherwise='see --steps')}"
        )
    kind = STEPS[name]
    lines = [f"{name}: {kind.summary}", "", f"  {_form(kind)}", ""]
    width = max((len(_shown(p)) for p in kind.parameters), default=0)
    lines += [f"  {_shown(p):{width}}  {p.help}{_default(p)}" for p in kind.parameters]
    if kind.parameters:
        lines.append("")
    if kind.colour_only:
        lines += ["  For colour only; data maps (--as normal, --as mask) are left alone.", ""]
    lines += ["example:", f'  --step "{kind.example}"', f"      {kind.shows}"]
    return "\n".join(lines)


def _form(kind: StepKind) -> str:
    return " ".join((kind.name, *(_written(parameter) for parameter in kind.parameters)))


def _written(parameter: Parameter) -> str:
    text = _shown(parameter) + (" ..." if parameter.many else "")
    return text if parameter.default is REQUIRED else f"[{text}]"


def _shown(parameter: Parameter) -> str:
    if parameter.is_flag:
        return parameter.name
    return (
        parameter.form
        if parameter.positional and parameter.form != "N"
        else (parameter.name.upper() if parameter.positional else f"{parameter.name}={parameter.form}")
    )


def _default(parameter: Parameter) -> str:
    value = parameter.default
    if value is REQUIRED or (value in (None, False, ()) and value != 0) or parameter.is_flag:
        return ""
    text = ",".join(f"{part:g}" for part in value) if isinstance(value, tuple) else value
    return f" (default: {text:g})" if isinstance(text, float) else f" (default: {text})"
