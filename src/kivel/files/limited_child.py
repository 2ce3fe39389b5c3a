"""Renders templates and evaluates JSON Schemas in a process of its own, whose memory and time are limited.

Run by `files/limited_process.py`. Reads one JSON document: what it is to do, with what, and the jobs. Writes a line
when it is ready, then one of JSON for each job. Imports nothing of Kivel, so that it starts quickly and has nothing to
give away.
"""

from __future__ import annotations

import json
import signal
import sys
from collections.abc import Mapping, Sequence
from typing import Any

_MOST_TEXT = 16 << 20
_MOST_MESSAGE = 300


def main() -> None:
    """Limit this process, then do what is asked for."""
    given = json.load(sys.stdin)
    _limit(given["memory"], given["cpu_seconds"])
    _DOES[given["does"]](given)


def _render(given: Mapping[str, Any]) -> None:
    """Jobs are pairs: the number of a template, and its variables."""
    from jinja2 import StrictUndefined
    from jinja2.sandbox import ImmutableSandboxedEnvironment

    environment = ImmutableSandboxedEnvironment(
        undefined=StrictUndefined, trim_blocks=True, lstrip_blocks=True, keep_trailing_newline=True, cache_size=0
    )
    # no text of unlimited length by a name of its own
    del environment.globals["lipsum"]
    environment.finalize = _written
    environment.filters["decimals"] = _decimals
    environment.filters["json"] = environment.filters["tojson"] = _json
    environment.filters["default"] = environment.filters["d"] = _default
    environment.tests["none"] = lambda value: value is None or isinstance(value, _Missing)
    _say("ready")
    templates: dict[int, Any] = {}
    for number, variables in given["jobs"]:
        _begin_job(given["job_seconds"])
        variables = {name: _named(value, name) for name, value in variables.items()}
        _say(json.dumps(_rendered(environment, templates, given["templates"], number, variables)))


class _Missing:
    """Holds what has no value, such as the number of columns of an atlas: false, null as JSON, and never written."""

    def __init__(self, name: str) -> None:
        self.name = name

    def __bool__(self) -> bool:
        return False

    def __eq__(self, other: object) -> bool:
        return other is None or isinstance(other, _Missing)

    def __hash__(self) -> int:
        return hash(None)

    def _refuse(self, *_others: object) -> Any:
        from jinja2 import UndefinedError

        raise UndefinedError(f"{self.name} has no value; write it as {{{{ ... | json }}}}, or test it with is none")

    __str__ = __repr__ = __format__ = __lt__ = __le__ = __gt__ = __ge__ = __add__ = __radd__ = __sub__ = __rsub__ = (
        _refuse
    )
    __mul__ = __rmul__ = __truediv__ = __rtruediv__ = __int__ = __float__ = __round__ = __html__ = _refuse


def _written(value: Any) -> Any:
    """A value as it is written; `None` itself has none."""
    return _Missing("None") if value is None else value


def _named(value: Any, name: str, of: str = "") -> Any:
    """A value with what is missing in it named, of the clip or frame that it belongs to."""
    if value is None:
        return _Missing(f"{name}{of}")
    if isinstance(value, dict):
        owner = f" of {value['name']!r}" if isinstance(value.get("name"), str) else of
        return {key: _named(inner, f"{name}.{key}", owner) for key, inner in value.items()}
    if isinstance(value, list):
        return [_named(inner, name.removesuffix("s"), of) for inner in value]
    return value


def _default(value: Any, other: Any = "", boolean: bool = False) -> Any:
    """The value, or another where it is missing, undefined, or (by choice) false."""
    is_there = not isinstance(value, _Missing) and type(value).__name__ != "StrictUndefined"
    return value if is_there and (value or not boolean) else other


def _say(line: str) -> None:
    sys.stdout.write(f"{line}\n")
    sys.stdout.flush()


