"""Pictures of damage: made anew from their pixels, so that nothing else in the file is kept."""

from __future__ import annotations

import hashlib
import io
import re

from PIL import Image, ImageOps, UnidentifiedImageError

from coatlog.errors import NotFound, NotPermitted, Refused
from coatlog.shop.models import Member, Shop

from .models import Photo

__all__ = ["keep_photo", "photo_of", "take_photo"]

MOST_PX = 1600
MOST_PIXELS = 60_000_000
KINDS = ("JPEG", "PNG", "WEBP")


def take_photo(member: Member, data: bytes, name: str, *, now: int) -> Photo:
    """Store a picture by the hash of its content; the same one again is the same row.

    It is turned upright, made at most 1600 pixels long and written anew as JPEG: place, time and
    device that a camera writes into a file are gone.  Raises NotPermitted, Refused.
    """
    if not member.may_write:
        raise NotPermitted("A viewer can look, not add pictures.")
    try:
        with Image.open(io.BytesIO(data), formats=KINDS) as opened:
            if opened.width * opened.height > MOST_PIXELS:
                size = f"{opened.width} × {opened.height}"
                raise Refused.field("file", size, f"at most {MOST_PIXELS // 1_000_000} million pixels")
            picture = ImageOps.exif_transpose(opened).convert("RGB")
    except (UnidentifiedImageError, OSError, ValueError, Image.DecompressionBombError):
        told = f"{name}: not a picture that can be read. Expected JPEG, PNG or WebP."
        raise Refused.field("file", name, "a picture as JPEG, PNG or WebP", told) from None
    picture.thumbnail((MOST_PX, MOST_PX))
    clean = Image.new("RGB", picture.size)
    clean.paste(picture)
    out = io.BytesIO()
    clean.save(out, "JPEG", quality=82, optimize=True)
    content = out.getvalue()
    photo, _ = Photo.objects.get_or_create(
        shop=member.shop,
        photo_id=hashlib.sha256(content).hexdigest(),
        defaults={
            "content": content,
            "width_px": clean.width,
            "height_px": clean.height,
            "created_at": now,
        },
    )
    return photo


def keep_photo(shop: Shop, photo_id: str, content: bytes, where: str, *, now: int) -> Photo:
    """Store a picture that was made here or elsewhere by `take_photo`, byte for byte.

    It must have the hash it is named by and hold nothing but its pixels.  Raises Refused.
    """
    if hashlib.sha256(content).hexdigest() != photo_id:
        raise Refused.field(
            f"{where}.photo_id", photo_id[:80], "the hash of its bytes: it was changed by hand"
        )
    try:
        with Image.open(io.BytesIO(content), formats=("JPEG",)) as opened:
            opened.load()
            width_px, height_px = opened.size
    except (UnidentifiedImageError, OSError, ValueError, Image.DecompressionBombError):
        raise Refused.field(where, photo_id[:80], "a JPEG that can be read") from None
    if max(width_px, height_px) > MOST_PX or not _pixels_only(content):
        expected = f"a JPEG of at most {MOST_PX} pixels with nothing in it but its pixels"
        raise Refused.field(where, f"{width_px} × {height_px}", expected)
    photo, _ = Photo.objects.get_or_create(
        shop=shop,
        photo_id=photo_id,
        defaults={"content": content, "width_px": width_px, "height_px": height_px, "created_at": now},
    )
    return photo


def _pixels_only(jpeg: bytes) -> bool:
    """Whether a JPEG has no segment for anything but its frame: no comment, place, device or tail.

    Markers as in ITU-T T.81, table B.1; APP0 is the plain header.
    """
    at = 2
    while at + 4 <= len(jpeg) and jpeg[at] == 0xFF:
        marker = jpeg[at + 1]
        if marker == 0xDA:  # the scan: what follows are pixels up to the end of the image
            whole = jpeg.endswith(b"\xff\xd9") and jpeg.count(b"\xff\xd9") == 1
            return whole and not re.search(rb"\xff[\xe1-\xef\xfe]", jpeg[at:])
        if 0xE1 <= marker <= 0xEF or marker == 0xFE:
            return False
        at += 2 + int.from_bytes(jpeg[at + 2 : at + 4], "big")
    return False


def photo_of(shop: Shop, photo_id: str) -> Photo:
    """A picture of this shop.  Raises NotFound."""
    photo = Photo.objects.filter(shop=shop, photo_id=photo_id).first()
    if photo is None:
        raise NotFound("No such picture in this shop.")
    return photo
