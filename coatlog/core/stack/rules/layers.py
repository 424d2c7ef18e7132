"""What may lie on what: solvent, softness, key, peelable films, order and cure."""

from __future__ import annotations

from collections.abc import Iterator

from ...sheet import Sheet, pick_recoat
from ...why import Why
from ..findings import Hit, Stack, rule
from ..step_catalogue import STEPS
from ..step_sequence import SOLVENT_STEPS
from ..warrants import ground_named
from .words import on, over

BARS_UM = 15.0  # assumed: thinner than this no film bars solvent
_STRENGTH = ("none", "mild", "strong")


# Solvent, softness, what nothing holds on -----------------------------------------------------------


def _swells(sheet: Sheet) -> bool:
    return sheet.properties.solvent == "strong" or sheet.properties.two_pack


def _bars(sheet: Sheet) -> bool:
    """Whether a film is thick and shut enough to keep solvent from what lies under it."""
    shut = {"seals", "primed"} & set(sheet.properties.gives)
    return bool(shut) and sheet.film is not None and sheet.film.dry_um_min >= BARS_UM


@rule(
    "solvent.lifts",
    "stop",
    why="Its solvent attacks the soft layer below: lifting and wrinkling.",
    instead="Strip the soft layer or isolate it with an approved barrier coat.",
)
def strong_over_soft(s: Stack) -> Iterator[Hit]:
    for sheet in s.first():
        if s.ground.lifts and _swells(sheet):
            yield Hit(0, on(s, sheet))
    for i, sheet in s.sheets():
        barred = any(_bars(x.sheet) for x in s.layers[:i])
        if i and s.ground.lifts and _swells(sheet) and not barred:
            yield Hit(i, f"{sheet.name} over {s.ground.name} with nothing that bars it.")
    for i, lower, upper in s.joins():
        attack = _STRENGTH.index(upper.properties.solvent)
        recoat = pick_recoat(lower, upper)
        named = recoat is not None and recoat.next != "any"  # its own sheet allows just this
        if attack > _STRENGTH.index(lower.properties.resists) and not named:
            yield Hit(i, over(lower, upper))


@rule(
    "plastic.crazes",
    "stop",
    overrule="sheet",
    why="Hot solvent crazes this plastic; the cracks show and weaken it.",
    instead="Use a water-borne or mild-solvent coat, and try it inside first.",
)
def hot_solvent_on_plastic(s: Stack) -> Iterator[Hit]:
    for sheet in s.first():
        if s.ground.crazes and sheet.properties.solvent == "strong":
            yield Hit(0, on(s, sheet))


@rule(
    "plastic.wiped",
    "stop",
    overrule="sheet",
    why="Solvent and alcohol craze acrylic and polycarbonate: the cracks come hours later.",
    instead="Wash it with mild soap, rinse with a wet towel, dry with a soft one.",
)
def solvent_wiped_on_acrylic(s: Stack) -> Iterator[Hit]:
    for i, steps in s.steps():
        for d in steps:
            if i == 0 and s.ground.id == "acrylic" and d.step in SOLVENT_STEPS:
                yield Hit(i, f"{STEPS[d.step].name.capitalize()} on {s.ground.name}.")
                return


@rule(
    "plastic.promoter",
    "stop",
    overrule="sheet",
    why="Paint does not adhere to bare PP/TPO.",
    instead="Put an adhesion promoter first, and coat inside its own window.",
)
def low_energy_needs_promoter(s: Stack) -> Iterator[Hit]:
    for sheet in s.first():
        if s.ground.low_energy and not ground_named(s, sheet):
            yield Hit(0, on(s, sheet))


@rule(
    "flexible.system",
    "warn",
    why="The part bends and the film does not: it cracks.",
    instead="Use a material made flexible, or the additive its sheet names.",
)
def flexible_part(s: Stack) -> Iterator[Hit]:
    stretched = s.ground.flexible or "stretch" in s.must_survive
    for i, sheet in s.sheets():
        if stretched and sheet.build == "film" and not sheet.properties.flexible:
            yield Hit(i, f"{sheet.name} on a part that flexes.")


@rule(
    "repels.covered",
    "stop",
    why="It is made so that nothing sticks to it.",
    instead="Strip it, prove it by a water-break test, then coat.",
)
def nothing_over_what_repels(s: Stack) -> Iterator[Hit]:
    for sheet in s.first():
        if s.ground.repels:
            yield Hit(0, on(s, sheet))
    for i, lower, upper in s.joins():
        if lower.properties.repels and lower.properties.family != upper.properties.family:
            yield Hit(i, over(lower, upper))


@rule(
    "bitumen.bleeds",
    "stop",
    why="Bitumen bleeds brown through anything else and stays soft under it.",
    instead="Keep to bitumen, or take it off to the metal.",
)
def bitumen_under_other(s: Stack) -> Iterator[Hit]:
    for sheet in s.first():
        if s.ground.bitumen and not sheet.properties.bitumen:
            yield Hit(0, on(s, sheet))
    for i, lower, upper in s.joins():
        if lower.properties.bitumen and not upper.properties.bitumen:
            yield Hit(i, over(lower, upper))


@rule(
    "ground.loose",
    "stop",
    why="A coating is only as good as what is under it.",
    instead="Take the loose paint off, feather the edges and key what stays.",
)
def over_loose_paint(s: Stack) -> Iterator[Hit]:
    for sheet in s.first():
        if s.ground.loose:
            yield Hit(0, on(s, sheet))


