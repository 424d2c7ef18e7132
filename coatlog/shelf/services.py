"""Reading and adding sheets."""

from __future__ import annotations

import tomllib
from collections.abc import Iterable, Mapping
from functools import lru_cache
from pathlib import Path
from typing import Any

from django.db import transaction
from django.utils.text import slugify

from coatlog.core.codec import from_stored, to_plain
from coatlog.core.errors import CoreError
from coatlog.core.label import Told, labelled
from coatlog.core.plain import check_plain, read_json
from coatlog.core.run.facts import METHODS
from coatlog.core.sheet import Sheet, make_sheet
from coatlog.core.stack.surfaces import EXPOSURES, SUBSTRATES
from coatlog.errors import NotFound, NotPermitted, Refused
from coatlog.shop.models import Member, Shop

from .models import Price, SheetDoc
from .table import read_table

__all__ = [
    "add_missing",
    "add_sheet",
    "latest_sheets",
    "load_typical",
    "prices_of",
    "read_sheet",
    "renewed",
    "set_price",
    "sheets_by_id",
    "take_label",
    "take_sheet",
    "take_table",
]

TYPICAL = Path(__file__).parent / "typical"


def add_sheet(shop: Shop, data: dict[str, Any], *, now: int) -> Sheet:
    """Validate and store a sheet; the same content again is the same sheet.  Raises CoreError."""
    sheet = make_sheet(data)
    _put(shop, [sheet], now=now)
    return sheet


def _only_owner(member: Member) -> None:
    if not member.is_owner:
        raise NotPermitted("Only the owner may change the shelf.")


def take_sheet(owner: Member, data: Any, *, now: int) -> Sheet:
    """A sheet of the owner's: the newest of its material from now on.

    Jobs keep the sheet they were frozen with.  Raises NotPermitted, Refused naming the field.
    """
    _only_owner(owner)
    if not isinstance(data, dict):
        raise Refused.field("sheet", data, "an object with the fields of a sheet")
    try:
        check_plain(data)
    except CoreError as refusal:
        raise Refused.field(refusal.field, refusal.given, refusal.expected) from None
    method = data.get("method_id", "spray_gun")
    if method not in METHODS:
        raise Refused.field("method_id", method, "one of " + ", ".join(METHODS))
    try:
        sheet = make_sheet(data)
    except CoreError as refusal:
        raise Refused.field(refusal.field, refusal.given, refusal.expected) from None
    _check_purpose(sheet)
    sheet = _sourced(sheet)
    _put(owner.shop, [sheet], now=now)
    return sheet


@transaction.atomic
def take_label(
    owner: Member, like_id: str, name: str, says: Mapping[str, Told], *, replaces: bool, now: int
) -> Sheet:
    """A product's own sheet from its label, like the typical one of its kind.

    `replaces`: it takes the place of that one; else it stands beside it as a material of its own.
    Raises NotPermitted, NotFound, Refused naming the field.
    """
    _only_owner(owner)
    like = sheets_by_id(owner.shop, [like_id]).get(like_id)
    if like is None:
        raise NotFound("No such material in this shop.")
    material_id = like.material_id if replaces else _own_id(owner.shop, name)
    try:
        sheet = labelled(like, name=name.strip(), material_id=material_id, says=says)
    except CoreError as refusal:
        raise Refused.field(refusal.field, refusal.given, refusal.expected) from None
    _put(owner.shop, [sheet], now=now)
    return sheet


def _own_id(shop: Shop, name: str) -> str:
    """An id nobody else on this shelf has, from the words of a name."""
    words = slugify(name)[:60] or "product"
    taken = set(SheetDoc.objects.filter(shop=shop).values_list("material_id", flat=True))
    return next(x for n in range(1, 10_000) if (x := words if n == 1 else f"{words}-{n}") not in taken)


def _sourced(sheet: Sheet) -> Sheet:
    """A product's sheet with what it only repeats of the typical one marked as what the trade says."""
    usual = next((s for s in typical() if s.material_id == sheet.material_id), None)
    if sheet.grade != "sheet" or sheet.purpose is None or usual is None or usual.purpose is None:
        return sheet
    why = dict(sheet.why)
    for name in ("goes_on", "over", "used_on", "withstands", "temp_max_degc"):
        if getattr(sheet.purpose, name) == getattr(usual.purpose, name):
            why.setdefault(f"purpose.{name}", usual.source_of(f"purpose.{name}"))
    plain = to_plain(sheet)
    return make_sheet({**plain, "why": to_plain(why)})


def _check_purpose(sheet: Sheet) -> None:
    """Surfaces and exposures a sheet names are ones a survey can name.  Raises Refused."""
    purpose = sheet.purpose
    if purpose is None:
        return
    for word in purpose.goes_on:
        if word not in SUBSTRATES:
            raise Refused.field("purpose.goes_on", word, "surfaces of " + ", ".join(SUBSTRATES))
    for word in purpose.withstands:
        if word not in EXPOSURES:
            raise Refused.field("purpose.withstands", word, "of " + ", ".join(EXPOSURES))


def read_sheet(owner: Member, data: bytes, file_name: str) -> Any:
    """A sheet's document from a file, JSON or TOML by its name.  Raises NotPermitted, Refused."""
    _only_owner(owner)
    kind = "TOML" if file_name.lower().endswith(".toml") else "JSON"
    try:
        text = data.decode("utf-8-sig")
        return tomllib.loads(text) if kind == "TOML" else read_json(text)
    except (UnicodeDecodeError, ValueError, RecursionError) as bad:
        told = f"{file_name}: not {kind} in UTF-8. {str(bad)[:120]}"
        raise Refused.field("file", str(bad)[:120], f"a sheet as {kind}", told) from None


