"""Ways out of what cannot be met: each tried, those that help told, the cheapest first."""

from __future__ import annotations

import itertools
import time
from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass, field, replace

from ..codec import LATER
from ..drying import Pace
from .orders import lateness_s, put_in
from .plan import Plan, Wishes
from .problem import Problem
from .sections import in_sections, too_long
from .solver import solve

__all__ = ["WayOut", "late", "ways_out"]

STAY_S = (1800, 3600, 7200)
MOST_KEYED = 4
MORE_SECTIONS = 6  # so many more than the longest coat alone asks for are tried


@dataclass(frozen=True, slots=True, kw_only=True)
class WayOut:
    """Something to do instead: in words, as wishes of a plan, and when all is done then.

    `cut_part_id`, `cut_into`: it is not a wish: the survey is cut into so many sections.
    """

    text: str
    wishes: Wishes
    finish_at: int
    late_s: int
    cut_part_id: str = field(default="", metadata=LATER)
    cut_into: int = field(default=0, metadata=LATER)


def late(plan: Plan, p: Problem) -> int:
    """What a plan leaves undone or late, as one number: 0 when everything can be met."""
    planned = {t.key for t in plan.tasks}
    return sum(k not in planned for k in p.tasks) * 10**7 + lateness_s(plan, p)


def ways_out(
    build: Callable[[Wishes], Problem],
    wishes: Wishes,
    plan: Plan,
    *,
    most_s: float | None = None,
    whole: Mapping[str, str] | None = None,
) -> tuple[WayOut, ...]:
    """What would make a plan meet more than `plan` does; laid out by the list rules.

    `build` answers the problem with wishes applied.  `most_s`: when to stop looking [s]; each way is
    then tried by the plan's own order first.  `whole`: names of the parts, by id, that can still be cut.
    """
    until = None if most_s is None else time.monotonic() + most_s

    def tried(p: Problem, w: Wishes) -> Plan:
        if until is None:
            return solve(p, objective=w.objective, limit_s=0)
        left_s = max(0.0, until - time.monotonic()) / 4
        return solve(p, objective=w.objective, limit_s=0, known=put_in(plan.order, p), most_s=left_s)

    now = late(plan, build(wishes))
    if now == 0:
        return ()
    out: list[tuple[int, WayOut]] = []
    for part_id, least in too_long(build(wishes), whole or {}).items():
        for n in range(least, least + MORE_SECTIONS):
            p = in_sections(build(wishes), part_id, n)
            trial = tried(p, wishes)
            still = late(trial, p)
            if trial.finish_at is None or still >= now:
                continue
            name = (whole or {})[part_id]
            text = f"Cut {name} into {n} sections that meet at a line, each worked by itself"
            late_s = lateness_s(trial, p)
            way = WayOut(text=text, wishes=wishes, finish_at=trial.finish_at, late_s=late_s)
            out.append((still, replace(way, cut_part_id=part_id, cut_into=n)))
            if not still:
                break
    for text, wish in itertools.chain(_keyed(build, wishes, plan, tried), _candidates(build(wishes), wishes)):
        if until is not None and time.monotonic() >= until:
            break
        p = build(wish)
        trial = tried(p, wish)
        still = late(trial, p)
        if trial.finish_at is None or still >= now:
            continue
        way = WayOut(text=text, wishes=wish, finish_at=trial.finish_at, late_s=lateness_s(trial, p))
        out.append((still, way))
        if still and not wish.keyed:
            # It helps and does not do: what then misses its window is sanded once more.
            for more, keyed in _keyed(build, wish, trial, tried):
                again = tried(build(keyed), keyed)
                left = late(again, build(keyed))
                if again.finish_at is not None and left < still:
                    both = f"{text}, and: {more}"
                    late_s = lateness_s(again, build(keyed))
                    out.append(
                        (
                            left,
                            replace(way, text=both, wishes=keyed, finish_at=again.finish_at, late_s=late_s),
                        )
                    )
    return tuple(w for _, w in sorted(out, key=lambda x: (x[0], x[1].late_s, x[1].finish_at)))[:4]


def _keyed(
    build: Callable[[Wishes], Problem], w: Wishes, plan: Plan, tried: Callable[[Problem, Wishes], Plan]
) -> Iterator[tuple[str, Wishes]]:
    """Windows let pass, the coat below abraded and wiped; where that loses the next one, that too."""
    labels: list[str] = []
    for _ in range(MOST_KEYED):
        p = build(w)
        coats = [k for c in plan.conflicts for k in c.keys[-1:] if k in p.tasks and p.tasks[k].kind == "coat"]
        more = [k for k in coats if k not in w.keyed]
        if not more:
            return
        w = replace(w, keyed=(*w.keyed, more[0]))
        labels.append(p.tasks[more[0]].label)
        yield f"Sand and wipe again before {' and '.join(labels)}", w
        plan = tried(build(w), w)


def _candidates(p: Problem, w: Wishes) -> Iterator[tuple[str, Wishes]]:
    for stay in STAY_S:
        yield f"Work {stay // 60} min longer", replace(w, stay_s=w.stay_s + stay, leave_at=None)
    yield "One more painter", replace(w, painters=p.painters + 1)
    for more in (2, 3):
        yield f"{more} more painters", replace(w, painters=p.painters + more)
    if w.hardener == "sheet":
        yield "Use fast hardener (assumed 75 % of drying time)", replace(w, hardener="fast")
        yield "Use slow hardener (assumed 130 % of drying time)", replace(w, hardener="slow")
    if w.thinner == "sheet" and p.thinned:
        yield "Use fast thinner (assumed 80 % of the wait between coats)", replace(w, thinner="fast")
        yield "Use slow thinner (assumed 130 % of the wait between coats)", replace(w, thinner="slow")
    if not w.airflow and any(
        isinstance(e, Pace) and e.law == "water" for x in p.links for pair in x.windows for e in pair
    ):
        yield (
            "Move air over water-borne coats once they are on (assumed 70 % of the wait)",
            replace(w, airflow=True),
        )
    if w.warm_degc is None and p.airs:
        yield "Heat the bay to 25 °C", replace(w, warm_degc=25.0)
    if w.held:
        yield "Discard manual changes", replace(w, held={})
