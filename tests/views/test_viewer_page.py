"""The viewer page as text: what it is made of stays small, and what it is given stays data."""

from __future__ import annotations

import re
from fractions import Fraction

import pytest

from kivel.core.playback.clip import Clip, Step
from kivel.views.viewer_page import ViewedFrame, ViewedPage, ViewedSource, viewer_html

CLIP = Clip("blink", Fraction(12), (Step(0, 3),))


def page(*names: str) -> str:
    pages = [ViewedPage((4, 4), {"color": (0, 1)})]
    frames = [ViewedFrame("owl", 0, (0, 0, 4, 4), 0, "", (4, 4), (0, 0), (0.5, 0.5))]
    sources = [ViewedSource(name, pages, frames, (CLIP,), ()) for name in names]
    return viewer_html(sources, [b"png"], view={}, contact=b"contact", timing=b"timing")


def test_the_page_itself_is_under_60_kb() -> None:
    own = re.sub(r'<script type="(?:application/json|text/plain)".*?</script>', "", page("owl"), flags=re.DOTALL)
    assert 20_000 < len(own.encode()) < 60_000


@pytest.mark.parametrize(
    ("names", "keys"),
    [
        (("owl",), ["blink"]),
        (("owl", "bat"), ["blink", "bat: blink"]),
        (("owl", "bat", "bat"), ["blink", "bat: blink", "bat 2: blink"]),
    ],
)
def test_each_clip_has_a_name_of_its_own(names: tuple[str, ...], keys: list[str]) -> None:
    text = page(*names)
    assert [text.count(f'"key":"{key}"') for key in keys] == [1] * len(keys)


def test_text_of_a_name_cannot_end_the_data() -> None:
    assert page("</script><b>").count("</script>") == page("owl").count("</script>")
