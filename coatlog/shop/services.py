"""A shop of one's own: founding it, its people, its hours and places."""

from __future__ import annotations

import datetime as dt
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from typing import Any
from uuid import UUID
from zoneinfo import available_timezones

from axes.utils import reset as axes_reset
from django.contrib.auth import get_user_model
from django.contrib.auth.password_validation import validate_password
from django.core.exceptions import ValidationError
from django.db import transaction

from coatlog.core.stack.rules import FACTS
from coatlog.errors import NotFound, NotPermitted, Refused

from .lock import hold_shop
from .models import Member, Place, Shop

__all__ = [
    "ShopDraft",
    "add_member",
    "add_place",
    "answer",
    "begin",
    "change_password",
    "change_place",
    "found_shop",
    "kept_away",
    "remove_member",
    "reset_password",
    "set_role",
    "set_sensitised",
    "set_shop",
]

ROLES = (Member.OWNER, Member.PAINTER, Member.VIEWER)


@dataclass(frozen=True, slots=True, kw_only=True)
class ShopDraft:
    """What a shop says of itself: zone and hours, painters, the air it usually has."""

    name: str
    time_zone: str
    opens: dt.time
    closes: dt.time
    painters: int
    default_air_degc: float
    default_rh_frac: float
    currency: str
    voc_limit_g_per_l: float | None
    voc_less_water: bool
    guns: int = 2
    has: list[str] = field(default_factory=list)
    hasnt: list[str] = field(default_factory=list)
    logs_steps: bool = True


@transaction.atomic
def found_shop(*, name: str, time_zone: str, username: str, password: str) -> Member:
    """A new shop with its owner and a first place.  Raises Refused naming the field."""
    _check_name("shop", name)
    _check_zone(time_zone)
    shop = Shop.objects.create(name=name.strip(), time_zone=time_zone)
    Place.objects.create(shop=shop, name="Bay 1")
    return _member(shop, username, password, Member.OWNER)


@transaction.atomic
def set_sensitised(member: Member, username: str, sensitised: bool) -> Member:
    """Say that somebody is asthmatic or sensitised; the owner of anybody, everybody of themselves.

    Raises NotPermitted, NotFound.
    """
    if not member.is_owner and member.user.get_username() != username:
        raise NotPermitted("Only the owner, or the person, can say this.")
    other = Member.objects.filter(shop=member.shop, user__username=username).select_related("user").first()
    if other is None:
        raise NotFound("No such person in this shop.")
    other.sensitised = sensitised
    other.save(update_fields=["sensitised"])
    return other


def kept_away(shop: Shop) -> tuple[tuple[str, ...], bool]:
    """Who stays away from isocyanates, and whether anybody who may log work is left."""
    people = list(Member.objects.filter(shop=shop).select_related("user").order_by("id"))
    names = tuple(m.user.get_username() for m in people if m.sensitised)
    return names, any(m.may_write and not m.sensitised for m in people)


@transaction.atomic
def answer(owner: Member, fact: str, yes: bool) -> Shop:
    """Say yes or no to one fact of the shop.  Raises Refused, NotPermitted."""
    _only_owner(owner)
    if fact not in FACTS:
        raise Refused.field("fact", fact, "of " + ", ".join(FACTS))
    shop = hold_shop(owner.shop_id)
    shop.has = [f for f in shop.has if f != fact] + ([fact] if yes else [])
    shop.hasnt = [f for f in shop.hasnt if f != fact] + ([] if yes else [fact])
    shop.save(update_fields=["has", "hasnt"])
    return shop


KINDS = ("road", "vessel", "aircraft")
#: what the answer to "what do you spray with" says of the shop: what it has, and what it has not
SPRAYS: dict[str, tuple[tuple[str, ...], tuple[str, ...]]] = {
    "guns": (("spray_gun", "compressor"), ()),
    "cans": ((), ("spray_gun", "liner_gun")),
}


