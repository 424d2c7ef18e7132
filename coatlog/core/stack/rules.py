"""What may lie on what.  Each rule is a prohibition with a reason and a way out.

Rules read typed properties of sheets, never a name.  Source of all of them unless named: common
practice, no published source; a data sheet that says otherwise wins.
"""

from __future__ import annotations

import itertools
from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass
from typing import Literal

from ..run.facts import pick_recoat
from ..sheet import Sheet
from ..why import Why

__all__ = ["BARE_METALS", "Finding", "StackLayer", "judge"]

BARE_METALS = ("bare_steel", "bare_aluminium", "galvanised")
SUBSTRATES = {
    "bare_steel": "bare steel",
    "bare_aluminium": "bare aluminium",
    "galvanised": "galvanised steel",
    "sound_paint": "sound old paint, keyed",
    "glass_fibre": "glass-fibre laminate",
}
PRACTICE = Why(kind="practice", ref="common practice, no published source")


@dataclass(frozen=True, slots=True, kw_only=True)
class StackLayer:
    """A layer as the rules see it."""

    sheet: Sheet
    coats: int
    target_um: float | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class Finding:
    """What a rule has to say: what, why, what to do instead."""

    rule_id: str
    severity: Literal["stop", "warn", "advise"]
    position: int
    what: str
    why: str
    instead: str
    overrule: Literal["reason", "sheet", "never"] = "reason"
    source: Why = PRACTICE


Rule = Callable[[str, Sequence[StackLayer]], Iterator[Finding]]


def judge(substrate: str, layers: Sequence[StackLayer]) -> tuple[Finding, ...]:
    """All findings on a stack, from the substrate up."""
    found = [f for rule in RULES for f in rule(substrate, layers)]
    return tuple(sorted(found, key=lambda f: (f.severity != "stop", f.position, f.rule_id)))


def bare_metal_needs_rated_coat(substrate: str, layers: Sequence[StackLayer]) -> Iterator[Finding]:
    if substrate not in BARE_METALS or not layers:
        return
    first = layers[0].sheet
    if substrate not in first.properties.rated_for:
        metal = SUBSTRATES[substrate]
        yield Finding(
            rule_id="bare_metal.rated",
            severity="stop",
            position=0,
            what=f"{first.name} straight on {metal}.",
            why="It is not rated for that metal: no bond, and water creeps under the film.",
            instead="Put a primer rated for the metal first, an epoxy primer for one.",
            overrule="sheet",
        )


def polyester_over_acid(substrate: str, layers: Sequence[StackLayer]) -> Iterator[Finding]:
    for i, (lower, upper) in enumerate(itertools.pairwise(layers), 1):
        if lower.sheet.properties.acid and upper.sheet.properties.resin == "polyester":
            yield Finding(
                rule_id="polyester.over_acid",
                severity="stop",
                position=i,
                what=f"{upper.sheet.name} over {lower.sheet.name}.",
                why="Acid left in the etch keeps the polyester from curing: it stays soft and lifts.",
                instead="Fill on keyed metal or over epoxy, and etch only the bare spots afterwards.",
            )


def epoxy_over_fresh_acid(substrate: str, layers: Sequence[StackLayer]) -> Iterator[Finding]:
    for i, (lower, upper) in enumerate(itertools.pairwise(layers), 1):
        if lower.sheet.properties.acid and upper.sheet.properties.resin == "epoxy":
            yield Finding(
                rule_id="epoxy.over_acid",
                severity="stop",
                position=i,
                what=f"{upper.sheet.name} over {lower.sheet.name}.",
                why="Acid eats the amine that should cure the epoxy.",
                instead="Leave the etch out: epoxy holds on keyed metal by itself.",
            )


def nothing_foreign_over_peelable(substrate: str, layers: Sequence[StackLayer]) -> Iterator[Finding]:
    for i, (lower, upper) in enumerate(itertools.pairwise(layers), 1):
        same = lower.sheet.properties.family == upper.sheet.properties.family
        if lower.sheet.properties.peelable and not same:
            yield Finding(
                rule_id="peelable.covered",
                severity="stop",
                position=i,
                what=f"{upper.sheet.name} over {lower.sheet.name}.",
                why="A film made to come off takes everything on it along.",
                instead="Peel it first, or stay within its own system.",
            )


def sheet_speaks_of_next(substrate: str, layers: Sequence[StackLayer]) -> Iterator[Finding]:
    for i, (lower, upper) in enumerate(itertools.pairwise(layers), 1):
        if pick_recoat(lower.sheet, upper.sheet) is None:
            yield Finding(
                rule_id="recoat.silent",
                severity="stop",
                position=i,
                what=f"{upper.sheet.name} over {lower.sheet.name}.",
                why=f"The sheet of {lower.sheet.name} gives no recoat time for it.",
                instead="Pick a material the sheet names, or enter what the can's own sheet says.",
                overrule="sheet",
                source=Why(kind="sheet", ref=lower.sheet.name),
            )


def film_within_sheet(substrate: str, layers: Sequence[StackLayer]) -> Iterator[Finding]:
    for i, x in enumerate(layers):
        film = x.sheet.film
        if x.coats > film.coats_max:
            yield Finding(
                rule_id="film.coats",
                severity="stop",
                position=i,
                what=f"{x.coats} coats of {x.sheet.name}.",
                why=f"The sheet stops at {film.coats_max}.",
                instead=f"Plan {film.coats_max} coats or fewer.",
                overrule="sheet",
                source=Why(kind="sheet", ref=x.sheet.name),
            )
        if x.target_um is None:
            continue
        per_coat = x.target_um / x.coats
        if x.target_um > film.total_max_um or not film.dry_um_min <= per_coat <= film.dry_um_max:
            yield Finding(
                rule_id="film.per_coat",
                severity="stop",
                position=i,
                what=f"{x.target_um:.0f} µm of {x.sheet.name} in {x.coats} coats, {per_coat:.0f} µm each.",
                why=(
                    f"The sheet allows {film.dry_um_min:.0f} to {film.dry_um_max:.0f} µm a coat, "
                    f"{film.total_max_um:.0f} µm in all."
                ),
                instead="Change the number of coats or the film.",
                overrule="sheet",
                source=Why(kind="sheet", ref=x.sheet.name),
            )


RULES: tuple[Rule, ...] = (
    bare_metal_needs_rated_coat,
    polyester_over_acid,
    epoxy_over_fresh_acid,
    nothing_foreign_over_peelable,
    sheet_speaks_of_next,
    film_within_sheet,
)
