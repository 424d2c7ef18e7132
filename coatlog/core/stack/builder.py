"""Legal stacks from a surface to a wanted finish, searched on the shelf, scored, with what was set aside."""

from __future__ import annotations

import itertools
from collections import Counter, defaultdict
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, replace

from ..sheet import Sheet, pick_recoat
from .findings import RULES, Finding, Stack, StackLayer, Survey
from .local import damaged, on_places
from .preps import Prep, prepared
from .rules import in_order, judge
from .step_sequence import between, first, spot, usual_layer, with_steps
from .surfaces import SUBSTRATES
from .usual import usual_rank
from .warrants import Warrant, ground_named, places, warrants

__all__ = [
    "Candidate",
    "Needs",
    "Rejected",
    "Suggestion",
    "cost_per_m2",
    "gives",
    "legal_stacks",
    "meets",
    "suggest",
]

MOST_LAYERS = 4
DAY_S = 86400
YEAR_S = 365 * DAY_S
FAR_BEHIND = 18.0  # assumed
#: what nobody gets who did not ask for it
UNASKED = frozenset(("texture", "grip", "antifouling", "reversible", "boot", "guard"))
MISS = 100.0  # more than any other marks together


@dataclass(frozen=True, slots=True, kw_only=True)
class Needs:
    """How long the finish must last and how soon it must be in use [s]; None: not asked."""

    life_s: int | None = None
    ready_s: int | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class Candidate:
    """A stack no rule stops: its way to a clean surface, its layers with their steps, and its marks.

    `ready_s`: from the first coat to use when each coat goes on as soon as it may, at the sheets' own
    temperatures [s].  `life_s`: what the finish is said to last, or what this shop's own lasted.
    `misses`: in words, what of the needs it does not meet.  `usual`: whether the trade usually goes this
    way.  `stack`: the layers on the surface as prepared.
    """

    path: tuple[Prep, ...]
    layers: tuple[StackLayer, ...]
    findings: tuple[Finding, ...]
    gives: tuple[str, ...]
    ready_s: int
    life_s: int | None
    lived: bool
    cost: float | None
    air_fed: bool
    misses: tuple[str, ...]
    usual: bool
    score: float
    stack: Stack

    @property
    def cost_a_year(self) -> float | None:
        """What its paint costs for a square metre and a year of the life it is said, or known, to have."""
        return None if self.cost is None or not self.life_s else self.cost * YEAR_S / self.life_s

    @property
    def warrants(self) -> tuple[Warrant, ...]:
        """Who vouches for what of it."""
        return warrants(self.stack)

    @property
    def top(self) -> str:
        """The material it ends with."""
        return self.layers[-1].sheet.material_id

    @property
    def warns(self) -> int:
        """How many warnings and pieces of advice stand against it."""
        return sum(f.severity != "stop" for f in self.findings)

    @property
    def key(self) -> tuple[str, ...]:
        """Preparations and materials, bottom up."""
        return (*(p.id for p in self.path), *(x.sheet.material_id for x in self.layers))


@dataclass(frozen=True, slots=True, kw_only=True)
class Rejected:
    """Why materials that would give the finish do not go on this surface by themselves."""

    rule_id: str
    why: str
    instead: str
    names: tuple[str, ...]


@dataclass(frozen=True, slots=True, kw_only=True)
class Suggestion:
    """The best few, how many were legal, what was set aside, and what the shelf lacks if none is."""

    best: tuple[Candidate, ...]
    legal: int
    rejected: tuple[Rejected, ...]
    missing: str = ""


def gives(layers: Sequence[StackLayer]) -> frozenset[str]:
    """What a stack is as a finish: what its last layer gives, and the colour seen through a clear one.

    It is clear only where every layer shows the ground.
    """
    if not layers:
        return frozenset()
    top = set(layers[-1].sheet.properties.gives)
    if "clear" in top and not all(_shows_ground(x.sheet) for x in layers):
        top.discard("clear")
        seen = next((x.sheet for x in reversed(layers) if not _shows_ground(x.sheet)), None)
        top |= {"colour"} & set(seen.properties.gives if seen is not None else ())
    return frozenset(top)


