"""Who writes for a shop waits for who writes before them: two locks, always in this order.

The planner's first, which is held while an order is looked for; then the shop's row, which is held
while the log grows and what is projected from it is written.  Both end with the transaction.
"""

from __future__ import annotations

from uuid import UUID

from django.db import connection

from .models import Shop

__all__ = ["hold_planner", "hold_shop"]


def hold_planner(shop_id: UUID) -> None:
    """One plan at a time for a shop.  Inside a transaction, before `hold_shop`."""
    with connection.cursor() as cursor:
        cursor.execute("SELECT pg_advisory_xact_lock(hashtext(%s))", [f"solve {shop_id}"])


def hold_shop(shop_id: UUID) -> Shop:
    """The shop, with its log and its projections to oneself.  Inside a transaction."""
    return Shop.objects.select_for_update().get(pk=shop_id)
