"""Pictures of damage: made anew from their pixels, so that nothing else in the file is kept."""

from __future__ import annotations

import hashlib
import io

from PIL import Image, ImageOps, UnidentifiedImageError

from coatlog.errors import NotFound, NotPermitted, Refused
from coatlog.shop.models import Member, Shop

from .models import Photo

__all__ = ["photo_of", "take_photo"]

MOST_PX = 1600
MOST_PIXELS = 60_000_000
KINDS = ("JPEG", "PNG", "WEBP")


def take_photo(member: Member, data: bytes, name: str, *, now: int) -> Photo:
    """Store a picture by the hash of its content; the same one again is the same row.

    It is turned upright, made at most 1600 pixels long and written anew as JPEG: place, time and
    device that a camera writes into a file are gone.  Raises NotPermitted, Refused.
    """
    if not member.may_write:
        raise NotPermitted("A viewer may look, not add pictures.")
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


def photo_of(shop: Shop, photo_id: str) -> Photo:
    """A picture of this shop.  Raises NotFound."""
    photo = Photo.objects.filter(shop=shop, photo_id=photo_id).first()
    if photo is None:
        raise NotFound("No such picture in this shop.")
    return photo
