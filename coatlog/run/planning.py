"""One plan for the shop: laid out anew after each entry, solved on asking, adopted by the job that asked.

A plan is made for all live jobs together.  Its order stands for the shop; the job it was asked for keeps
its share as a document, adopted by an entry in its own log: so a job stays whole when it is exported,
and nobody's log is written to by work on another job.
"""

from __future__ import annotations

import dataclasses
from dataclasses import dataclass

from django.db import transaction

from coatlog.core.codec import content_id, to_plain
from coatlog.core.plan.explain import changes
from coatlog.core.plan.layout import legal
from coatlog.core.plan.orders import cost
from coatlog.core.plan.plan import Plan, Wishes, slice_of
from coatlog.core.plan.problem import Problem
from coatlog.core.plan.remedies import WayOut, late, ways_out
from coatlog.core.plan.slots import SlotFor, ready_for
from coatlog.core.plan.solver import as_late, solve, stood
from coatlog.errors import NotPermitted, Refused
from coatlog.jobs.models import Job
from coatlog.shop import clock
from coatlog.shop.lock import hold_planner, hold_shop
from coatlog.shop.models import Member

from . import posting
from .models import PlanDoc, ShopPlan
from .plan_queue import full
from .reflow import FULL_S, MOST_S, SMALL_MOST_S, is_small, keep, laid_from_now, plans_as_of, with_lateness
from .shop_problem import Floor, floor_of

LIMIT_S = 2.0  # [s] a plan that is asked for may take
WAYS_MOST_S = 4.0  # [s] for ways out where there are many tasks

__all__ = ["WhatIf", "earliest_slot", "follow_dates", "mend", "move_task", "plan_shop", "ways_for", "what_if"]


def plan_shop(
    member: Member,
    wishes: Wishes | None = None,
    *,
    asked_for: Job,
    order: tuple[str, ...] | None = None,
    limit_s: float | None = None,
    reason: str = "asked for",
) -> Plan:
    """Solve the shop's plan; its order stands for the shop, and the job it was asked for adopts its share.

    One solve a shop, bounded in time.  Other jobs' logs are left alone.  With an `order` that one is
    laid out as it is.  Raises Refused when there is nothing to plan, NotPermitted for a viewer.
    """
    if not member.may_write:
        raise NotPermitted("A viewer can look, not plan.")
    now = clock.now()
    with transaction.atomic():
        hold_planner(member.shop_id)
        floor = floor_of(member.shop, now)
        wishes = dataclasses.replace(floor.wishes) if wishes is None else wishes
        p = floor.problem(wishes)
        if p is None or not _has_tasks(p, asked_for):
            raise Refused("Nothing left to schedule on this job.")
        within_s = limit_s if limit_s is not None else FULL_S if full(member.shop, now) else LIMIT_S
        plan = stood(order, p) if order is not None else _solved(floor, p, wishes, within_s)
        plan = with_lateness(dataclasses.replace(plan, wishes=_kept(plan, p, wishes)), p, floor)
        if full(member.shop, now):
            hold_shop(member.shop_id)  # only now: nobody's tap waits for what was looked for
            keep(floor, p, plan)
        _adopt(member, floor, p, plan, asked_for, reason)
    return plan


def _has_tasks(p: Problem, job: Job) -> bool:
    return any(t.job_id == str(job.pk) for t in p.tasks.values())


def _solved(floor: Floor, p: Problem, wishes: Wishes, limit_s: float) -> Plan:
    """The best plan found; where there are many tasks, from the order that stands and within the time."""
    if is_small(p):
        plan = solve(p, objective=wishes.objective, limit_s=limit_s, most_s=max(2 * limit_s, SMALL_MOST_S))
    else:
        known, _ = floor.order(p)
        plan = solve(p, objective=wishes.objective, limit_s=limit_s, known=known, most_s=max(limit_s, MOST_S))
    return as_late(p, plan) if wishes.backwards and plan.finish_at is not None else plan


def _kept(plan: Plan, p: Problem, wishes: Wishes) -> Wishes:
    """A plan begun later than it could be is held there, or the next reflow would pull it forward."""
    if not (wishes.backwards or wishes.objective == "waiting"):
        return wishes
    held = {t.key: t.start_at for t in plan.tasks if t.binding == "held" and t.key in p.tasks}
    return dataclasses.replace(wishes, held={**wishes.held, **held})


def _adopt(member: Member, floor: Floor, p: Problem, plan: Plan, job: Job, reason: str) -> None:
    """The order stands for the shop; the job's share is stored and adopted by an entry in its log."""
    ShopPlan.objects.update_or_create(
        shop=floor.shop,
        defaults={"order": list(plan.order), "wishes": to_plain(plan.wishes), "made_at": floor.now},
    )
    stand = next(s for s in floor.stands if s.job.pk == job.pk)
    keys = {k for k, t in p.tasks.items() if t.job_id == str(job.pk)}
    share = slice_of(plan, str(job.pk), keys)
    was = floor.adopted.get(str(job.pk))
    moved = [c.key for c in changes(was, share)] if was is not None else []
    share = dataclasses.replace(share, id=content_id(share))
    PlanDoc.objects.get_or_create(
        job=job,
        plan_id=share.id,
        defaults={"doc": to_plain(share), "log_seq": stand.state.through_seq, "made_at": floor.now},
    )
    body: dict[str, object] = {"plan_id": share.id, "reason": reason[:200], "changed": moved[:20]}
    posting.post(member, [posting.server_draft(job, "plan_adopted", body, floor.now)], sent_at=floor.now)


