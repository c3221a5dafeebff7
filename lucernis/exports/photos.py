"""Photos made fit to keep: upright, smaller, without what a camera writes beside the picture, as where that was."""

from __future__ import annotations

import io
import warnings

from PIL import Image, ImageOps, UnidentifiedImageError

from lucernis.errors import NotUnderstood, TooLarge

# Long side and pixels that are taken at all. [px]
LONGEST_PX = 1600
MOST_PX = 60_000_000
_QUALITY = 80
_KINDS = ("JPEG", "PNG", "WEBP")


def fit_to_keep(data: bytes) -> bytes:
    """A photo as it is kept.

    Parameters
    ----------
    data : bytes
        A JPEG, PNG or WebP.

    Returns
    -------
    bytes
        A JPEG of at most 1600 pixels a side, turned upright, without any metadata.

    Raises
    ------
    NotUnderstood
        If it is no such picture, or a broken one.
    TooLarge
        Above sixty million pixels.
    """
    try:
        with warnings.catch_warnings():
            # What it warns of is refused below, by the size its head tells before anything is unpacked.
            warnings.simplefilter("ignore", Image.DecompressionBombWarning)
            with Image.open(io.BytesIO(data), formats=_KINDS) as picture:
                if picture.width * picture.height > MOST_PX:
                    raise TooLarge(
                        "photo: too many pixels",
                        field="photo",
                        value=picture.width * picture.height,
                        allowed=f"at most {MOST_PX}",
                    )
                # A JPEG is unpacked no larger than it is needed; others are not made to.
                picture.draft("RGB", (2 * LONGEST_PX, 2 * LONGEST_PX))
                picture.thumbnail((LONGEST_PX, LONGEST_PX))
                upright = ImageOps.exif_transpose(picture).convert("RGB")
    except (UnidentifiedImageError, OSError, SyntaxError, ValueError, Image.DecompressionBombError) as error:
        raise NotUnderstood(
            "photo: not a picture that can be read", field="photo", allowed="JPEG, PNG or WebP"
        ) from error
    out = io.BytesIO()
    upright.save(out, "JPEG", quality=_QUALITY, optimize=True)
    return out.getvalue()
