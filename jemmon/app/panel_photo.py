"""A photo as it is kept: turned upright, made smaller, and written anew as a JPEG, so that nothing of what the camera wrote into
the file (place, time, owner) is kept."""

import io

from PIL import Image, ImageOps, UnidentifiedImageError

from ..core.base.errors import CoreError
from ..store.panels import Photo

MOST_BYTES = 8_000_000
_MOST_PIXELS = 50_000_000
_LONGEST = 2_000  # pixels of the longer side: a switch is read on it, and the tablet draws it at once
_FORMATS = ("JPEG", "PNG", "WEBP")


class PhotoError(CoreError):
    """A file is not a photo that can be kept."""

    code = "photo_error"


def photo_from(data: bytes) -> Photo:
    """Return the photo in the bytes of a file, upright, at most 2,000 pixels long, without what the camera wrote into it.

    Raises:
        PhotoError: it is not a JPEG, PNG or WebP, is damaged, or has more pixels than any camera.
    """
    try:
        with Image.open(io.BytesIO(data), formats=_FORMATS) as opened:
            if opened.width * opened.height > _MOST_PIXELS:
                raise PhotoError(
                    f"This photo has {opened.width} by {opened.height} pixels; take it smaller, or crop it."
                )
            upright = ImageOps.exif_transpose(opened).convert("RGB")
    except PhotoError:
        raise
    except (UnidentifiedImageError, Image.DecompressionBombError) as error:
        raise PhotoError("This file is not a photo: a JPEG, a PNG or a WebP is one.") from error
    except (OSError, ValueError, SyntaxError) as error:
        raise PhotoError("This photo is damaged and cannot be read; take it again.") from error
    upright.thumbnail((_LONGEST, _LONGEST))
    bare = Image.new("RGB", upright.size)
    bare.paste(upright)
    written = io.BytesIO()
    bare.save(written, "JPEG", quality=86, optimize=True)
    return Photo(jpeg=written.getvalue(), width=bare.width, height=bare.height)