def meets(layers: Sequence[StackLayer], wanted: Sequence[str]) -> bool:
    """Whether a stack gives what is wanted, and nothing that nobody gets who did not ask for it."""
    has = gives(layers)
    return set(wanted) <= has and not has & UNASKED - set(wanted)


def _shows_ground(sheet: Sheet) -> bool:
    return "clear" in sheet.properties.gives if sheet.purpose is None else sheet.purpose.shows_ground


def legal_stacks(
    survey: Survey, shelf: Sequence[Sheet], wanted: Sequence[str], *, most_layers: int = MOST_LAYERS
) -> Iterator[tuple[tuple[Prep, ...], tuple[StackLayer, ...]]]:
    """Every stack of at most `most_layers` materials that no rule stops and that gives what is wanted.

    A beginning that a rule stops is not gone on with: only a rule of the finish can be silenced from
    above.  Nor is one that already is what is wanted, without a warning about it as a finish.
    """
    # A question nobody has answered yet hides no stack: it stands beside it, and stops the job.
    lasting = [r for r in RULES if r.severity == "stop" and not r.of_finish]
    of_finish = [r for r in RULES if r.of_finish and r.severity in ("stop", "warn")]
    usual = {s.id: usual_layer(s) for s in shelf}
    over = _followers(shelf)
    far = _far(shelf, over, wanted)
    for ground, path in prepared(survey.substrate, survey.features):
        at = survey.prepared_to(ground.id)

        def grown(laid: tuple[StackLayer, ...]) -> Iterator[tuple[StackLayer, ...]]:
            stack = Stack(at, laid)  # noqa: B023
            for i, r in enumerate(lasting):
                if any(not hit.asks for hit in r.broken_by(stack)):
                    lasting.insert(0, lasting.pop(i))  # what stopped one is asked first of the next
                    return
            if meets(laid, wanted):
                told = {r.severity for r in of_finish for _ in r.broken_by(stack)}
                if "stop" not in told:
                    yield laid
                if not told:
                    return
            if len(laid) == most_layers:
                return
            used = {x.sheet.material_id for x in laid}
            for sheet in over[laid[-1].sheet.id]:
                if sheet.material_id not in used and len(laid) + far[sheet.id] < most_layers:
                    below = laid
                    if len(laid) == 1 and spot(survey, at.substrate, laid[0].sheet):  # noqa: B023
                        below = (first(survey, path, laid[0], sheet),)  # noqa: B023
                    yield from grown((*below, between(laid[-1].sheet, usual[sheet.id])))

        bare = Stack(at, ())
        for sheet in shelf:
            # Where its sheet does not name the ground a rule stops it: nothing has to be laid down to know.
            if far[sheet.id] < most_layers and ground_named(bare, sheet):
                for laid in grown((first(survey, path, usual[sheet.id]),)):
                    yield path, laid


def _followers(shelf: Sequence[Sheet]) -> dict[str, list[Sheet]]:
    """What may follow each material within some window, by the id of its sheet, in the shelf's order."""
    families: dict[str, list[int]] = defaultdict(list)
    for n, s in enumerate(shelf):
        families[f"family:{s.properties.family}"].append(n)
    out = {}
    for a in shelf:
        named = {n for r in a.recoat for n in (range(len(shelf)) if r.next == "any" else families[r.next])}
        out[a.id] = [shelf[n] for n in sorted(named) if shelf[n].material_id != a.material_id]
    return out


def _far(
    shelf: Sequence[Sheet], over: Mapping[str, Sequence[Sheet]], wanted: Sequence[str]
) -> dict[str, int]:
    """How many layers at the least lie between a material and one that could be the finish."""
    asked = set(wanted)
    far: dict[str, int] = {}
    for s in shelf:
        own = set(s.properties.gives)
        if asked <= (own | {"colour"} if "clear" in own else own):
            far[s.id] = 0
    for n in range(1, MOST_LAYERS + 1):
        for s in shelf:
            if s.id not in far and any(far.get(b.id, n) < n for b in over[s.id]):
                far[s.id] = n
    return {s.id: far.get(s.id, MOST_LAYERS + 1) for s in shelf}


