"""The mark as the pictures a phone wants for its home screen: `python -m ops.icons`."""

from __future__ import annotations

from PIL import Image, ImageDraw

from .paths import WEB

__all__ = ["main"]

FIELD, INK, EDGE = "#e8e8e8", "#0f0f0f", "#6a6a6a"
#: Corners of the two coats and of the one to come, in a square of 24.
BODIES = (((1, 17, 23, 22), INK), ((7, 10.4, 23, 15.4), EDGE))
PLANNED = (13, 3.8, 23, 8.8)


def mark(side_px: int, room: float) -> Image.Image:
    """The mark; `room`: the share of each side left free, for phones that cut their icons round."""
    fine = 4 * side_px
    picture = Image.new("RGB", (fine, fine), FIELD)
    draw = ImageDraw.Draw(picture)
    unit = fine * (1 - 2 * room) / 24

    def box(x0: float, y0: float, x1: float, y1: float) -> tuple[float, float, float, float]:
        return tuple(fine * room + unit * v for v in (x0, y0, x1, y1))  # type: ignore[return-value]

    for corners, fill in BODIES:
        draw.rectangle(box(*corners), fill=fill)
    draw.rectangle(box(*PLANNED), outline=INK, width=round(1.6 * unit))
    return picture.resize((side_px, side_px), Image.Resampling.LANCZOS)


def main() -> None:
    for name, side_px, room in (("icon-192", 192, 0.12), ("icon-512", 512, 0.12), ("icon-cut", 512, 0.24)):
        mark(side_px, room).save(WEB / "public" / f"{name}.png", optimize=True)


if __name__ == "__main__":
    main()