def mend(member: Member, job: Job) -> None:
    """After an entry that breaks a window or a deadline: another order by the list rules, if it helps.

    In a full shop nobody is kept waiting for that: the plan says what it cannot meet, and is made anew
    by who asks for it.
    """
    floor = floor_of(member.shop, clock.now())
    p = floor.problem()
    if p is None or not is_small(p) or not _has_tasks(p, job):
        return
    trial = _solved(floor, p, dataclasses.replace(floor.wishes, backwards=False), 0)
    if late(trial, p) < late(laid_from_now(floor, p), p):
        reason = "a window or a deadline would have been missed"
        plan_shop(member, asked_for=job, limit_s=0, reason=reason)


def follow_dates(member: Member, job: Job) -> None:
    """After a job's dates changed: an order by the list rules, where it is better than the one there was."""
    floor = floor_of(member.shop, clock.now())
    p = floor.problem()
    if p is None or not is_small(p) or not _has_tasks(p, job):
        return
    goal = floor.wishes.objective
    trial = _solved(floor, p, dataclasses.replace(floor.wishes, backwards=False), 0)
    if cost(trial, p, goal) < cost(laid_from_now(floor, p), p, goal):
        broken = late(laid_from_now(floor, p), p) > late(trial, p)
        reason = "a window or a deadline would have been missed" if broken else "dates changed"
        plan_shop(member, asked_for=job, limit_s=0, reason=reason)


def earliest_slot(
    member: Member, job: Job, slot_for: SlotFor, ready_at: int | None, parts_from: dict[str, int]
) -> int | None:
    """The earliest launch or hand-over of a job by the order that stands; None: nothing says."""
    floor = floor_of(member.shop, clock.now())
    stand = next((s for s in floor.stands if s.job.pk == job.pk), None)
    if stand is None:
        return None
    if full(member.shop, floor.now):
        stands = plans_as_of(member.shop, [stand.row], floor.now)[job.pk]
        return ready_for(stand.facts, stand.state, stand.airs, stands, slot_for)
    stand.job.slot_at, stand.job.ready_at, stand.job.parts_from = None, ready_at, parts_from
    p = floor.problem()
    plan = None if p is None else laid_from_now(floor, p)
    return ready_for(stand.facts, stand.state, stand.airs, plan, slot_for)


def move_task(member: Member, job: Job, key: str, at: int) -> Plan:
    """Put a planned task at another time; the others flow round it.

    Raises Refused with the reason when it cannot begin then, or when that would break a window.
    """
    floor = floor_of(member.shop, clock.now())
    p = floor.problem()
    if p is None or key not in p.tasks or p.tasks[key].job_id != str(job.pk):
        raise Refused("That task is no longer in the schedule.")
    if p.tasks[key].began_at is not None:
        raise Refused("The task is in progress and cannot be moved.")
    now_plan = laid_from_now(floor, p)
    starts = {t.key: t.start_at for t in now_plan.tasks if t.key in p.tasks}
    held = {k: v for k, v in floor.wishes.held.items() if k != key}
    if at > starts.get(key, 0):
        held[key] = at
    wishes = dataclasses.replace(floor.wishes, held=held)
    trial = floor.problem(wishes)
    assert trial is not None
    rest = sorted((k for k in trial.tasks if k != key), key=lambda k: starts.get(k, 2**60))
    i = next((i for i, k in enumerate(rest) if starts.get(k, 2**60) >= at), len(rest))
    order = legal((*rest[:i], key, *rest[i:]), trial.before())
    plan = stood(order, trial)
    placed = next((t for t in plan.tasks if t.key == key), None)
    if plan.finish_at is None or placed is None:
        raise Refused(f"Cannot move: {plan.conflict}.")
    if placed.start_at > at + 300:
        minutes = round((placed.start_at - at) / 60)
        raise Refused(
            f"Cannot move: {p.tasks[key].label} can begin {minutes} min later at the earliest, "
            f"{placed.binds.ref}."
        )
    if late(plan, trial) > late(now_plan, p):
        raise Refused(f"Cannot move: {with_lateness(plan, trial, floor).conflict}.")
    return plan_shop(member, wishes, asked_for=job, order=order, reason="moved by hand")


@dataclass(frozen=True, slots=True, kw_only=True)
class WhatIf:
    """A plan that might be, beside the one that is."""

    now: Plan
    then: Plan
    mixes_now: int
    mixes_then: int


def what_if(member: Member, wishes: Wishes, *, limit_s: float = 1.0) -> WhatIf:
    """Lay out or solve what might be, for the whole shop; nothing is stored."""
    floor = floor_of(member.shop, clock.now())
    p, trial = floor.problem(), floor.problem(wishes)
    if p is None or trial is None:
        raise Refused("Nothing is left to plan.")
    then = with_lateness(_solved(floor, trial, wishes, limit_s), trial, floor)
    now = laid_from_now(floor, p)
    return WhatIf(now=now, then=then, mixes_now=_mixes(now, p), mixes_then=_mixes(then, trial))


def _mixes(plan: Plan, p: Problem) -> int:
    return sum(p.pots[b.sheet_id].pace is not None for b in plan.batches)


def ways_for(member: Member, job: Job) -> tuple[WayOut, ...]:
    """Ways out of what the plan cannot meet, each tried on the whole shop."""
    floor = floor_of(member.shop, clock.now())
    p = floor.problem()
    if p is None:
        return ()

    def build(wishes: Wishes) -> Problem:
        built = floor.problem(wishes)
        assert built is not None
        return built

    most_s = None if is_small(p) else WAYS_MOST_S
    whole = {
        part.id: part.name
        for s in floor.stands
        for part in s.facts.parts
        if s.job.pk == job.pk
        and part.count == 1
        and not any(x.films for x in s.state.parts if x.part_id == part.id)
    }
    return ways_out(build, floor.wishes, laid_from_now(floor, p), most_s=most_s, whole=whole)