def suggest(
    survey: Survey,
    shelf: Sequence[Sheet],
    wanted: Sequence[str],
    *,
    few: int = 3,
    also: Sequence[Survey] = (),
    record: Mapping[str, int] | None = None,
    prices: Mapping[str, Mapping[str, float]] | None = None,
    needs: Needs | None = None,
) -> Suggestion:
    """The best `few` legal stacks, side by side.

    `also`: other parts of the job; the same layers must be legal on them, each prepared its own way.
    `record`: how long finishes of a material lasted here [s], by material id; it counts for more than
    what is claimed.  `prices`: by material and pack.  One that meets the `needs` always stands before
    one that does not; where none does, those are shown with what they miss.
    """
    # Spots in a part of which the others have none would be laid on those too.
    spots = damaged(survey) and all(damaged(other) for other in also)
    found = []
    for path, laid in legal_stacks(survey, shelf, wanted):
        layers = _on_places(survey, path, laid) if spots else laid
        if layers is not None:
            found.append(
                _candidate(survey, path, layers, wanted, record or {}, prices or {}, needs or Needs())
            )
    for other in also:
        legal = {tuple(x.sheet.material_id for x in laid) for _, laid in legal_stacks(other, shelf, wanted)}
        found = [c for c in found if _materials(c) in legal]
    plain = _needed(found)
    if "reversible" in wanted:
        # What is to come off again changes nothing of what is under it, where there is a way not to.
        plain = [c for c in plain if all(x.sheet.properties.peelable for x in c.layers)] or plain
    plain.sort(key=lambda c: (c.score, c.key))
    # Side by side stand stacks that differ in their finish; only then those that differ in their way.
    by_top: dict[object, Candidate] = {}
    for c in plain:
        top = c.layers[-1].sheet.properties
        by_top.setdefault((top.family, top.gives, top.metal), c)
    # One that is far behind the best is a curiosity, not a choice.
    firsts = [c for c in by_top.values() if c.score <= plain[0].score + FAR_BEHIND]
    plain = [c for c in plain if c.score <= plain[0].score + FAR_BEHIND]
    best = firsts[:few] + [c for c in plain if c not in firsts][: max(0, few - len(firsts))]
    if len(best) > 1 and len({c.path for c in best}) == 1:
        # Two schools of preparing are both shown where both are legal.
        another_way = next((c for c in plain if c.path != best[0].path), None)
        best = best if another_way is None else [*best[:-1], another_way]
    return Suggestion(
        best=tuple(sorted(best, key=lambda c: (c.score, c.key))),
        legal=len(found),
        rejected=_rejected(survey, shelf, wanted),
        missing="" if found else _missing(survey, shelf, wanted),
    )


def _on_places(
    survey: Survey, path: tuple[Prep, ...], laid: tuple[StackLayer, ...]
) -> tuple[StackLayer, ...] | None:
    """The layers with what lies on damaged places alone marked so, and the steps for that laid down."""
    layers = on_places(survey, path, laid)
    if layers is None or all(x.patches_m2 is None for x in layers):
        return layers
    return with_steps(survey, path, layers)


def _candidate(
    survey: Survey,
    path: tuple[Prep, ...],
    layers: tuple[StackLayer, ...],
    wanted: Sequence[str],
    record: Mapping[str, int],
    prices: Mapping[str, Mapping[str, float]],
    needs: Needs,
) -> Candidate:
    ground = path[-1].to if path else survey.substrate
    stack = Stack(survey.prepared_to(ground), layers)
    # No lasting stop speaks: it was searched for that. What may still speak is asked.
    speaking = [r for r in RULES if r.severity != "stop" or r.of_finish or r.asks]
    findings = in_order(f for r in speaking for f in r.findings(stack))
    top = layers[-1].sheet
    lived = record.get(top.material_id)
    life_s = lived if lived is not None else top.claim.life_s if top.claim else None
    ready_s = _ready_s(layers, immersed="immersion" in survey.must_survive)
    cost = cost_per_m2(layers, prices)
    air_fed = any(x.sheet.properties.needs_air_fed_mask for x in layers)
    misses = []
    if needs.life_s is not None and (life_s is None or life_s < needs.life_s):
        misses.append("life")
    if needs.ready_s is not None and ready_s > needs.ready_s:
        misses.append("time")
    score = _mark(stack, path, findings, wanted, life_s=life_s, ready_s=ready_s, cost=cost)
    return Candidate(
        path=path,
        layers=layers,
        findings=findings,
        gives=tuple(sorted(gives(layers))),
        ready_s=ready_s,
        life_s=life_s,
        lived=lived is not None,
        cost=cost,
        air_fed=air_fed,
        misses=tuple(misses),
        usual=usual_rank(stack.survey, layers, wanted) is not None,
        stack=stack,
        score=round(score + MISS * len(misses), 4),
    )


