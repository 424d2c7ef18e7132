"""The demo shop, loaded once a process and then copied back table by table for most browser tests."""

from __future__ import annotations

from django.db import connection, transaction

from coatlog.demo.estuary import load_estuary
from coatlog.run import reflow
from coatlog.shop.models import Shop

__all__ = ["estuary"]

_rows: dict[tuple[int, bool], dict[str, bytes]] = {}


def estuary(now: int, *, whole: bool = True) -> Shop:
    """The demo shop as it is at `now` [epoch s], into empty tables.  `whole`: see load_estuary."""
    reflow._again.clear()  # what another test made of the same shop
    kept = _rows.get((now, whole))
    if kept is None:
        shop = load_estuary(now, whole=whole)
        _rows[now, whole] = _copied_out()
        return shop
    with transaction.atomic(), connection.cursor() as cursor:
        for table, rows in kept.items():
            with cursor.cursor.copy(f'COPY "{table}" FROM STDIN') as copy:
                copy.write(rows)
        for sql in connection.ops.sequence_reset_sql(_Plain(), _models(kept)):
            cursor.execute(sql)
    return Shop.objects.get()


class _Plain:
    """No colours in SQL."""

    def __getattr__(self, name: str) -> object:
        return lambda text: text


def _models(tables: dict[str, bytes]) -> list[type]:
    return list(connection.introspection.installed_models(tables))


def _copied_out() -> dict[str, bytes]:
    out: dict[str, bytes] = {}
    with connection.cursor() as cursor:
        for table in connection.introspection.django_table_names(only_existing=True):
            with cursor.cursor.copy(f'COPY "{table}" TO STDOUT') as copy:
                rows = b"".join(bytes(x) for x in copy)
            if rows and table not in ("django_migrations", "django_content_type", "auth_permission"):
                out[table] = rows
    return out
