"""What may lie in water, and on what."""

from __future__ import annotations

from collections.abc import Iterator

from ...sheet import Sheet
from ..findings import Hit, Stack, rule
from ..surfaces import FERROUS


@rule(
    "copper.metal",
    "stop",
    overrule="never",
    why="Copper in water eats the metal, or the carbon drives the copper's own corrosion.",
    instead="Use an antifouling without copper metal or cuprous oxide there.",
)
def copper_on_active_metal(s: Stack) -> Iterator[Hit]:
    active = s.ground.metal in ("aluminium", "zinc", "magnesium") or s.ground.id == "carbon_fibre"
    for i, sheet in s.sheets():
        if sheet.properties.metal == "copper" and (active or s.hull_metal == "aluminium"):
            yield Hit(i, f"{sheet.name} on {s.ground.name}.")


BARRIER_UM = 200.0  # sound old epoxy of so much film bars; common practice, no published source


@rule(
    "copper.primer",
    "warn",
    overrule="sheet",
    why="Over bare gelcoat or laminate it lets water through to the fibre, and holds less well.",
    instead="Two coats of epoxy barrier first, keyed or while tacky.",
)
def copper_epoxy_wants_epoxy(s: Stack) -> Iterator[Hit]:
    epoxy = s.ground.group != "plastic"
    for i, sheet in s.sheets():
        p = sheet.properties
        if not epoxy and p.metal == "copper" and p.two_pack and p.antifouling == "hard":
            yield Hit(i, f"{sheet.name} on {s.ground.name} without epoxy between.")
        epoxy = epoxy or p.barrier or (p.resin == "epoxy" and "seals" in p.gives)


@rule(
    "copper.hull_unknown",
    "warn",
    why="Nobody said what lies under the old antifouling, and copper eats aluminium.",
    instead="Say what the hull is made of; a magnet tells steel, a scratch under the paint tells the rest.",
)
def copper_over_unknown_hull(s: Stack) -> Iterator[Hit]:
    told = any(f.startswith("under_") for f in s.survey.features)
    for i, sheet in s.sheets():
        if s.ground.antifouling and not told and sheet.properties.metal == "copper":
            yield Hit(i, f"{sheet.name} over {s.ground.name}, hull not told.")


@rule(
    "copper.barrier",
    "stop",
    overrule="sheet",
    why="Where copper touches steel or cast iron under water the iron corrodes.",
    instead="Put an unbroken epoxy barrier between them.",
)
def copper_needs_barrier(s: Stack) -> Iterator[Hit]:
    barrier = s.ground.coat == "epoxy" and (s.survey.there_um or 0.0) >= BARRIER_UM
    for i, sheet in s.sheets():
        on_steel = s.ground.metal in FERROUS or s.hull_metal == "steel"
        if sheet.properties.metal == "copper" and on_steel and not barrier:
            yield Hit(i, f"{sheet.name} over steel or iron without a barrier.")
            return
        barrier = barrier or sheet.properties.barrier


@rule(
    "copper.ferrous",
    "warn",
    overrule="sheet",
    why="One scratch through the barrier, and copper eats the iron under it.",
    instead="Take an antifouling without metallic copper on steel and cast iron, over its tie coat.",
)
def metallic_copper_over_iron(s: Stack) -> Iterator[Hit]:
    for i, sheet in s.sheets():
        p, iron = sheet.properties, s.ground.metal in FERROUS or s.hull_metal == "steel"
        if iron and p.metal == "copper" and p.two_pack:
            yield Hit(i, f"{sheet.name} on steel or iron.")


