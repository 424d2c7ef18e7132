"""The demo shop in the present: its windows last for hours, and by the next day all of them are missed.

Nothing anybody did is thrown away: only a demo nobody has touched is taken down, and a new one put up.
"""

from __future__ import annotations

from django.apps import apps
from django.db import connection, models, transaction

from coatlog.errors import Refused
from coatlog.shop.lock import hold_shop
from coatlog.shop.models import Member, Shop

from .estuary import PEOPLE, load_estuary

__all__ = ["LAPSES_S", "bring_to_present", "clear_left_behind", "has_lapsed"]

LAPSES_S = 2 * 3600
_OURS = ("shop", "shelf", "jobs", "logbook", "run")


def has_lapsed(shop: Shop, now: int) -> bool:
    """Whether it is a demo that nobody has touched, loaded too long ago to show anything going on."""
    untouched = shop.is_demo and shop.demo_seq == shop.entry_seq
    return untouched and shop.demo_at is not None and now - shop.demo_at > LAPSES_S


def bring_to_present(shop: Shop, now: int) -> Shop:
    """A new demo for the same people, in place of one that has lapsed.  Raises Refused."""
    with transaction.atomic():
        old = hold_shop(shop.pk)
        if not has_lapsed(old, now):
            raise Refused("Only a demo that nobody has worked in, and that has lapsed, is loaded anew.")
        names = [name for name, _ in PEOPLE]
        kept = dict(Member.objects.filter(shop=old).values_list("user__username", "preferences"))
        if set(kept) - set(names):
            raise Refused("Somebody else works in this demo: it stays as it is.")
        Member.objects.filter(shop=old).delete()
        new = load_estuary(now)
        for member in Member.objects.filter(shop=new).select_related("user"):
            member.preferences = kept.get(member.user.get_username(), {})
            member.save(update_fields=["preferences"])
    return new


def clear_left_behind() -> int:
    """Take down demos nobody belongs to any more; how many.  By the owner of the tables, or none are.

    The log's guard yields to no other; where the owner may not lift it either, they stay, unseen.
    """
    left = list(Shop.objects.filter(is_demo=True, members__isnull=True).values_list("pk", flat=True))
    if not left:
        return 0
    with connection.cursor() as cursor:
        cursor.execute("SELECT rolsuper FROM pg_roles WHERE rolname = session_user")
        (may,) = cursor.fetchone() or (False,)
    if not may:
        return 0
    with transaction.atomic(), connection.cursor() as cursor:
        cursor.execute("SELECT set_config('coatlog.clears_demo', 'on', true)")
        for path, model in sorted(_paths_to_shop(), key=lambda x: -x[0].count("__")):
            rows = model._base_manager.filter(**{f"{path}__in": left})
            rows._raw_delete(using=rows.db)
        Shop.objects.filter(pk__in=left)._raw_delete(using="default")
    return len(left)


def _paths_to_shop() -> list[tuple[str, type[models.Model]]]:
    """Each table that belongs to shops, with the way there: what hangs on it by a longer one goes first."""
    found: dict[type[models.Model], str] = {}
    ours = [m for m in apps.get_models() if m._meta.app_label in _OURS and m is not Shop]
    for _ in range(4):
        for model in ours:
            for field in model._meta.concrete_fields:
                of = field.related_model
                if model in found or not field.is_relation or not isinstance(of, type) or of is model:
                    continue
                if of is Shop:
                    found[model] = field.name
                elif of in found:
                    found[model] = f"{field.name}__{found[of]}"
    return [(path, model) for model, path in found.items()]