@rule(
    "gloss.unkeyed",
    "stop",
    overrule="sheet",
    why="No mechanical key: coatings peel from a glossy surface.",
    instead="Sand until dull. Only peelable coatings go on gloss.",
)
def gloss_without_key(s: Stack) -> Iterator[Hit]:
    for sheet in s.first():
        loose_by_design = sheet.properties.peelable or sheet.build != "film"
        if s.ground.glossy and not loose_by_design:
            yield Hit(0, on(s, sheet))


# Peelable films -------------------------------------------------------------------------------------


@rule(
    "peelable.covered",
    "stop",
    why="A film made to come off takes everything on it along.",
    instead="Peel it first, or stay within its own system.",
)
def nothing_foreign_over_peelable(s: Stack) -> Iterator[Hit]:
    for i, lower, upper in s.joins():
        if lower.properties.peelable and lower.properties.family != upper.properties.family:
            yield Hit(i, over(lower, upper))


@rule(
    "peelable.ground",
    "stop",
    why="It will not peel cleanly there or will pull off the paint below.",
    instead="Only over sound, fully cured paint, chrome or smooth plastic.",
)
def peelable_on_wrong_ground(s: Stack) -> Iterator[Hit]:
    g = s.ground
    for sheet in s.first():
        bad = g.fresh or g.loose or g.lifts or g.porous or g.low_energy or g.group in ("rubber", "fabric")
        if sheet.properties.peelable and bad:
            yield Hit(0, on(s, sheet))


@rule(
    "film.peel",
    "warn",
    instead="Add coats, most at the edges, or accept that it comes off in shreds.",
)
def too_thin_to_peel(s: Stack) -> Iterator[Hit]:
    for i, x in enumerate(s.layers):
        least = x.sheet.properties.peel_film_um
        if least is not None and x.target_um is not None and x.target_um < least:
            yield Hit(
                i,
                f"{x.target_um:.0f} µm of {x.sheet.name}.",
                f"Below {least:.0f} µm it will not peel off in one piece.",
            )


# Order and cure -------------------------------------------------------------------------------------


@rule(
    "cure.first",
    "stop",
    overrule="sheet",
    why="Trapped solvent: the film stays soft or will not peel.",
    instead="Wait for its full cure.",
)
def wants_cured_ground(s: Stack) -> Iterator[Hit]:
    for sheet in s.first():
        if s.ground.fresh and sheet.properties.wants_cured_ground:
            yield Hit(0, on(s, sheet))
    for i, lower, upper in s.joins():
        same = lower.properties.family == upper.properties.family
        recoat, full = pick_recoat(lower, upper), lower.points_for("full")
        early = recoat is not None and recoat.windows[0].from_s < min(t for _, t in full)
        if upper.properties.wants_cured_ground and not same and early:
            yield Hit(i, over(lower, upper) + " It may go on before that is fully cured.")


@rule(
    "base.uncovered",
    "stop",
    of_finish=True,
    why="It has no durability without a clear coat.",
    instead="Put a clear over it inside its window.",
)
def base_without_clear(s: Stack) -> Iterator[Hit]:
    for i, sheet in s.top():
        if sheet.properties.needs_cover and "colour" in sheet.properties.gives:
            yield Hit(i, f"{sheet.name} as the finish.")


@rule(
    "recoat.silent",
    "stop",
    overrule="sheet",
    instead="Pick a material the sheet names, or enter what the can's own sheet says.",
)
def sheet_speaks_of_next(s: Stack) -> Iterator[Hit]:
    for i, lower, upper in s.joins():
        if pick_recoat(lower, upper) is None:
            why = f"The data sheet of {lower.name} gives no recoat time for it."
            yield Hit(i, over(lower, upper), why, source=Why(kind="sheet", ref=lower.name))


@rule("film.coats", "stop", overrule="sheet")
def coats_within_sheet(s: Stack) -> Iterator[Hit]:
    for i, x in enumerate(s.layers):
        least, most = x.sheet.coats_range
        if not least <= x.coats <= most:
            wants = f"{most} exactly" if least == most else f"{least} to {most}"
            yield Hit(
                i,
                f"{x.coats} {'coat' if x.coats == 1 else 'coats'} of {x.sheet.name}.",
                f"The sheet says {wants}.",
                f"Plan {wants}.",
                Why(kind="sheet", ref=x.sheet.name),
            )


@rule("film.per_coat", "stop", overrule="sheet", instead="Change the number of coats or the film.")
def film_within_sheet(s: Stack) -> Iterator[Hit]:
    for i, x in enumerate(s.layers):
        film = x.sheet.film
        if film is None or x.target_um is None:
            continue
        each = x.target_um / x.coats
        if x.target_um > film.total_max_um or not film.dry_um_min <= each <= film.dry_um_max:
            yield Hit(
                i,
                f"{x.target_um:.0f} µm of {x.sheet.name} in {x.coats} coats, {each:.0f} µm each.",
                f"The sheet allows {film.dry_um_min:.0f} to {film.dry_um_max:.0f} µm a coat, "
                f"{film.total_max_um:.0f} µm in all.",
                source=Why(kind="sheet", ref=x.sheet.name),
            )
