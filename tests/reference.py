"""The reference pages, made from the declarations of options and the table of steps.

python tests/reference.py     writes docs/reference/
"""

from __future__ import annotations

from pathlib import Path

from kivel.cli.command_help import option_words, trade_words_of
from kivel.cli.demo_options import ABOUT, DemoOptions
from kivel.cli.examples import EXAMPLES, NOTES
from kivel.core.prepare.parameters import REQUIRED, Parameter
from kivel.core.prepare.table import STEP_GROUPS, STEPS
from kivel.making.commands import ORDER_OF_WORK, command
from kivel.making.options.option import Option, Options

FOLDER = Path(__file__).parents[1] / "docs/reference"
_SHARED = """
## Output of every command

| option | meaning |
|---|---|
| `--json` | print the result as one JSON document |
| `--json-schema` | print the JSON Schema of that document, and nothing else |
| `-q`, `--quiet` | print errors only |
| `-v`, `--verbose` | show where in Kivel a bug is |
"""


def pages() -> dict[str, str]:
    """Every page by its file name."""
    groups = {**ORDER_OF_WORK, "whole projects": {**ORDER_OF_WORK["whole projects"], "demo": "run a short example"}}
    lines = ["# Reference", "", "Every command in the order of the work. Made from the program itself.", ""]
    found = {}
    for title, commands in groups.items():
        lines += [f"## {title.capitalize()}", ""]
        lines += [f"- [`kivel {name}`]({name}.md): {about}" for name, about in commands.items()]
        lines += [""]
        for name in commands:
            options, about = (DemoOptions, ABOUT) if name == "demo" else (command(name).options, command(name).about)
            found[f"{name}.md"] = _command_page(name, " ".join(about.split()), options)
    lines += ["## Steps of prep", "", "- [All steps](steps.md)", _SHARED]
    return {"index.md": "\n".join(lines), "steps.md": _steps_page(), **found}


def _command_page(name: str, about: str, options: type[Options]) -> str:
    declared = [one for one in options.declared().values() if not one.direct]
    lines = [f"# kivel {name}", "", about, "", "## Examples", ""]
    for one in EXAMPLES[name]:
        lines += ["```sh", one.line, "```", "", _sentence(one.result), ""]
    groups: dict[str, list[Option[object]]] = {}
    for each in declared:
        groups.setdefault("Sources" if each.positional else each.group.capitalize(), []).append(each)
    for title, members in groups.items():
        lines += [f"## {title}", "", "| option | meaning | default |", "|---|---|---|"]
        lines += [
            f"| `{_cell(option_words(each))}` | {_cell(_meaning(each))} | {_cell(each.shown)} |" for each in members
        ]
        lines += [""]
    if name in NOTES:
        lines += ["## Notes", "", NOTES[name], ""]
    return "\n".join(lines)


def _sentence(text: str) -> str:
    """Return a result as a sentence; the name of a file keeps its first letter."""
    first = text.split()[0].rstrip(",:")
    start = text if set(first) & set("./") else text[0].upper() + text[1:]
    return start if text.endswith("?") else f"{start}."


def _meaning(one: Option[object]) -> str:
    also = trade_words_of(one)
    return one.help + (f" (also: {', '.join(also)})" if also else "")


def _cell(text: str) -> str:
    return text.replace("|", "\\|").replace("*", "\\*").replace("<", "&lt;")


def _steps_page() -> str:
    lines = ["# Steps of prep", "", 'Written as `--step "NAME VALUE KEY=VALUE"`, in the order in which they run.', ""]
    for title, names in STEP_GROUPS.items():
        lines += [f"## {title.capitalize()}", ""]
        for name in names:
            kind = STEPS[name]
            lines += [f"### {name}", "", f"{kind.summary[0].upper()}{kind.summary[1:]}.", ""]
            if kind.parameters:
                lines += ["| value | meaning | default |", "|---|---|---|"]
                lines += [
                    f"| `{_cell(_written(one))}` | {_cell(one.help)} | {_default(one)} |" for one in kind.parameters
                ]
                lines += [""]
            lines += [f'Example: `--step "{kind.example}"`: {kind.shows}.', ""]
    return "\n".join(lines)


def _written(one: Parameter) -> str:
    if one.is_flag:
        return one.name
    return one.form if one.positional and one.form != "N" else f"{one.name}={one.form}"


def _default(one: Parameter) -> str:
    if one.default is REQUIRED:
        return "needed"
    return "" if one.default is None or one.is_flag or one.default == () else f"`{one.default}`"


if __name__ == "__main__":
    FOLDER.mkdir(exist_ok=True)
    for path in FOLDER.glob("*.md"):
        path.unlink()
    for name, text in pages().items():
        (FOLDER / name).write_text(text, encoding="utf-8")
