"""Prints the result of `kivel channels`."""

from __future__ import annotations

from typing import TYPE_CHECKING

from kivel.cli.frames import report_frames
from kivel.cli.report import Report

if TYPE_CHECKING:
    from kivel.making.frames.channels import ChannelsMade
    from kivel.making.options.channels_options import ChannelsOptions

__all__ = ["show"]


def show(made: ChannelsMade, options: ChannelsOptions, report: Report) -> int:
    report_frames(report, options, made.manifest, made.files, made.notes, kind=made.kind)
    return 0
