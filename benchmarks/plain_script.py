"""The script that one would write instead: open each frame, paste it, save, dump where it went."""

import json
import math
import re
import sys
from pathlib import Path

from PIL import Image

source, target = Path(sys.argv[1]), Path(sys.argv[2])
files = sorted(source.glob("*.png"), key=lambda path: int(re.findall(r"\d+", path.stem)[-1]))
images = [Image.open(file).convert("RGBA") for file in files]
width, height = images[0].size
columns = math.ceil(math.sqrt(len(images)))
rows = math.ceil(len(images) / columns)
sheet = Image.new("RGBA", (columns * width, rows * height))
frames = []
for index, image in enumerate(images):
    x, y = index % columns * width, index // columns * height
    sheet.paste(image, (x, y))
    frames.append({"name": files[index].name, "x": x, "y": y, "w": width, "h": height})
sheet.save(target)
target.with_suffix(".json").write_text(json.dumps(frames))
