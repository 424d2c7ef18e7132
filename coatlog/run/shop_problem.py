"""The shop floor: every live job's tasks as one problem, and the plan adopted for them."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from uuid import UUID

from coatlog.core.climate import Limits
from coatlog.core.codec import from_plain, from_stored
from coatlog.core.plan.build_problem import Room, problem
from coatlog.core.plan.orders import put_in
from coatlog.core.plan.plan import SIDE_KINDS, Plan, Wishes
from coatlog.core.plan.problem import Problem, merge
from coatlog.core.plan.rights import Person
from coatlog.core.plan.scenario import crew_for, wished
from coatlog.core.run.facts import Facts, as_decided, as_placed
from coatlog.core.run.states import JobState
from coatlog.core.run.task_key import read_key
from coatlog.core.run.timeline import Climate, Reading, Timeline
from coatlog.jobs.frozen_facts import read_facts
from coatlog.jobs.models import FactsDoc, Job
from coatlog.logbook.models import LogEntry
from coatlog.logbook.readings import climate_of
from coatlog.shop.crew import people_of
from coatlog.shop.hours import open_intervals
from coatlog.shop.models import Place, Shop

from .models import JobProjection, PlanDoc, ShopPlan
from .weather_windows import fit_intervals

__all__ = ["Floor", "Stand", "floor_of"]

GUNS = ("spray_gun", "liner_gun")
BACK_S = 2 * 86400
PLANNED_DAYS = 60  # a full shop plans weeks ahead; beyond it the hours are taken as not known


@dataclass(frozen=True, slots=True)
class Stand:
    """One live job as it stands: its row, facts and state, and the air of each part."""

    job: Job
    row: JobProjection
    facts: Facts
    state: JobState
    airs: dict[str, Timeline]


@dataclass(frozen=True, slots=True)
class Floor:
    """All live jobs of a shop at an instant, or one of them.

    `people`: who is named for the plan.  `adopted` plans by job; `standing`: the order of the whole shop as
    planned last, and its `wishes`.
    """

    shop: Shop
    now: int
    stands: tuple[Stand, ...]
    adopted: dict[str, Plan]
    wishes: Wishes
    rooms: dict[str, Room]
    standing: tuple[str, ...] = ()
    people: tuple[Person, ...] = ()

    def problem(self, wishes: Wishes | None = None, *, only: Job | None = None) -> Problem | None:
        """What is still to do, as one problem with the wishes applied; None with nothing to do."""
        wishes = self.wishes if wishes is None else wishes
        hours = open_intervals(self.shop, self.now, days=PLANNED_DAYS)
        people = crew_for(self.people, wishes, hours)
        parts = [
            problem(
                s.facts,
                s.state,
                s.airs,
                now=self.now,
                hours=hours,
                painters=len(people) or (self.shop.painters if wishes.painters is None else wishes.painters),
                people=people,
                rooms=self.rooms,
                units=dict.fromkeys(GUNS, self.shop.guns),
                due_at=s.job.due_at,
                ready_at=s.job.ready_at,
                slot_at=s.job.slot_at,
                slot_for=s.job.slot_for,  # type: ignore[arg-type]
                parts_from=s.job.parts_from,
                keyed=wishes.keyed,
            )
            for s in self._apart()
            if only is None or s.job.pk == only.pk
        ]
        if not any(p.tasks for p in parts):
            return None
        return wished(merge(parts), wishes)

    def _apart(self) -> list[Stand]:
        """The jobs, without those whose parts go by the ids of another's: a job taken in twice."""
        seen: set[str] = set()
        out = []
        for s in self.stands:
            ids = {p.id for p in s.facts.parts}
            if not ids & seen:
                out.append(s)
            seen |= ids
        return out

    def lead_s(self, p: Problem) -> dict[str, int]:
        """Time to mix, set up and put on each coat, by task key [s]."""
        facts = {part.id: s.facts for s in self.stands for part in s.facts.parts}
        return {
            k: facts[t.part_id].lead_s(facts[t.part_id].layer(key.layer_id))
            for k, t in p.tasks.items()
            if t.kind == "coat" and (key := read_key(k)) is not None
        }

    def order(self, p: Problem) -> tuple[tuple[str, ...], bool]:
        """The standing order of what is left, what it does not know put in; whether there was any of that.

        Where no order of the shop stands (a job taken in, a database from before), the adopted plans
        are put together: those made together say each task's place in the order of all, others only
        when it begins.
        """
        known = [k for k in self.standing if k in p.tasks] or self._adopted_order(p)
        return put_in(known, p), len(known) < len(p.tasks)

    def _adopted_order(self, p: Problem) -> list[str]:
        plans = [x for x in self.adopted.values() if any(t.key in p.tasks for t in x.tasks)]
        together = len({plan.made_at for plan in plans}) == 1 and all(plan.ranks for plan in plans)
        places: dict[str, int] = {}
        for plan in plans:
            places |= plan.ranks if together else {}
            for t in plan.tasks:
                if t.kind not in SIDE_KINDS:
                    places.setdefault(t.key, t.start_at)
        return sorted((k for k in p.tasks if k in places), key=lambda k: places[k])


