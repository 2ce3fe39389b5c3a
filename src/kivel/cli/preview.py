"""Prints the result of `kivel preview`."""

from __future__ import annotations

from typing import TYPE_CHECKING

from kivel.cli.page_server import PageServer
from kivel.cli.report import Report, files_as_json
from kivel.cli.streams import flush
from kivel.making.looking.preview_page import page_of, source_stamp
from kivel.making.work import Work

if TYPE_CHECKING:
    from kivel.making.looking.preview import PreviewMade
    from kivel.making.options.preview_options import PreviewOptions

__all__ = ["show"]


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
    page_of(options, Work(report))  # what is wrong is noted here, before anybody opens it
    server = PageServer(options.port, lambda: page_of(options, Work()).text, lambda: source_stamp(options))
    report.line(f"{server.address}  (Ctrl-C ends it)")
    report.document({"address": server.address})
    flush()
    try:
        server.run()
    except KeyboardInterrupt:
        return 0
    return 0
