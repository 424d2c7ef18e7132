"""A list a page at a time: it says how much there is, and never stops silently."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from django.core.paginator import Page, Paginator
from django.db.models import QuerySet
from ninja import Schema
from pydantic import Field

__all__ = ["PageQuery", "Paged", "cut", "paged"]

A_PAGE = 50


class PageQuery(Schema):
    """`page` from 1."""

    page: int = Field(default=1, ge=1, le=1_000_000)


class Paged(Schema):
    """Which page of how many this is, and how many there are of it in all."""

    page: int
    pages: int
    of: int


def cut(rows: Sequence[Any] | QuerySet[Any], q: PageQuery) -> Page[Any]:
    """One page of rows or of a query; past the last page, the last one."""
    return Paginator(rows, A_PAGE).get_page(q.page)


def paged(shown: Page[Any]) -> dict[str, int]:
    """The fields of Paged."""
    return {"page": shown.number, "pages": shown.paginator.num_pages, "of": shown.paginator.count}
