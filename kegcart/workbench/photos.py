"""Photos: read, turned upright, made no larger than is looked at, and kept as files in the data folder by the digest of what they hold.

A file is never changed, and what the camera wrote into it beside the picture (where it was taken, with what) is left out.
"""

import os
import re
import warnings
from dataclasses import dataclass
from datetime import date, datetime
from hashlib import sha256
from io import BytesIO
from pathlib import Path

from django.conf import settings
from PIL import ExifTags, Image, ImageOps, UnidentifiedImageError

MOST_BYTES = 15_000_000
LARGE_PX, SMALL_PX = 1600, 320
"""The longer side, as it is looked at and as it stands in a list."""
QUALITY = 84
FORMATS = ("JPEG", "PNG", "WEBP")
_DIGEST = re.compile(r"[0-9a-f]{64}")
FILE_NAME = re.compile(r"[0-9a-f]{64}(\.small)?\.jpg")
"""How the files of photos are called."""


class PhotoError(ValueError):
    """Why a file is not taken as a photo, in a sentence."""


@dataclass(frozen=True, slots=True)
class Read:
    """A photo as it is kept: the picture and its small form as JPEG, its size in pixels, and the day the camera says."""

    large: bytes
    small: bytes
    width: int
    height: int
    taken_on: date | None


def folder() -> Path:
    """Where photos lie."""
    return Path(settings.DATA_DIR) / "photos"


def read(content: bytes) -> Read:
    """A photo out of the bytes of a file. Errors: PhotoError."""
    if len(content) > MOST_BYTES:
        raise PhotoError(f"the photo is larger than {MOST_BYTES // 10**6} MB: make it smaller, or send a part of it")
    if not content:
        raise PhotoError("the file is empty")
    try:
        with warnings.catch_warnings():
            warnings.simplefilter("error", Image.DecompressionBombWarning)
            picture = Image.open(BytesIO(content), formats=FORMATS)
            taken_on = day_of(picture)
            picture.draft("RGB", (LARGE_PX * 2, LARGE_PX * 2))
            upright = flat(ImageOps.exif_transpose(picture))
    except (Image.DecompressionBombError, Image.DecompressionBombWarning):
        most = (Image.MAX_IMAGE_PIXELS or 0) // 10**6
        raise PhotoError(f"the photo has more than {most} million pixels: make it smaller") from None
    except UnidentifiedImageError:
        raise PhotoError("this is no picture that can be read here: take JPEG, PNG or WebP") from None
    except (OSError, ValueError, SyntaxError, EOFError):
        raise PhotoError("the picture is broken: it cannot be read to its end") from None
    upright.thumbnail((LARGE_PX, LARGE_PX))
    large = as_jpeg(upright)
    width, height = upright.size
    upright.thumbnail((SMALL_PX, SMALL_PX))
    return Read(large, as_jpeg(upright), width, height, taken_on)


def read_kept(content: bytes) -> Read:
    """A photo as it was kept elsewhere: its bytes stay, so that its digest does. Errors: PhotoError where it was not kept as one is."""
    try:
        with warnings.catch_warnings():
            warnings.simplefilter("error", Image.DecompressionBombWarning)
            picture = Image.open(BytesIO(content), formats=("JPEG",))
            width, height = picture.size
            picture.draft("RGB", (SMALL_PX * 2, SMALL_PX * 2))
            small = picture.convert("RGB")
    except (Image.DecompressionBombError, Image.DecompressionBombWarning, OSError, ValueError, SyntaxError, EOFError):
        raise PhotoError("a photo in it is broken: it cannot be read to its end") from None
    if max(width, height) > LARGE_PX or picture.getexif():
        raise PhotoError("a photo in it was not kept by this program: put it into the log by itself")
    small.thumbnail((SMALL_PX, SMALL_PX))
    return Read(content, as_jpeg(small), width, height, None)


def flat(picture: Image.Image) -> Image.Image:
    """A picture in three colours, what is clear in it white."""
    if picture.mode in ("RGBA", "LA", "PA") or "transparency" in picture.info:
        clear = picture.convert("RGBA")
        ground = Image.new("RGB", picture.size, "white")
        ground.paste(clear, mask=clear.getchannel("A"))
        return ground
    return picture.convert("RGB")


def as_jpeg(picture: Image.Image) -> bytes:
    out = BytesIO()
    picture.save(out, "JPEG", quality=QUALITY, optimize=True)
    return out.getvalue()


def day_of(picture: Image.Image) -> date | None:
    """The day on which the camera says the photo was taken; None where it says none that can be read."""
    exif = picture.getexif()
    said = exif.get_ifd(ExifTags.IFD.Exif).get(ExifTags.Base.DateTimeOriginal) or exif.get(ExifTags.Base.DateTime)
    try:
        return datetime.strptime(str(said)[:10], "%Y:%m:%d").date() if said else None
    except ValueError:
        return None


def digest_of(content: bytes) -> str:
    """By what a photo is known: the SHA-256 of its file, in hexadecimal."""
    return sha256(content).hexdigest()


def keep(photo: Read) -> str:
    """Keep a photo in the data folder; returns its digest. What is there already stays. Errors: OSError."""
    digest = digest_of(photo.large)
    folder().mkdir(mode=0o700, exist_ok=True)
    for file, content in ((file_of(digest), photo.large), (file_of(digest, small=True), photo.small)):
        write_whole(file, content)
    return digest


def write_whole(file: Path, content: bytes) -> None:
    """Write a file that is there whole or not at all, also when the machine goes out. Errors: OSError."""
    if file.exists():
        return
    part = file.with_suffix(f".part{os.getpid()}")
    with part.open("wb") as out:
        out.write(content)
        out.flush()
        os.fsync(out.fileno())
    part.replace(file)


def is_digest(text: str) -> bool:
    """Whether a text is the digest of a photo."""
    return bool(_DIGEST.fullmatch(text))


def file_of(digest: str, small: bool = False) -> Path:
    """The file of a photo. Errors: ValueError where that is no digest."""
    if not is_digest(digest):
        raise ValueError(f"'{digest[:40]}' is no digest of a photo")
    return folder() / f"{digest}{'.small' if small else ''}.jpg"


def there(digest: str) -> bool:
    """Whether a photo is kept here."""
    return is_digest(digest) and file_of(digest).exists()