def _mark(
    stack: Stack,
    path: tuple[Prep, ...],
    findings: Sequence[Finding],
    wanted: Sequence[str],
    *,
    life_s: int | None,
    ready_s: int,
    cost: float | None,
) -> float:
    """How far a stack is from what a foreman would take first; the weights are assumed.

    In a closed space what is brushed comes before what is sprayed.  Then, in this order: what no sheet
    speaks of, the usual way of the trade, few layers, what is made for this place, how long it lasts, how
    soon it is in use, and what it costs.
    """
    sheets = [x.sheet for x in stack.layers]
    here = places(stack.survey)
    made = sum(bool(here & set(s.purpose.first_for)) for s in sheets if s.purpose is not None)
    other = sum(
        bool(s.purpose.first_for) and not here & set(s.purpose.first_for)
        for s in sheets
        if s.purpose is not None
    )
    usual = usual_rank(stack.survey, stack.layers, wanted)
    said = Counter(f.rule_id for f in findings)
    years = (life_s or 180 * DAY_S) / (365 * DAY_S)
    return (
        6.0 * said["exposure.unsaid"]
        + 20.0 * said["enclosed.sprayed"]
        + 2.0 * sum(f.severity == "warn" for f in findings)
        + 0.6 * sum(f.severity == "advise" for f in findings)
        + 1.5 * said["join.one_sided"]
        + (0.0 if usual is None else -14.0 + 3.0 * usual)
        + 2.0 * len(sheets)
        + 0.15 * sum(x.coats for x in stack.layers)
        - 2.0 * made / len(sheets)
        + 2.0 * other
        + 1.0 * ("matt" in gives(stack.layers) and not {"matt", "reversible"} & set(wanted))
        + 10.0 * _shows_strokes(stack, wanted)
        + 1.2 * any(s.properties.conducts for s in sheets)
        + 1.0 * any(s.properties.needs_air_fed_mask for s in sheets)
        + 0.25 * sum(len(p.steps) for p in path)
        + ready_s / DAY_S / 4
        - 1.25 * _doublings(years)
        + (0.0 if cost is None else cost / years / 20)
    )


def _shows_strokes(stack: Stack, wanted: Sequence[str]) -> bool:
    """Whether a finish that is to be glossy would show the brush, on what nobody brushes.

    A boat's topside is brushed and tipped, a gate too; a car's panel and a cowling are not.
    """
    brushed = stack.layers[-1].sheet.method_id in ("brush", "roller")
    return brushed and "gloss" in wanted and stack.survey.craft in ("road", "aircraft")


def _doublings(years: float) -> float:
    """How often a life of half a year is doubled, at most five times."""
    n = 0.0
    while years > 0.5 and n < 5:
        step = min(years / 0.5, 2.0) - 1.0
        years, n = years / 2, n + step
    return n


def _needed(found: Sequence[Candidate]) -> list[Candidate]:
    """Without those whose finish stands on fewer of the same layers, with no more warnings and no more done
    to the surface.

    What the trade usually does stays, also where less would be vouched for.
    """
    alike: dict[str, list[tuple[tuple[Prep, ...], int, tuple[str, ...]]]] = defaultdict(list)
    for c in found:
        alike[c.top].append((c.path, c.warns, _materials(c)))

    def within(short: tuple[str, ...], long: tuple[str, ...]) -> bool:
        rest = iter(long)
        return all(x in rest for x in short)

    out = []
    for c in found:
        warns, materials = c.warns, _materials(c)
        if c.usual or not any(
            len(m) < len(materials) and w <= warns and p == c.path[: len(p)] and within(m, materials)
            for p, w, m in alike[c.top]
        ):
            out.append(c)
    return out


