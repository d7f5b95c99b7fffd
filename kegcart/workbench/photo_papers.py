"""Photos on paper, as many on a page as can still be seen."""

from collections.abc import Iterable
from dataclasses import dataclass
from datetime import date
from typing import TYPE_CHECKING

from kegcart.core.units import calendar_day
from kegcart.workbench import photos
from kegcart.workbench.build_papers import ListPages
from kegcart.workbench.papers import EDGE, MM, NothingToPrintError, Paper, fitted, wrapped, write

if TYPE_CHECKING:
    from reportlab.pdfgen.canvas import Canvas

ACROSS, DOWN = 3, 4
"""Photos on a page."""
ASIDE = 3.0
"""Between photos, mm."""
CAPTION = 9.0
"""Room for the words under a photo, mm."""


@dataclass(frozen=True, slots=True)
class Taken:
    """A photo with its words: the digest of its file, its size in pixels, its day."""

    digest: str
    width: int
    height: int
    on: date
    words: str


def photos_pdf(name: str, taken: Iterable[Taken], paper: Paper) -> bytes:
    """Photos in their order. Errors: NothingToPrintError where the files of none are here."""
    pages = ListPages(name, paper, "photos")
    photo_pages(pages, taken)
    if not pages.page:
        raise NothingToPrintError("there are no photos")
    return pages.done()


def photo_pages(pages: ListPages, taken: Iterable[Taken]) -> None:
    """Photos on pages of their own, as far as their files are here."""
    here = [photo for photo in taken if photos.there(photo.digest)]
    for n, photo in enumerate(here):
        if n % (ACROSS * DOWN) == 0:
            pages.turn("photos")
        draw_photo(pages.canvas, photo, n % (ACROSS * DOWN), pages.width, pages.height)


def draw_photo(canvas: "Canvas", photo: Taken, place: int, width: float, height: float) -> None:
    """A photo at its place on a page of so many mm, from 0."""
    from reportlab.lib.utils import ImageReader

    wide, high = (width - 2 * EDGE) / ACROSS, (height - 2 * EDGE - 8) / DOWN
    x, top = EDGE + place % ACROSS * wide, height - EDGE - 8 - place // ACROSS * high
    room = wide - ASIDE, high - CAPTION - ASIDE
    scale = min(room[0] / photo.width, room[1] / photo.height)
    w, h = photo.width * scale, photo.height * scale
    canvas.drawImage(ImageReader(photos.file_of(photo.digest, small=True)), x * MM, (top - h) * MM, w * MM, h * MM)
    write(canvas, x * MM, (top - h - 3.5) * MM, calendar_day(photo.on), 8, bold=True)
    said = " ".join(wrapped(photo.words, room[0], size=7.5))
    write(canvas, x * MM, (top - h - 6.8) * MM, fitted(said, room[0], 7.5), 7.5)
