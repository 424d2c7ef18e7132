"""Reading and adding sheets."""

from __future__ import annotations

import tomllib
from collections.abc import Iterable
from pathlib import Path
from typing import Any

from coatlog.core.codec import from_plain, to_plain
from coatlog.core.sheet import Sheet, make_sheet
from coatlog.shop.models import Shop

from .models import SheetDoc

__all__ = ["add_sheet", "latest_sheets", "load_typical", "sheets_by_id"]

TYPICAL = Path(__file__).parent / "typical"


def add_sheet(shop: Shop, data: dict[str, Any], *, now: int) -> Sheet:
    """Validate and store a sheet; the same content again is the same sheet.  Raises CoreError."""
    sheet = make_sheet(data)
    SheetDoc.objects.get_or_create(
        shop=shop,
        sheet_id=sheet.id,
        defaults={
            "material_id": sheet.material_id,
            "name": sheet.name,
            "grade": sheet.grade,
            "doc": to_plain(sheet),
            "created_at": now,
        },
    )
    return sheet


def load_typical(shop: Shop, *, now: int) -> list[Sheet]:
    """Put the typical sheets on a shop's shelf."""
    files = sorted(TYPICAL.glob("*.toml"))
    return [add_sheet(shop, tomllib.loads(f.read_text(encoding="utf-8")), now=now) for f in files]


def latest_sheets(shop: Shop) -> list[Sheet]:
    """The newest sheet of each material, by name."""
    rows = SheetDoc.objects.filter(shop=shop).order_by("material_id", "-created_at", "-id")
    rows = rows.distinct("material_id")
    return sorted((from_plain(Sheet, r.doc) for r in rows), key=lambda s: s.name)


def sheets_by_id(shop: Shop, ids: Iterable[str]) -> dict[str, Sheet]:
    """Sheets of this shop by id; ids of others are simply not there."""
    rows = SheetDoc.objects.filter(shop=shop, sheet_id__in=set(ids))
    return {r.sheet_id: from_plain(Sheet, r.doc) for r in rows}