@transaction.atomic
def begin(owner: Member, *, works_on: Sequence[str], sprays: str | None, air_fed: bool | None) -> Shop:
    """The first three answers of a shop; None: not said, never a yes.  Raises Refused, NotPermitted."""
    _only_owner(owner)
    if any(k not in KINDS for k in works_on) or len(set(works_on)) != len(works_on):
        raise Refused.field("works_on", list(works_on), "each once, of " + ", ".join(KINDS))
    has, hasnt = SPRAYS[sprays] if sprays is not None else ((), ())
    told = dict.fromkeys(has, True) | dict.fromkeys(hasnt, False)
    if air_fed is not None:
        told["air_fed"] = air_fed
    for fact, yes in told.items():
        answer(owner, fact, yes)
    shop = hold_shop(owner.shop_id)
    shop.works_on = list(works_on)
    shop.save(update_fields=["works_on"])
    return shop


@transaction.atomic
def add_member(owner: Member, *, username: str, password: str, role: str) -> Member:
    """One more person, with a first password the owner tells them.  Raises Refused, NotPermitted."""
    _only_owner(owner)
    if role not in ROLES:
        raise Refused.field("role", role, "one of " + ", ".join(ROLES))
    return _member(owner.shop, username, password, role)


def _member(shop: Shop, username: str, password: str, role: str) -> Member:
    users = get_user_model().objects
    _check_name("username", username)
    if users.filter(username__iexact=username.strip()).exists():
        raise Refused.field("username", username, "This user name is taken.")
    user = users.model(username=username.strip())
    _check_password("password", password, user)
    user.set_password(password)
    user.save()
    return Member.objects.create(shop=shop, user=user, role=role)


@transaction.atomic
def set_role(owner: Member, username: str, role: str) -> Member:
    """What somebody may do from now on.  Raises NotPermitted, NotFound, Refused."""
    other = _other(owner, username)
    if role not in ROLES:
        raise Refused.field("role", role, "one of " + ", ".join(ROLES))
    other.role = role
    other.save(update_fields=["role"])
    return other


@transaction.atomic
def reset_password(owner: Member, username: str, password: str) -> Member:
    """A new first password for who forgot theirs: signs them out everywhere, and lets them try again.

    Raises NotPermitted, NotFound, Refused.
    """
    other = _other(owner, username)
    _check_password("password", password, other.user)
    other.user.set_password(password)
    other.user.save(update_fields=["password"])
    axes_reset(username=username)
    return other


@transaction.atomic
def remove_member(owner: Member, username: str) -> None:
    """Somebody who has left: cannot sign in any more; what they logged stays theirs.

    Raises NotPermitted, NotFound.
    """
    other = _other(owner, username)
    user = other.user
    other.delete()
    user.is_active = False
    user.set_unusable_password()
    user.save(update_fields=["is_active", "password"])


def _other(owner: Member, username: str) -> Member:
    """Somebody else of the owner's shop: so that there is always an owner left."""
    _only_owner(owner)
    if owner.user.get_username() == username:
        raise NotPermitted("An owner does not take that from themselves: another owner can.")
    other = Member.objects.filter(shop=owner.shop, user__username=username).select_related("user").first()
    if other is None:
        raise NotFound("No such person in this shop.")
    return other


def change_password(member: Member, *, old: str, new: str) -> None:
    """A person's own password.  Raises Refused."""
    if not member.user.check_password(old):
        raise Refused("Current password is wrong.", errors=[_error("old", "your password as it is now")])
    _check_password("new", new, member.user)
    member.user.set_password(new)
    member.user.save(update_fields=["password"])


