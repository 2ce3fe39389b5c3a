"""What `kivel preview` says."""

from __future__ import annotations

from typing import TYPE_CHECKING

from kivel.cli.report import Report, files_as_json

if TYPE_CHECKING:
    from kivel.making.looking.preview import PreviewMade
    from kivel.making.options.preview_options import PreviewOptions

__all__ = ["EXAMPLES", "show"]

EXAMPLES = """\
examples:
  kivel preview moth.kivel.json -o moth.apng --scale 8
      the moth's clip, eight times as large, at its exact timing

  kivel preview night.kivel.json -o night.html
      one page that plays every clip in a browser: scrub, zoom, onion skin, maps, two clips side by side

  kivel preview spore/ -o spore-contact.png
      every frame in order, numbered, with its hold

  kivel preview moth.kivel.json -o moth-timing.png --view timing
      every clip's steps to scale, with events, cycles and pace

  kivel preview props.kivel.json -o props-layout.png --view layout
      the packed page: boxes, numbers, outlines, free space and the share used
"""


def show(made: PreviewMade, options: PreviewOptions, report: Report) -> int:
    if options.serve:
        return _serve(options, report)
    report.written(made.files, {made.files[0].path.name: made.described}, dry_run=options.dry_run)
    document: dict[str, object] = {"files": files_as_json(made.files)}
    if made.clip is None:
        document["used"] = [round(share, 4) for share in made.used]
    else:
        document |= {"clip": made.clip.name, "frames": made.frames, "notes": list(made.notes)}
    report.document(document)
    return 0


def _serve(options: PreviewOptions, report: Report) -> int:
    """Until Ctrl-C, which is how it ends."""
    from kivel.cli.page_server import PageServer
    from kivel.cli.streams import flush
    from kivel.making.looking.preview_page import page_of, source_stamp
    from kivel.making.work import Work

    page_of(options, Work(report))  # what is wrong is said here, before anybody opens it
    server = PageServer(options.port, lambda: page_of(options, Work()).text, lambda: source_stamp(options))
    report.line(f"{server.address}  (Ctrl-C ends it)")
    report.document({"address": server.address})
    flush()
    try:
        server.run()
    except KeyboardInterrupt:
        return 0
    return 0
