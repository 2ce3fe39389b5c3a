"""Documents are read within bounds, and brackets in texts and remarks are no nesting."""

from __future__ import annotations

import json

import pytest

from kivel.files.documents import DocumentError, json_of, read_toml

MANY = 100
FINE = {
    "remarks": "# see [\n" * MANY + "x = 1\n",
    "texts": "".join(f'k{number} = "[{{"\n' for number in range(MANY)),
    "a template": "x = '''\n" + "{{ it's [\n" * MANY + "'''\n",
    "lists side by side": "x = [" + "[1], " * MANY + "]\n",
}
DEEP = {
    "lists": ("x = 1\ny = " + "[" * MANY + "]" * MANY, "a.toml: line 2: nested too deeply"),
    "tables": ("x = " + "{a = " * MANY + "1" + "}" * MANY, "a.toml: line 1: nested too deeply"),
    "keys": (".".join("a" * MANY) + " = 1", "a.toml: nested too deeply; the limit is 64 levels"),
    "a NUL": ('x = "\\u0000"', "a.toml: holds a NUL character"),
    "digits": ("x = " + "9" * 5000, "a.toml: holds a number of thousands of digits"),
}


@pytest.mark.parametrize("name", FINE)
def test_what_stands_in_texts_and_remarks_nests_nothing(name: str) -> None:
    assert read_toml(FINE[name], "a.toml")


@pytest.mark.parametrize("name", DEEP)
def test_what_is_out_of_bounds_is_told_with_its_place(name: str) -> None:
    text, said = DEEP[name]
    with pytest.raises(DocumentError) as caught:
        read_toml(text, "a.toml")
    assert str(caught.value).startswith(said)


def test_brackets_in_texts_of_json_nest_nothing() -> None:
    content = ["[" * 9] * MANY
    assert json_of(json.dumps(content).encode()) == content
