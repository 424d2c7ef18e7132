"""A picture for the demo's damage register, drawn: no camera was near."""

from __future__ import annotations

import io

from PIL import Image, ImageDraw, ImageFilter

__all__ = ["impact"]

SIZE = (960, 640)


def impact() -> bytes:
    """A bilge from below with a crushed patch, as PNG."""
    width, height = SIZE
    image = Image.linear_gradient("L").resize(SIZE).convert("RGB")
    draw = ImageDraw.Draw(image)
    draw.polygon([(0, 0), (width, 0), (width, 190), (0, 330)], fill=(212, 211, 206))  # topsides
    draw.line([(0, 330), (width, 190)], fill=(70, 74, 80), width=9)  # the waterline
    for k in range(9):  # a keyed face: long strokes
        draw.line([(0, 380 + 34 * k), (width, 240 + 34 * k)], fill=(128, 130, 133), width=2)
    image = image.filter(ImageFilter.GaussianBlur(2))
    draw = ImageDraw.Draw(image)
    x, y = round(0.62 * width), round(0.58 * height)
    draw.ellipse([x - 92, y - 58, x + 92, y + 58], fill=(92, 90, 86))
    draw.ellipse([x - 54, y - 32, x + 60, y + 30], fill=(58, 55, 52))
    for dx, dy in ((-150, -70), (-132, 84), (140, -58), (168, 66), (18, 118)):
        draw.line([(x, y), (x + dx, y + dy)], fill=(40, 40, 42), width=3)
    out = io.BytesIO()
    image.save(out, "PNG")
    return out.getvalue()