def floor_of(shop: Shop, now: int, *, only: Job | None = None, touched_by: int | None = None) -> Floor:
    """Load a shop's live jobs, or one of them, in a handful of queries, however many there are.

    `touched_by`: those alone on which something lies already, or is planned to begin before it [epoch s].
    """
    wanted_rows = JobProjection.objects.filter(JobProjection.live_q(now), job__shop=shop)
    if only is not None:
        wanted_rows = wanted_rows.filter(job=only)
    rows = list(
        wanted_rows.select_related("job__asset", "job__place", "job__shop").order_by(
            "job__created_at", "job_id"
        )
    )
    if touched_by is not None:
        rows = [r for r in rows if _touched(r, touched_by)]
    states = {r.job_id: from_stored(JobState, r.state) for r in rows}
    wanted = {s.facts_id for s in states.values() if s.facts_id}
    facts = read_facts(FactsDoc.objects.filter(job__in=[r.job_id for r in rows], facts_id__in=wanted))
    rows = [r for r in rows if (r.job_id, states[r.job_id].facts_id) in facts]
    places = {p.place_id for f in facts.values() for p in f.parts}
    places |= {p.place_id for s in states.values() for p in s.parts}
    began = [f.started_at for s in states.values() for p in s.parts for f in p.films if f.done_at is None]
    climate = climate_of(shop, places, since=min([now, *began]) - BACK_S)
    hand = _hand_readings([r.job_id for r in rows])
    stands = []
    shared: dict[str, Timeline] = {}
    for r in rows:
        state = states[r.job_id]
        its_facts = as_decided(facts[r.job_id, state.facts_id or ""], state.coats)
        its_facts = as_placed(its_facts, {p.part_id: p.place_id for p in state.parts})
        applied = {x.entry_id for x in state.ledger if x.outcome == "applied"}
        own = [(place, reading) for e, place, reading in hand.get(r.job_id, []) if e in applied]
        airs = {p.id: _air(climate, p.place_id, p.id, own, shared) for p in its_facts.parts if not p.retired}
        for p in state.parts:
            if p.heat_degc is not None and p.part_id in airs:
                airs[p.part_id] = airs[p.part_id].heated(now, p.heat_degc, p.heat_until_at)
        stands.append(Stand(r.job, r, its_facts, state, airs))
    adopted = _adopted(states)
    rooms = _rooms(shop, stands, places, now)
    plan = ShopPlan.objects.filter(shop=shop).first()
    people = people_of(shop, now, days=PLANNED_DAYS)
    wishes = _wishes(adopted) if plan is None else from_plain(Wishes, plan.wishes)
    order = () if plan is None else tuple(plan.order)
    return Floor(shop, now, tuple(stands), adopted, wishes, rooms, order, people)


def _touched(row: JobProjection, by_at: int) -> bool:
    """Read off the row as it is stored: of forty jobs few are, and to build all states takes longest."""
    begun = any(part.get("films") for part in row.state.get("parts", ()))
    return begun or any(t["start_at"] < by_at for t in (row.plan or {}).get("tasks", ()))


def _air(
    climate: Climate,
    place: str,
    part: str,
    own: Sequence[tuple[str, Reading]],
    shared: dict[str, Timeline],
) -> Timeline:
    """The air of a part; parts of one place that nobody read by hand share theirs."""
    readings = [r for at, r in own if at == place]
    if readings:
        return Timeline(climate, place, part, readings)
    if place not in shared:
        shared[place] = Timeline(climate, place, None, ())
    return shared[place]


def _hand_readings(jobs: Sequence[UUID]) -> dict[UUID | None, list[tuple[str, str, Reading]]]:
    """Readings by hand of these jobs: (entry, place, reading)."""
    out: dict[UUID | None, list[tuple[str, str, Reading]]] = {}
    for e in LogEntry.objects.filter(job__in=jobs, kind="climate_read"):
        reading = Reading(
            at=e.at_true,
            air_degc=e.body["air_degc"],
            surface_degc=e.body.get("surface_degc"),
            rh_frac=e.body["rh_frac"],
            source="hand",
            part_id=e.body.get("part_id"),
        )
        out.setdefault(e.job_id, []).append((str(e.entry_id), e.body["place_id"], reading))
    return out


def _adopted(states: dict[UUID, JobState]) -> dict[str, Plan]:
    ids = {s.plan_id for s in states.values() if s.plan_id}
    docs = PlanDoc.objects.filter(job__in=list(states), plan_id__in=ids)
    return {str(d.job_id): from_stored(Plan, d.doc) for d in docs if states[d.job_id].plan_id == d.plan_id}


def _wishes(adopted: dict[str, Plan]) -> Wishes:
    """Wishes of the plan adopted last; what was moved by hand counts from all of them."""
    if not adopted:
        return Wishes()
    newest = max(adopted.values(), key=lambda p: (p.made_at, p.id))
    held = {k: at for p in adopted.values() for k, at in p.wishes.held.items()}
    keyed = tuple(dict.fromkeys(k for p in adopted.values() for k in p.wishes.keyed))
    return replace(newest.wishes, held=held, keyed=keyed)


def _rooms(shop: Shop, stands: Sequence[Stand], places: set[str], now: int) -> dict[str, Room]:
    out = {}
    for place in Place.objects.filter(shop=shop, pk__in=places).select_related("shop"):
        weather = None
        if place.outdoors:
            weather = fit_intervals(place, now, _strictest(str(place.pk), stands))
        out[str(place.pk)] = Room(name=place.name, holds=place.holds, weather=weather)
    return out


def _strictest(place: str, stands: Sequence[Stand]) -> Limits:
    """Limits that suit every material of the work in a place."""
    limits = [
        s.facts.sheets[x.sheet_id].limits
        for s in stands
        for x in s.facts.layers
        if s.facts.part(x.part_id).place_id == place
    ] or [Limits()]
    return Limits(
        surface_min_degc=max(x.surface_min_degc for x in limits),
        surface_max_degc=min(x.surface_max_degc for x in limits),
        rh_max_frac=min(x.rh_max_frac for x in limits),
        dew_margin_k=max(x.dew_margin_k for x in limits),
    )
