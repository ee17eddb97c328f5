"""Photos as they are kept: upright, of a bounded size, without what a phone writes into them (place, device, time)."""

from __future__ import annotations

import hashlib
import io
import warnings
from dataclasses import dataclass

from orderly_bench.core.errors import UnusableData
from orderly_bench.core.messages.translation import gettext as _

FORMATS = ("JPEG", "PNG", "WEBP")
MOST_PIXELS, MOST_SIDE = 60_000_000, 2_000
SMALL_SIDE = 240
QUALITY = 85


@dataclass(frozen=True)
class Photo:
    """A photo and its small picture, both JPEG; the digest is that of the large one."""

    large: bytes
    small: bytes
    width: int
    height: int
    digest: str


def read_photo(data: bytes) -> Photo:
    """A photo from what was sent.

    Raises
    ------
    UnusableData
        No JPEG, PNG or WebP, cut off, or with more pixels than anyone needs.
    """
    from PIL import Image, ImageOps, UnidentifiedImageError

    try:
        with warnings.catch_warnings():
            warnings.simplefilter("error", Image.DecompressionBombWarning)
            sent = Image.open(io.BytesIO(data), formats=FORMATS)
            if sent.width * sent.height > MOST_PIXELS:
                raise UnusableData(
                    _("it has {n} million pixels", n=str(sent.width * sent.height // 1_000_000)),
                    _("Send a smaller one"),
                )
            upright = ImageOps.exif_transpose(sent).convert("RGB")
    except (
        UnidentifiedImageError,
        Image.DecompressionBombError,
        Image.DecompressionBombWarning,
        OSError,
        ValueError,
        SyntaxError,
    ) as error:
        raise UnusableData(_("this is no photo that can be read"), _("Send a JPEG, PNG or WebP")) from error
    upright.thumbnail((MOST_SIDE, MOST_SIDE))
    small = upright.copy()
    small.thumbnail((SMALL_SIDE, SMALL_SIDE))
    large = _jpeg(upright)
    return Photo(large, _jpeg(small), upright.width, upright.height, hashlib.sha256(large).hexdigest())


def _jpeg(image: object) -> bytes:
    out = io.BytesIO()
    image.save(out, format="JPEG", quality=QUALITY, optimize=True)  # type: ignore[attr-defined]
    return out.getvalue()
