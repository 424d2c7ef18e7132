"""Frozen facts read back, with the step lists kept beside those from before facts carried any.

Facts are named by the hash of their content and never change, so what was read once is kept in memory.
"""

from __future__ import annotations

from collections import OrderedDict
from collections.abc import Iterable
from dataclasses import replace
from typing import Any
from uuid import UUID

from django.db.models import QuerySet

from coatlog.core.codec import from_stored, to_plain
from coatlog.core.run.facts import Facts, PartSteps, step_lists

from .models import FactsDoc, Job, StepListDoc

__all__ = ["facts_of", "freeze_step_lists", "latest_facts", "read_facts"]

MOST_KEPT = 256
_kept: OrderedDict[tuple[UUID, str], Facts] = OrderedDict()


def read_facts(docs: QuerySet[FactsDoc]) -> dict[tuple[UUID, str], Facts]:
    """Facts by (job, facts id), in the order of the query."""
    keys = list(docs.values_list("job_id", "facts_id"))
    unread = [k for k in keys if k not in _kept]
    if unread:
        ids, jobs = {f for _, f in unread}, {j for j, _ in unread}
        rows = FactsDoc.objects.filter(job__in=jobs, facts_id__in=ids).values_list(
            "job_id", "facts_id", "doc"
        )
        fresh = {(job, facts_id): from_stored(Facts, doc) for job, facts_id, doc in rows}
        bare = [k for k, f in fresh.items() if not f.steps]
        if bare:
            lists = StepListDoc.objects.filter(job__in={j for j, _ in bare})
            for job, facts_id, doc in lists.values_list("job_id", "facts_id", "doc"):
                if (job, facts_id) in fresh:
                    steps = tuple(from_stored(PartSteps, x) for x in doc)
                    fresh[job, facts_id] = replace(fresh[job, facts_id], steps=steps)
        _kept.update(fresh)
        while len(_kept) > max(MOST_KEPT, 2 * len(keys)):
            _kept.popitem(last=False)
    return {k: _kept[k] for k in keys}


def facts_of(job: Job) -> dict[str, Facts]:
    """Every version of a job's facts, by id."""
    return {facts_id: f for (_, facts_id), f in read_facts(FactsDoc.objects.filter(job=job)).items()}


def latest_facts(job: Job) -> Facts:
    """The newest version of a job's facts."""
    (facts,) = read_facts(FactsDoc.objects.filter(job=job).order_by("-version")[:1]).values()
    return facts


def freeze_step_lists(job: Job, facts: Iterable[Facts]) -> None:
    """Keep the step lists of facts that carry none, as they stand now, each step named by its place.

    Ticks of that time name a step so.  Facts from before are met in two ways: where a shop's database
    is brought up to date, and where a job exported then is taken in.
    """
    bare = [f for f in facts if not f.steps]
    StepListDoc.objects.bulk_create(StepListDoc(job=job, facts_id=f.id, doc=plain_lists(f)) for f in bare)


def plain_lists(facts: Facts) -> list[Any]:
    """The step lists of facts as they stand now, as plain data."""
    plain: list[Any] = to_plain(step_lists(facts, by_place=True))
    return plain
