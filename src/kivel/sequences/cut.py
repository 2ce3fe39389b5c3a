"""A picture taken apart: its pieces as a sequence, and the same pieces of its companion maps."""

from __future__ import annotations

from collections.abc import Sequence

from kivel.core.contents import content_of
from kivel.core.errors import option
from kivel.core.named_tuples import NamedTuple
from kivel.core.option_words import EmptyCells
from kivel.core.pixels.pixels import Pixels, Size, full_scale
from kivel.core.slicing.background import KeyColour, without_key
from kivel.core.slicing.islands import Labels
from kivel.core.slicing.lattice import Lattice
from kivel.core.slicing.picture_pieces import Piece, kept_pieces, taken
from kivel.core.slicing.regions import Region
from kivel.core.wording import WARNING, counted, first_few
from kivel.files.images import FrameSource, ImageError
from kivel.sequences.map_frames import MapError, MapFrames
from kivel.sequences.pairing import MapRequest
from kivel.sequences.sequence import FrameSequence

__all__ = ["Cut", "Divided", "colour_text", "cut_apart", "same_pieces"]


class Divided(NamedTuple):
    """How a picture is divided: its pieces, the grid if there is one, and what a person should know.

    `regions` are those that the pieces are, if they are any; `labels` tell whose island each pixel is.
    """

    pieces: tuple[Piece, ...]
    grid: Lattice | None = None
    key: KeyColour | None = None
    labels: Labels | None = None
    regions: tuple[Region, ...] = ()
    notes: tuple[str, ...] = ()


class Cut(NamedTuple):
    """A picture taken apart: the frames, the piece that each is, and how it was divided."""

    sequence: FrameSequence
    pieces: tuple[Piece, ...]
    sheet: Size
    divided: Divided


def cut_apart(image: FrameSource, sheet: Pixels, divided: Divided, *, empty: EmptyCells) -> Cut:
    """The pieces of a picture as frames, what has the key's colour transparent.

    Raises
    ------
    ImageError
        If nothing is drawn on it.
    """
    keyed = without_key(sheet, divided.key)
    if empty != "keep" and not keyed[..., 3].any():
        raise ImageError(
            f"every pixel is transparent, nothing is visible; pass {option('empty', 'keep')} to slice it anyway"
        )
    kept = kept_pieces(keyed, divided.pieces, empty)
    names = {piece: region.name for piece, region in zip(divided.pieces, divided.regions, strict=False)}
    if divided.key and image.palette:
        image = image._replace(palette=image.palette.recoloured(lambda table: without_key(table, divided.key)))
    frames = tuple(
        _frame(image, keyed, piece, divided.labels, number)._replace(
            name=names.get(piece, f"{image.path.stem}_{number:04d}")
        )
        for number, piece in enumerate(kept.pieces)
    )
    notes = [*divided.notes, *_key_notes(divided.key, sheet)]
    if kept.dropped:
        where = {"drop-last": " at the end", "drop-row-ends": " at the ends of rows"}.get(empty, "")
        notes.append(f"{counted(kept.dropped, 'empty cell')}{where} skipped; {option('empty', 'keep')} keeps them")
    if kept.faint:
        numbers = first_few([str(number) for number in kept.faint])
        notes.append(f"almost invisible, alpha below 8 of 255 everywhere: frame {numbers}")
    return Cut(FrameSequence(image.path.stem, frames, notes=tuple(notes)), kept.pieces, image.size, divided)


def same_pieces(image: FrameSource, cut: Cut, request: MapRequest) -> MapFrames:
    """The pieces of a companion map's sheet that are those of the colour's.

    Raises
    ------
    MapError
        If the sheet is not as large.
    """
    if image.size != cut.sheet:
        raise MapError(f"map {request.name}: {image.size} px, the sheet has {cut.sheet}; render it again")
    sheet = image.load()
    frames = tuple(_frame(image, sheet, piece, None, number) for number, piece in enumerate(cut.pieces))
    content = request.content or content_of(request.name)
    sizes = tuple(piece.canvas for piece in cut.pieces)
    return MapFrames(request.name, content, frames, sizes, image.depth)


def _frame(image: FrameSource, sheet: Pixels, piece: Piece, labels: Labels | None, number: int) -> FrameSource:
    return image._replace(
        name=f"{image.path.stem}_{number:04d}",
        source=f"{image.path.name}#{number}",
        size=piece.canvas,
        load=lambda: taken(sheet, piece, labels),
        palette=image.palette and image.palette.moved(lambda indices: taken(indices, piece, labels)),
    )


def _key_notes(key: KeyColour | None, sheet: Pixels) -> Sequence[str]:
    if key is None:
        return ()
    share = float((without_key(sheet, key)[..., 3] != sheet[..., 3]).mean())
    return (
        f"{WARNING}the background colour {colour_text(key, sheet)} becomes transparent, {share:.0%} of the pixels; "
        f"{option('key', 'none')} keeps it",
    )


def colour_text(colour: KeyColour, image: Pixels) -> str:
    """`#ff00ff`, of any depth."""
    return "#" + "".join(f"{round(255 * value / full_scale(image)):02x}" for value in colour)
