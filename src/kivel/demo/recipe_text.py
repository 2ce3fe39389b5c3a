"""The demo's recipe, and the changes after which it is built again."""

from __future__ import annotations

from kivel.core.named_tuples import NamedTuple
from kivel.demo.art import Image
from kivel.demo.drawn import firefly

__all__ = ["RECIPE_TEXT", "Edited", "edited"]

RECIPE_TEXT = """\
# What is made of the orchard's frames: kivel build makes it, and after a change what the change reaches.
[defaults]
page-limit = "2048x2048"

[make.firefly]
from   = "firefly/"
sheet  = { out = "built/firefly.png", layout = "row", hold = "120ms" }
retime = { direction = "alternate" }
export = { to = "css", out = "built/firefly.css" }

[make.spark]
from  = "spore/"
steps = [
  { prep = ["matte", "ramp #2a1b3d #a6452e@0.35 #ffc861@0.7 #fff6d8", "anchor mass"] },
  { resample = { count = 16, one-shot = true } },
]
sheet = { out = "built/spark.png", hold = "40ms", repeat = 1 }
check = { ignore = [{ code = "fringe", reason = "drawn on black, and added to it" }] }

[make.night-air]
from  = ["@firefly", "@spark"]
atlas = { out = "built/night-air.png" }
"""


class Edited(NamedTuple):
    """A file as it is changed: its path, and the picture or the text that it becomes."""

    path: str
    image: Image | None = None
    text: str = ""


def edited() -> tuple[Edited, ...]:
    """One frame repainted, one hold longer."""
    return (
        Edited("firefly/firefly_2.png", image=firefly(1, awake=True)),
        Edited("kivel.toml", text=RECIPE_TEXT.replace('hold = "40ms"', 'hold = "50ms"')),
    )