@transaction.atomic
def take_table(owner: Member, data: bytes, file_name: str, *, now: int) -> list[Sheet]:
    """Sheets of a table, all or none.  Raises NotPermitted, Refused naming row and field."""
    _only_owner(owner)
    try:
        text = data.decode("utf-8-sig")
    except UnicodeDecodeError as bad:
        raise Refused.field("file", str(bad)[:120], "CSV in UTF-8", f"{file_name}: not UTF-8.") from None
    out = []
    for n, doc in enumerate(read_table(text, file_name), 2):
        try:
            out.append(take_sheet(owner, doc, now=now))
        except Refused as refusal:
            wrong = refusal.errors[0]
            where, given, wanted = wrong["field"], wrong["given"], str(wrong["expected"])
            told = f"{file_name}, row {n}, {where}: {given!r} given, expected {wanted}."
            raise Refused.field(f"row {n}: {where}", given, wanted, told) from None
    return out


def load_typical(shop: Shop, *, now: int) -> list[Sheet]:
    """Put the typical sheets on a shop's shelf."""
    _put(shop, typical(), now=now)
    return list(typical())


@lru_cache(maxsize=1)
def typical() -> tuple[Sheet, ...]:
    """The typical sheets that come with the product, read once."""
    files = sorted(TYPICAL.rglob("*.toml"))
    return tuple(make_sheet(tomllib.loads(f.read_text(encoding="utf-8"))) for f in files)


def _put(shop: Shop, sheets: Iterable[Sheet], *, now: int) -> None:
    """Store sheets in one go; one that is there already stays."""
    SheetDoc.objects.bulk_create(
        (SheetDoc(shop=shop, **_row(s, now)) for s in sheets),
        ignore_conflicts=True,
    )


@transaction.atomic
def add_missing(owner: Member, *, now: int) -> list[Sheet]:
    """Typical sheets of materials this shelf has none of, or has an older typical sheet of.

    Sheets the shop entered itself stay.  Raises NotPermitted.
    """
    _only_owner(owner)
    held = {s.material_id: (s.id, s.grade) for s in latest_sheets(owner.shop, aids=True)}
    missing = _newer(held)
    _put(owner.shop, missing, now=now)
    return missing


def _newer(held: Mapping[str, tuple[str, str]]) -> list[Sheet]:
    out = []
    for s in typical():
        sheet_id, grade = held.get(s.material_id, ("", "typical"))
        if grade == "typical" and sheet_id != s.id:
            out.append(s)
    return out


def renewed(held: Mapping[str, tuple[str, str]], *, now: int) -> list[dict[str, Any]]:
    """Rows of typical sheets for a shelf that holds older ones, by material: (sheet id, grade)."""
    return [_row(s, now) for s in _newer(held) if s.material_id in held or s.aid is None]


def _row(s: Sheet, now: int) -> dict[str, Any]:
    return {
        "sheet_id": s.id,
        "material_id": s.material_id,
        "name": s.name,
        "grade": s.grade,
        "doc": to_plain(s),
        "created_at": now,
    }


def latest_sheets(shop: Shop, *, aids: bool = False) -> list[Sheet]:
    """The newest sheet of each material, by name; with `aids` also what steps use up."""
    rows = SheetDoc.objects.filter(shop=shop).order_by("material_id", "-created_at", "-id")
    rows = rows.distinct("material_id")
    sheets = (from_stored(Sheet, r.doc) for r in rows)
    return sorted((s for s in sheets if aids or s.aid is None), key=lambda s: s.name)


def sheets_by_id(shop: Shop, ids: Iterable[str]) -> dict[str, Sheet]:
    """Sheets of this shop by id; ids of others are simply not there."""
    rows = SheetDoc.objects.filter(shop=shop, sheet_id__in=set(ids))
    return {r.sheet_id: from_stored(Sheet, r.doc) for r in rows}


def prices_of(shop: Shop) -> dict[str, dict[str, float]]:
    """What the shop pays, by material and pack."""
    out: dict[str, dict[str, float]] = {}
    for p in Price.objects.filter(shop=shop):
        out.setdefault(p.material_id, {})[p.pack] = p.amount
    return out


def set_price(owner: Member, *, material_id: str, pack: str, amount: float | None) -> None:
    """Keep a price, or forget it (None).  Raises NotPermitted, NotFound, Refused."""
    if not owner.is_owner:
        raise NotPermitted("Only the owner may change prices.")
    sheet = next((s for s in latest_sheets(owner.shop, aids=True) if s.material_id == material_id), None)
    packs = set() if sheet is None else {p.name for p in sheet.packs}
    if sheet is not None and sheet.aid is not None:
        packs = {p.name for p in sheet.aid.packs}
    if pack not in packs:
        raise NotFound("No such pack on this shop's shelf.")
    row = Price.objects.filter(shop=owner.shop, material_id=material_id, pack=pack)
    if amount is None:
        row.delete()
        return
    if not 0 <= amount <= 1_000_000:
        raise Refused.field("amount", amount, "0 to 1 000 000")
    Price.objects.update_or_create(
        shop=owner.shop, material_id=material_id, pack=pack, defaults={"amount": amount}
    )