def _rendered(
    environment: Any, templates: dict[int, Any], texts: Sequence[str], number: int, variables: Mapping[str, Any]
) -> dict[str, Any]:
    from jinja2 import TemplateError

    try:
        if number not in templates:
            templates[number] = environment.from_string(texts[number])
        parts, length = [], 0
        for part in templates[number].generate(variables):
            length += len(part)
            if length > _MOST_TEXT:
                return {"error": f"it writes more than {_MOST_TEXT >> 20} million characters", "line": None}
            parts.append(part)
        return {"text": "".join(parts)}
    except MemoryError:
        return {"error": "it needs too much memory", "line": None}
    except TemplateError as error:
        return {"error": f"{error}", "line": _line(error)}
    except Exception as error:  # whatever an expression raises is the template's
        if "no loader" in str(error):
            return {
                "error": "a template cannot include, import or extend another",
                "line": _line(error),
            }
        return {"error": f"{type(error).__name__}: {error}"[:500], "line": _line(error)}


def _validate(given: Mapping[str, Any]) -> None:
    """Jobs are texts of JSON documents, for the schema that is given, a text too."""
    import jsonschema
    import referencing

    schema = json.loads(given["schema"])
    _say("ready")
    for text in given["jobs"]:
        _begin_job(given["job_seconds"])
        _say(json.dumps(_judged(jsonschema, referencing, schema, text)))


def _judged(jsonschema: Any, referencing: Any, schema: Any, text: str) -> dict[str, str]:
    """`schema` says what is wrong with the schema, `error` with the document, `at` where in it."""
    try:
        kind = jsonschema.validators.validator_for(schema, default=jsonschema.Draft202012Validator)
        kind.check_schema(schema)
        # nothing is fetched: the registry is empty
        kind(schema, registry=referencing.Registry()).validate(json.loads(text))
    except jsonschema.SchemaError as error:
        return {"schema": f"is not a JSON Schema: {error.message[:_MOST_MESSAGE]}"}
    except jsonschema.ValidationError as error:
        return {"error": error.message[:_MOST_MESSAGE], "at": error.json_path}
    except MemoryError:
        return {"schema": "needs too much memory"}
    except RecursionError:
        return {"schema": "refers to itself without end"}
    except referencing.exceptions.Unresolvable as error:
        return {"schema": f"refers to {error}, and nothing is fetched"}
    except Exception as error:  # whatever a schema that is none makes the library do
        return {"schema": f"cannot be used: {type(error).__name__}: {error}"[:_MOST_MESSAGE]}
    return {}


def _line(error: BaseException) -> int | None:
    """The line of the template, from 1: its syntax error's, or the last of it that the error passed through."""
    stated: int | None = getattr(error, "lineno", None)
    if stated:
        return stated
    found, trace = None, error.__traceback__
    while trace is not None:
        if trace.tb_frame.f_code.co_filename == "<template>":
            found = trace.tb_lineno
        trace = trace.tb_next
    return found


def _decimals(value: float, digits: int = 6) -> str:
    """A number with this many digits behind the point, never as 1e-05."""
    return f"{value:.{min(int(digits), 30)}f}"


def _json(value: Any) -> str:
    """A value as JSON: texts in quotes, true, false and null."""
    if type(value).__name__ == "StrictUndefined":
        str(value)  # raises, by the name of what is not there
    return json.dumps(value, ensure_ascii=False, default=_null)


def _null(value: Any) -> None:
    if not isinstance(value, _Missing):
        raise TypeError(f"{type(value).__name__} is no JSON value")


def _begin_job(seconds: float) -> None:
    """A job that computes for longer ends this process, by SIGPROF. One that merely waits for its turn does not."""
    if hasattr(signal, "setitimer"):
        signal.setitimer(signal.ITIMER_PROF, seconds)


def _limit(memory: int, cpu_seconds: int) -> None:
    try:
        import resource
    except ImportError:  # not on Windows: there the parent's clock is what ends it
        return
    limits = {"AS": memory, "CPU": cpu_seconds, "FSIZE": 0, "CORE": 0}
    for name, wanted in limits.items():
        kind = getattr(resource, f"RLIMIT_{name}")
        _, most = resource.getrlimit(kind)  # what is limited already stays so
        least = wanted if most == resource.RLIM_INFINITY else min(wanted, most)
        resource.setrlimit(kind, (least, least))


_DOES = {"render": _render, "validate": _validate}


if __name__ == "__main__":
    main()
