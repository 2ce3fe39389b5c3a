"""What commands that make frames have in common: writing them into a folder, and saying so."""

from __future__ import annotations

import argparse
from collections.abc import Callable, Sequence
from functools import partial
from pathlib import Path
from typing import TYPE_CHECKING, Any

from kivel.cli import options
from kivel.cli.report import Report, files_as_json

if TYPE_CHECKING:
    from kivel.core.looping.signature import Signature
    from kivel.core.playback.clip import Clip
    from kivel.core.prepare.actions import Frame
    from kivel.files.manifest.model import Group
    from kivel.making.frame_files import FrameFile, NewFrame

__all__ = ["signed", "write_frames"]


def signed(frames: Sequence[NewFrame]) -> tuple[list[NewFrame], Callable[[], list[Signature]]]:
    """The same frames, and what gives their signatures once they are written."""
    from kivel.core.looping.signature import signature

    found: dict[int, Signature] = {}

    def load(index: int, frame: NewFrame) -> Frame:
        made = frame.load()
        found[index] = signature(made.image)
        return made

    watched = [frame._replace(load=partial(load, index, frame)) for index, frame in enumerate(frames)]
    return watched, lambda: [found[index] for index in sorted(found)]


def write_frames(
    args: argparse.Namespace,
    report: Report,
    frames: Sequence[NewFrame],
    *,
    stem: str,
    clips: tuple[Clip, ...],
    notes: Sequence[str] = (),
    groups: tuple[Group, ...] = (),
    premultiplied: bool = False,
    more: Callable[[], dict[str, Any]] = dict,
) -> None:
    """Write frames and their manifest into the folder `--out`, and report it; `more` is added to the JSON document."""
    from kivel.files.manifest.names import SUFFIX
    from kivel.files.manifest.text import manifest_text
    from kivel.files.threads import in_order
    from kivel.making.frame_files import encoded_frame, frame_file_name, frames_manifest, older_frames

    folder = Path(args.out)
    manifest_path = folder / f"{stem}{SUFFIX}"
    written: list[FrameFile] = []
    files: list[Path] = []

    def encoded(frame: NewFrame) -> tuple[FrameFile, list[bytes]]:
        return encoded_frame(frame, compress=args.compress, premultiplied=premultiplied)

    with options.output_set(args) as out:
        out.check(folder / "frame")
        with report.progress("writing frames", len(frames)) as advance:
            for index, (frame, pieces) in enumerate(in_order(encoded, frames, jobs=options.jobs(args))):
                files.append(folder / frame_file_name(stem, index, len(frames), frame.suffix))
                written.append(frame)
                out.add(files[-1], pieces)
                advance()
        notes = [*notes, *older_frames(folder, stem, files)]
        report.notes(notes)
        out.add(manifest_path, [manifest_text(frames_manifest(written, files, clips, groups)).encode()])
    span = f"{files[0].name} to {files[-1].name}" if len(files) > 1 else files[0].name
    sizes = sorted({frame.size for frame in written})
    size = f"{sizes[0]} px" if len(sizes) == 1 else f"{sizes[0]} to {sizes[-1]} px"
    count = "1 frame" if len(files) == 1 else f"{len(files)} frames"
    report.line(f"{args.out}  {count} of {size}: {span}, with {manifest_path.name}{out.outcome_text()}")
    report.document(
        {
            "files": files_as_json(out.written),
            "frames": len(files),
            "sizes": [list(each) for each in sizes],
            "clips": [clip.name for clip in clips],
            **more(),
            "notes": notes,
        }
    )
