"""Which frame of now is which of before, and in which order they play."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from kivel.core.pixels.pixels import Size
from kivel.sequences.reconciling.frame_order import frame_order
from kivel.sequences.reconciling.same_frames import Seen, same_frames
from program import art

SIZE = Size(4, 4)


def seen(text: str) -> list[Seen]:
    """`a=1 b=2`: names and digests."""
    pairs = (part.partition("=") for part in text.split())
    return [Seen(name, SIZE, digest) for name, _, digest in pairs]


PAIRS: dict[str, tuple[str, str, tuple[int | None, ...]]] = {
    "nothing": ("m1=a m2=b", "m1=a m2=b", (0, 1)),
    "repainted": ("m1=a m2=b", "m1=x m2=b", (0, 1)),
    "renamed": ("m1=a m2=b", "m1=a z=b", (0, 1)),
    "removed": ("m1=a m2=b m3=c", "m1=a m3=c", (0, 2)),
    "put in": ("m1=a m2=b", "m1=a m1b=x m2=b", (0, None, 1)),
    "put in, and counted on": ("m1=a m2=b m3=c", "m1=a m2=x m3=b m4=c", (0, None, 1, 2)),
    "removed, and counted on": ("m1=a m2=b m3=c", "m1=a m2=c", (0, 2)),
    "removed, counted on, one more": ("m1=a m2=b m3=c", "m1=a m2=c m3=x", (0, 2, None)),
    "two changed places": ("m1=a m2=b", "m1=b m2=a", (0, 1)),
    "three went round": ("m1=a m2=b m3=c", "m1=b m2=c m3=a", (0, 1, 2)),
    "changed places, and one put in": ("m1=a m2=b", "m1=b m2=a m3=x", (0, 1, None)),
    "a copy": ("m1=a m2=b", "m1=a m2=b m3=a", (0, 1, None)),
    "equal ones, by their order": ("m1=a m2=a", "z1=a z2=a", (0, 1)),
    "renamed and repainted, after its name": ("m1=a m2=b", "m1=a m2-new=x", (0, 1)),
    "another number is another name": ("m1=a m2=b", "m1=a m21=x", (0, None)),
    "digests that nobody knows": ("m1 m2", "m2 m1", (1, 0)),
    "one name several times": ("m=a m=b m=c", "m=x m=y m=c", (0, 1, 2)),
}


@pytest.mark.parametrize(("old", "new", "was"), PAIRS.values(), ids=PAIRS)
def test_frames_are_found_under_other_names(old: str, new: str, was: tuple[int | None, ...]) -> None:
    assert same_frames(seen(old), seen(new)) == was


@pytest.mark.parametrize(("changed", "found"), [(3, 0), (4, None)], ids=["a fifth changed", "more than that"])
def test_a_frame_that_was_renamed_and_repainted_is_found_by_what_is_left_of_it(changed: int, found: int | None) -> None:
    before = art(1, width=4, height=4)
    before[..., 3] |= 1
    after = before.copy()
    after.reshape(-1, 4)[:changed] ^= 7
    old = [Seen("m1", SIZE, "a", pixels=lambda: before)]
    assert same_frames(old, [Seen("z", SIZE, "b", pixels=lambda: after)]) == (found,)
    other = np.zeros((5, 4, 4), np.uint8)
    assert same_frames(old, [Seen("z", SIZE, "b", pixels=lambda: other)]) == (None,)


@given(st.permutations(list(range(6))), st.lists(st.integers(0, 5), unique=True, max_size=4))
def test_no_old_frame_is_found_twice(names: list[int], repainted: list[int]) -> None:
    old = [Seen(f"m{number}", SIZE, str(number)) for number in range(6)]
    new = [Seen(f"m{n + 2}", SIZE, "x" if n in repainted else str(names[n])) for n in range(6)]
    found = [before for before in same_frames(old, new) if before is not None]
    assert len(set(found)) == len(found)


ORDERS: dict[str, tuple[str, str, tuple[int | None, ...], str]] = {
    "by number": ("m1 m2 m3", "m1 m2b m2 m3", (0, None, 1, 2), "m1 m2 m2b m3"),
    "a new number": ("m1 m2 m3", "m2 m3 m9", (1, 2, 0), "m2 m3 m9"),
    "another name": ("m1 m2 m3", "aaa m1 m3", (1, 0, 2), "m1 aaa m3"),
    "all by another name": ("w1 w2", "e1 e1b e2", (0, None, 1), "e1 e1b e2"),
    "regions stay": ("shovel can rake", "can rake shovel", (1, 2, 0), "shovel can rake"),
    "one beside regions": ("shovel can rake", "bin can rake shovel", (None, 1, 2, 0), "shovel bin can rake"),
    "a stranger": ("m1 m2", "blink m1 m2", (None, 0, 1), "blink m1 m2"),
}


@pytest.mark.parametrize(("before", "now", "was", "expected"), ORDERS.values(), ids=ORDERS)
def test_frames_play_by_their_numbers_and_stay_where_they_have_none(
    before: str, now: str, was: tuple[int | None, ...], expected: str
) -> None:
    names = now.split()
    assert [names[place] for place in frame_order(before.split(), names, was)] == expected.split()
