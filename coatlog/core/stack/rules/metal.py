"""What may lie on bare metal, and what acid does to what comes after it."""

from __future__ import annotations

from collections.abc import Iterator

from ..findings import Hit, Stack, rule
from ..surfaces import FERROUS, HEATS, RUSTS
from ..warrants import ground_named
from .words import on, over


@rule(
    "bare_metal.rated",
    "stop",
    overrule="sheet",
    why="It is not rated for that metal: no bond, and water creeps under the film.",
    instead="Put a primer rated for the metal first, an epoxy primer for one.",
)
def bare_metal_needs_rated_coat(s: Stack) -> Iterator[Hit]:
    for sheet in s.first():
        if s.ground.metal and not s.ground.waste and not ground_named(s, sheet):
            yield Hit(0, on(s, sheet))


@rule(
    "galvanised.alkyd",
    "stop",
    overrule="sheet",
    why="Alkyds saponify on zinc and delaminate.",
    instead="Degrease and use a primer rated for zinc, or a clear film.",
)
def alkyd_on_zinc(s: Stack) -> Iterator[Hit]:
    for sheet in s.first():
        zinc = s.ground.metal == "zinc" or s.ground.zinc_dust
        if zinc and sheet.properties.resin == "alkyd":
            yield Hit(0, on(s, sheet))
    for i, lower, upper in s.joins():
        if lower.properties.metal == "zinc" and upper.properties.resin == "alkyd":
            yield Hit(i, over(lower, upper))


@rule(
    "metals.dissimilar",
    "stop",
    overrule="sheet",
    why="Two metals that touch in the wet are a battery: the baser one is eaten.",
    instead="Keep an unbroken film without metal between them, an epoxy primer for one.",
)
def metal_in_the_film_on_another(s: Stack) -> Iterator[Hit]:
    """Zinc on stainless, flake of aluminium on magnesium or copper alloys; copper is spoken of for itself."""
    for sheet in s.first():
        p = sheet.properties
        zinc = p.metal == "zinc" and s.ground.metal in ("stainless", "bronze", "magnesium", "titanium")
        flake = p.conducts and p.metal == "none" and s.ground.metal in ("magnesium", "bronze", "zinc")
        if zinc or flake:
            yield Hit(0, on(s, sheet))


@rule(
    "zinc.hot_stainless",
    "stop",
    overrule="never",
    why="Molten zinc creeps into stainless steel and it cracks under load.",
    instead="No zinc in any film on stainless steel that gets hot.",
)
def zinc_on_hot_stainless(s: Stack) -> Iterator[Hit]:
    hot = any(HEATS.get(x, 0.0) >= 300 for x in s.must_survive)
    for i, sheet in s.sheets():
        if hot and s.ground.metal == "stainless" and sheet.properties.metal == "zinc":
            yield Hit(i, on(s, sheet))


@rule(
    "bare_metal.clock",
    "advise",
    why="Bare metal starts to oxidise at once: 4 h after abrading is the limit, 2 h for aluminium by salt.",
    instead="Abrade only what you can prime within 4 h; past it abrade again.",
)
def bare_metal_clock(s: Stack) -> Iterator[Hit]:
    for sheet in s.first():
        if s.ground.metal in RUSTS and not s.ground.rust:
            yield Hit(0, f"{sheet.name} goes on within 4 h of abrading.")


@rule(
    "polyester.over_acid",
    "stop",
    why="Acid left in the etch keeps the polyester from curing: it stays soft and lifts.",
    instead="Fill on keyed metal or over epoxy, and etch only the bare spots afterwards.",
)
def polyester_over_acid(s: Stack) -> Iterator[Hit]:
    for sheet in s.first():
        if s.ground.etched and sheet.properties.resin == "polyester":
            yield Hit(0, on(s, sheet))
    for i, lower, upper in s.joins():
        if lower.properties.acid and upper.properties.resin == "polyester":
            yield Hit(i, over(lower, upper))


@rule(
    "epoxy.over_acid",
    "stop",
    why="Residual acid stops the epoxy curing.",
    instead="Leave the etch out: epoxy holds on keyed metal by itself.",
)
def epoxy_over_fresh_acid(s: Stack) -> Iterator[Hit]:
    for sheet in s.first():
        if s.ground.etched and sheet.properties.resin == "epoxy":
            yield Hit(0, on(s, sheet))
    for i, lower, upper in s.joins():
        if lower.properties.acid and upper.properties.resin == "epoxy":
            yield Hit(i, over(lower, upper))


@rule(
    "acid.no_metal",
    "stop",
    overrule="sheet",
    why="Etch primer only bonds to bare metal.",
    instead="Spot it on bare metal only; key and prime the rest.",
)
def acid_needs_metal(s: Stack) -> Iterator[Hit]:
    for sheet in s.first():
        if sheet.properties.acid and not s.ground.metal and not s.survey.bare_mm:
            yield Hit(0, on(s, sheet))


@rule(
    "metal.unsealed",
    "advise",
    why="It is not a moisture barrier: corrosion starts at every chip.",
    instead="Put an epoxy primer on the metal.",
)
def metal_not_sealed(s: Stack) -> Iterator[Hit]:
    wet = {"rain", "stones", "immersion"} & set(s.must_survive)
    sealed = any("seals" in x.sheet.properties.gives or x.sheet.properties.barrier for x in s.layers)
    for sheet in s.first():
        if s.ground.metal in (*RUSTS, "zinc", "magnesium") and wet and not sealed:
            yield Hit(0, on(s, sheet))


@rule(
    "edges.stripe",
    "advise",
    why="Wet paint pulls away from edges.",
    instead="Put a stripe coat on edges, welds and fasteners before each full coat.",
)
def stripe_the_edges(s: Stack) -> Iterator[Hit]:
    for sheet in s.first():
        if s.ground.metal and sheet.build == "film" and "immersion" not in s.must_survive:
            yield Hit(0, f"{sheet.name} is thin on edges.")


@rule(
    "edges.stripe_immersed",
    "warn",
    why="Under water the thin film on an edge is where rust starts.",
    instead="Stripe edges, welds and fasteners by brush before each full coat.",
)
def stripe_immersed_steel(s: Stack) -> Iterator[Hit]:
    for sheet in s.first():
        steel = s.ground.metal in FERROUS or s.hull_metal == "steel"
        striped = any(d.step == "stripe" for d in s.layers[0].before or ())
        if steel and "immersion" in s.must_survive and not striped:
            yield Hit(0, f"{sheet.name} is thin on edges that lie in water.")
