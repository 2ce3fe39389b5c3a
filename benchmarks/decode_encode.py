"""What an atlas cannot do without: decode every frame, put its box where the manifest says, encode the pages."""

from __future__ import annotations

import json
import sys
from pathlib import Path
from typing import Any

import numpy as np

from kivel.files.images import open_image
from kivel.files.png.write import encode_png
from kivel.files.threads import default_jobs, in_order

folder, manifest, target = Path(sys.argv[1]), json.loads(Path(sys.argv[2]).read_text()), Path(sys.argv[3])
pages = [np.zeros((h, w, 4), np.uint8) for w, h in (page["size"] for page in manifest["pages"])]


def put(frame: dict[str, Any]) -> None:
    image = open_image(folder / frame["source"], max_pixels=1 << 28)[0].load()
    x, y, w, h = frame["rect"]
    left, top = frame["offset"]
    pages[frame["page"]][y : y + h, x : x + w] = image[top : top + h, left : left + w]


for _ in in_order(put, manifest["frames"], jobs=default_jobs()):
    pass
for number, page in enumerate(pages):
    target.with_name(f"{target.stem}-{number}.png").write_bytes(b"".join(encode_png(page, jobs=default_jobs())))