@rule(
    "antifouling.over_old",
    "stop",
    why="What lies under it wears away or lets go, and takes the new coat along.",
    instead="Strip it, or put the sealer the sheet names between them.",
)
def antifouling_over_old(s: Stack) -> Iterator[Hit]:
    for sheet in s.first():
        p, old = sheet.properties, s.ground.antifouling
        # Only a sealer made for it and a kind that wears away with it may lie on what is soft or unknown.
        soft = old in ("unknown", "eroding")
        hard_over_unknown = soft and p.antifouling != "eroding" and not p.seals_antifouling
        copper_over_any = p.metal == "copper" and p.antifouling == "hard" and p.two_pack and old
        if hard_over_unknown and not copper_over_any:
            yield Hit(0, f"{sheet.name} straight on {s.ground.name}.")
    for i, sheet in s.sheets():
        p = sheet.properties
        if s.ground.antifouling and p.metal == "copper" and p.antifouling == "hard" and p.two_pack:
            yield Hit(i, f"{sheet.name} over {s.ground.name}.", instead="Strip it to sound gelcoat or epoxy.")
    for i, lower, upper in s.joins():
        if upper.properties.antifouling == "hard" and lower.properties.antifouling == "eroding":
            yield Hit(i, f"{upper.name} over {lower.name}.")


@rule(
    "silicone.foul_release",
    "stop",
    why="Nothing adheres to silicone; silicone needs its own tie coat.",
    instead="Strip it to sound epoxy, or stay with its own kind; new silicone goes on its tie coat.",
)
def silicone_apart(s: Stack) -> Iterator[Hit]:
    for sheet in s.first():
        if s.ground.antifouling == "silicone" and sheet.properties.antifouling != "silicone":
            yield Hit(0, f"{sheet.name} straight on {s.ground.name}.")


@rule(
    "thiocyanate.aluminium",
    "warn",
    why="Thiocyanate eats aluminium where the barrier is broken.",
    instead="Keep the epoxy barrier whole: look for scratches before every launch.",
)
def thiocyanate_on_aluminium(s: Stack) -> Iterator[Hit]:
    aluminium = s.ground.metal == "aluminium" or s.hull_metal == "aluminium"
    for i, sheet in s.sheets():
        if sheet.properties.thiocyanate and aluminium:
            yield Hit(i, f"{sheet.name} on an aluminium hull.")


GEAR: dict[str, tuple[str, str, str]] = {
    "anode": (
        "an anode",
        "Paint on an anode stops it working, and what it protects corrodes.",
        "Mask it and say so, or renew it after the hull is done.",
    ),
    "transducer": (
        "a transducer",
        "A film blinds a transducer, and solvent attacks its face.",
        "Mask it and say so; only what its maker names goes on it, thin.",
    ),
    "propeller": (
        "a propeller",
        "Antifouling is thrown off a propeller, and copper on it drives corrosion.",
        "Mask it and say so, or use the primer and coating made for propellers.",
    ),
    "shaft": (
        "a shaft",
        "Antifouling is thrown off a shaft.",
        "Mask it and say so, or use the primer and coating made for shafts.",
    ),
    "sail_drive": (
        "a sail drive or outboard leg",
        "It is aluminium: copper eats it, and what is not made for it flakes off.",
        "Mask it and say so, or use the coating made for drives, or a barrier and copper-free antifouling.",
    ),
}


@rule("anode.own", "stop", why="It takes its own kind or nothing.", instead="Mask it and say so.")
def nothing_on_the_gear(s: Stack) -> Iterator[Hit]:
    features = s.survey.features
    if "gear_masked" in features:
        return
    for gear, (name, why, instead) in GEAR.items():
        if gear not in features:
            continue
        for i, sheet in s.sheets():
            if not _goes_there(gear, sheet):
                yield Hit(i, f"{sheet.name} on {name}.", why, instead)


def _goes_there(gear: str, sheet: Sheet) -> bool:
    if gear in ("anode", "transducer"):
        return False
    made = sheet.purpose is not None and "gear" in sheet.purpose.used_on
    quiet = sheet.role in ("primer", "tie", "antifouling") and sheet.properties.metal == "none"
    return made or (gear == "sail_drive" and quiet)