def set_shop(owner: Member, draft: ShopDraft) -> Shop:
    """Change what a shop says of itself.  Raises Refused, NotPermitted."""
    _only_owner(owner)
    _check_name("name", draft.name)
    _check_zone(draft.time_zone)
    if draft.closes <= draft.opens:
        raise Refused.field("closes", str(draft.closes), f"a time after {draft.opens:%H:%M}")
    for name, low, high in (
        ("painters", 1, 50),
        ("guns", 1, 50),
        ("default_air_degc", -20, 50),
        ("default_rh_frac", 0.05, 1),
    ):
        value = getattr(draft, name)
        if not low <= value <= high:
            raise Refused.field(name, value, f"{low:g} to {high:g}")
    if not (len(draft.currency) == 3 and draft.currency.isascii() and draft.currency.isupper()):
        raise Refused.field("currency", draft.currency, "three-letter code such as EUR")
    for fact in (*draft.has, *draft.hasnt):
        if fact not in FACTS:
            raise Refused.field("has", fact, "of " + ", ".join(FACTS))
    both = sorted({*draft.has} & {*draft.hasnt})
    if both:
        raise Refused.field("hasnt", both[0], "yes or no, not both")
    limit = draft.voc_limit_g_per_l
    if limit is not None and not 0 < limit <= 1500:
        raise Refused.field("voc_limit_g_per_l", limit, "above 0, up to 1500 g/l, or empty")
    shop = owner.shop
    for name in ShopDraft.__dataclass_fields__:
        setattr(shop, name, getattr(draft, name))
    shop.save(update_fields=list(ShopDraft.__dataclass_fields__))
    return shop


def add_place(
    owner: Member, *, name: str, has_probe: bool, outdoors: bool, holds: int | None = None
) -> Place:
    """One more bay or yard, for so many objects at once (None: no limit).  Raises Refused, NotPermitted."""
    _only_owner(owner)
    _check_name("name", name)
    if Place.objects.filter(shop=owner.shop, name=name.strip()).exists():
        raise Refused.field("name", name, "This name is already used.")
    _check_holds(holds)
    return Place.objects.create(
        shop=owner.shop, name=name.strip(), has_probe=has_probe, outdoors=outdoors, holds=holds
    )


def change_place(owner: Member, place_id: UUID, changes: Mapping[str, Any]) -> Place:
    """Another name, how many objects stand there at once, or that nothing new is put there; the rest stays.

    Raises Refused, NotPermitted, NotFound.
    """
    _only_owner(owner)
    place = Place.objects.filter(shop=owner.shop, pk=place_id).first()
    if place is None:
        raise NotFound("No such place in this shop.")
    others = Place.objects.filter(shop=owner.shop).exclude(pk=place.pk)
    if "name" in changes:
        name = str(changes["name"] or "").strip()
        _check_name("name", name)
        if others.filter(name=name).exists():
            raise Refused.field("name", name, "This name is already used.")
        place.name = name
    if "holds" in changes:
        _check_holds(changes["holds"])
        place.holds = changes["holds"]
    if "retired" in changes:
        if changes["retired"] and not others.filter(retired=False).exists():
            raise Refused.field("retired", True, "one bay or location that is still in use besides this one")
        place.retired = bool(changes["retired"])
    place.save(update_fields=["name", "holds", "retired"])
    return place


def _check_holds(holds: int | None) -> None:
    if holds is not None and not 1 <= holds <= 100:
        raise Refused.field("holds", holds, "1 to 100, or empty for no limit")


def _only_owner(member: Member) -> None:
    if not member.is_owner:
        raise NotPermitted("Only the owner may change the shop.")


def _check_name(field: str, text: str) -> None:
    if not 1 <= len(text.strip()) <= 60:
        raise Refused.field(field, text, "1 to 60 letters")


def _check_zone(zone: str) -> None:
    if zone not in available_timezones():
        raise Refused.field("time_zone", zone, "a zone like Europe/London")


def _check_password(field: str, password: str, user: object) -> None:
    try:
        validate_password(password, user)  # type: ignore[arg-type]
    except ValidationError as bad:
        text = " ".join(bad.messages)
        raise Refused(text, errors=[_error(field, text)]) from None


def _error(field: str, expected: str) -> dict[str, object]:
    return {"field": field, "given": "", "expected": expected}