def _materials(c: Candidate) -> tuple[str, ...]:
    return tuple(x.sheet.material_id for x in c.layers)


def _ready_s(layers: Sequence[StackLayer], *, immersed: bool) -> int:
    """Waits between all coats and until use, at the temperatures the sheets name [s].

    What lies in water waits for the gate that lets it in, or for full cure where its sheet has none.
    """
    coats = [x.sheet for x in layers for _ in range(x.coats)]
    out = 0
    for lower, upper in itertools.pairwise(coats):
        recoat = pick_recoat(lower, upper)
        out += recoat.windows[0].from_s if recoat is not None else 0
    for gate in ("immerse_from", "full") if immersed else ("immerse_from", "use", "handle", "full"):
        points = coats[-1].points_for(gate)
        if points:
            return out + min(s for _, s in points)
    return out


def cost_per_m2(layers: Sequence[StackLayer], prices: Mapping[str, Mapping[str, float]]) -> float | None:
    """What the paint of one square metre costs, losses and spots left out; None where a price is missing."""
    out = 0.0
    for x in layers:
        if x.patches_m2 is not None:
            continue
        each = [
            prices.get(x.sheet.material_id, {})[p.name] / p.makes_ml
            for p in x.sheet.packs
            if p.name in prices.get(x.sheet.material_id, {})
        ]
        if not each:
            return None
        solids = sum(c.parts * c.solids_frac for c in x.sheet.components) / sum(
            c.parts for c in x.sheet.components
        )
        if x.sheet.coverage is not None:
            ml = x.coats * 1000 / x.sheet.coverage.m2_per_l
        else:
            ml = (x.target_um or 0.0) / max(solids, 0.01)
        out += min(each) * ml
    return out


def _rejected(survey: Survey, shelf: Sequence[Sheet], wanted: Sequence[str]) -> tuple[Rejected, ...]:
    """Materials that give what is wanted, straight on the surface as found, by the rule that stops them."""
    # Each material's own reason: two that a rule stops for different reasons are told apart.
    names: dict[tuple[str, str, str], list[str]] = defaultdict(list)
    for sheet in shelf:
        if not set(wanted) & set(sheet.properties.gives):
            continue
        stops = [f for f in judge(survey, [usual_layer(sheet)]) if f.severity == "stop"]
        if stops:
            names[stops[0].rule_id, stops[0].why, stops[0].instead].append(sheet.name)
    ordered = sorted(names.items(), key=lambda kv: (-len(kv[1]), kv[0]))
    return tuple(
        Rejected(rule_id=rule_id, why=why, instead=instead, names=tuple(sorted(v)))
        for (rule_id, why, instead), v in ordered
    )


def _missing(survey: Survey, shelf: Sequence[Sheet], wanted: Sequence[str]) -> str:
    """What the shelf lacks, in words."""
    finishes = [s for s in shelf if set(wanted) <= gives([usual_layer(s)])]
    over_base = any("clear" in s.properties.gives for s in shelf) and "colour" in wanted
    asked = ", ".join(wanted)
    if not finishes and not over_base:
        return f"No material you have gives {asked}."
    ground = SUBSTRATES[survey.substrate]
    # What lacks least says most: the material with the fewest words against it speaks.
    stops = sorted(
        (f for f in (_stops_of(survey, s) for s in finishes) if f),
        key=lambda f: (len(f), f[0].rule_id.endswith("unvouched")),
    )
    first = stops[0][0] if stops else None
    if first is not None and first.rule_id == "bare_metal.rated" and "clear" in wanted:
        # Nothing that hides the metal would help.
        first = replace(first, instead="Leave it bare: clean, polish and wax it.")
    told = f" {first.why} {first.instead}" if first is not None else ""
    return f"Nothing you have leads from {ground.name} to {asked}.{told}"


def _stops_of(survey: Survey, sheet: Sheet) -> list[Finding]:
    return [f for f in judge(survey, [usual_layer(sheet)]) if f.severity == "stop"]
