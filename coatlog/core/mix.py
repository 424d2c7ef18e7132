"""Ratios into cups: volumes, cumulative marks and scale readings, errors, pot life.

By volume and by mass are different ratios; each component says which it is.  Tint is counted on
the base alone and stands outside the ratio.  All volumes ml, all masses g.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

from .errors import OutOfRange, Underspecified, require
from .sheet import Component, PotPoint
from .why import Figure, Why, computed

__all__ = [
    "Cup",
    "Pour",
    "cup_for_component",
    "cup_for_total",
    "limiting_component",
    "mixed_solids",
    "pot_life",
    "pot_points",
    "ratio_error_frac",
    "smallest_batch_ml",
    "voc_g_per_l",
]


@dataclass(frozen=True, slots=True, kw_only=True)
class Pour:
    """One pour: its own amount and where the cup and the tared scale then stand."""

    role: str
    name: str
    ml: float
    g: float
    mark_ml: float
    scale_g: float
    share: str


@dataclass(frozen=True, slots=True, kw_only=True)
class Cup:
    """A mix in pouring order.  `solids_frac` is of the cup as it stands, thinner included."""

    pours: tuple[Pour, ...]
    total_ml: float
    total_g: float
    solids_frac: float
    ratio: str
    why: Why

    def pour(self, role: str) -> Pour:
        """The pour of a role.  Raises Underspecified when the mix has none."""
        for p in self.pours:
            if p.role == role:
                return p
        raise Underspecified("role", role, "one of " + ", ".join(p.role for p in self.pours))


def cup_for_total(components: Sequence[Component], total_ml: float, *, tint_frac: float | None = None) -> Cup:
    """Amounts for a whole mix of `total_ml` (everything in the cup).

    `tint_frac` replaces the sheet's share of tint; 0 leaves it out.  Raises OutOfRange,
    Underspecified.
    """
    require(0 < total_ml <= 1e6, "total_ml", total_ml, "above 0, up to 1 000 000 ml")
    unit = _volumes(components, tint_frac)
    return _cup(components, unit, total_ml / sum(unit), tint_frac)


def cup_for_component(
    components: Sequence[Component], role: str, ml: float, *, tint_frac: float | None = None
) -> Cup:
    """Amounts that go with `ml` [ml] of the component `role`: what is in the cup moves the rest.

    Raises OutOfRange for an amount that cannot be, Underspecified for a role the mix has not.
    """
    require(0 < ml <= 1e6, "ml", ml, "above 0, up to 1 000 000 ml")
    unit = _volumes(components, tint_frac)
    for c, u in zip(components, unit, strict=True):
        if c.role == role and u > 0:
            return _cup(components, unit, ml / u, tint_frac)
    raise Underspecified("role", role, "a component of the mix")


def limiting_component(components: Sequence[Component], in_hand_ml: dict[str, float]) -> Cup:
    """The largest cup that what is in hand allows; a role not named is not limiting.

    Raises Underspecified when nothing named limits the mix.
    """
    unit = _volumes(components, None)
    scales = [
        in_hand_ml[c.role] / u
        for c, u in zip(components, unit, strict=True)
        if c.role in in_hand_ml and u > 0
    ]
    if not scales:
        raise Underspecified("in_hand_ml", in_hand_ml, "ml of at least one component of the mix")
    require(min(scales) > 0, "in_hand_ml", in_hand_ml, "more than 0 ml of each")
    return _cup(components, unit, min(scales), None)


def _volumes(components: Sequence[Component], tint_frac: float | None) -> list[float]:
    """Volume of each component for one unit of the ratio."""
    if not components:
        raise Underspecified("components", [], "at least one")
    by = {c.by for c in components if c.of == "ratio"}
    if len(by) > 1:
        raise Underspecified("components", sorted(by), "one ratio, all by volume or all by mass")

    def own(c: Component) -> float:
        return c.parts / c.density_g_per_ml if c.by == "mass" else c.parts

    base = [c for c in components if c.role in ("base", "can", "filler") and c.of == "ratio"]
    base_ml = sum(own(c) for c in base)
    mix_ml = sum(own(c) for c in components if c.of == "ratio" and c.role != "thinner")
    base_g = sum(own(c) * c.density_g_per_ml for c in base)
    mix_g = sum(own(c) * c.density_g_per_ml for c in components if c.of == "ratio" and c.role != "thinner")
    out = []
    for c in components:
        parts = tint_frac if c.role == "tint" and tint_frac is not None else c.parts
        if c.of == "ratio":
            out.append(own(c))
        elif c.by == "volume":
            out.append(parts * (base_ml if c.of == "base" else mix_ml))
        else:
            out.append(parts * (base_g if c.of == "base" else mix_g) / c.density_g_per_ml)
    return out


def _cup(components: Sequence[Component], unit: list[float], scale: float, tint_frac: float | None) -> Cup:
    pours = []
    mark = scale_g = solids = 0.0
    for c, u in zip(components, unit, strict=True):
        if u <= 0:
            continue
        ml = u * scale
        g = ml * c.density_g_per_ml
        mark, scale_g, solids = mark + ml, scale_g + g, solids + ml * c.solids_frac
        pours.append(
            Pour(
                role=c.role,
                name=c.name,
                ml=ml,
                g=g,
                mark_ml=mark,
                scale_g=scale_g,
                share=_share(c, tint_frac),
            )
        )
    ratio = " : ".join(f"{c.parts:g}" for c in components if c.of == "ratio")
    return Cup(
        pours=tuple(pours),
        total_ml=mark,
        total_g=scale_g,
        solids_frac=solids / mark,
        ratio=ratio,
        why=computed("mix.solids", ratio=ratio),
    )


def _share(c: Component, tint_frac: float | None) -> str:
    parts = tint_frac if c.role == "tint" and tint_frac is not None else c.parts
    if c.of == "ratio":
        return f"{parts:g} part by {c.by}" if parts == 1 else f"{parts:g} parts by {c.by}"
    of = "the base alone" if c.of == "base" else "base and hardener"
    return f"{100 * parts:g} % of {of}, by {c.by}"


def mixed_solids(volumes_ml: Sequence[float], solids_frac: Sequence[float]) -> Figure:
    """Volume solids of a mix [-].  Raises OutOfRange."""
    total = sum(volumes_ml)
    require(total > 0, "volumes_ml", list(volumes_ml), "more than 0 ml in all")
    value = sum(v * s for v, s in zip(volumes_ml, solids_frac, strict=True)) / total
    return Figure(value=value, unit="frac", why=computed("mix.solids", total_ml=total))


def ratio_error_frac(base_ml: float, hardener_ml: float, step_ml: float) -> float:
    """Largest relative error of base : hardener when each pour is off by `step_ml`.

    The two reading errors of a step between marks add up: dh/h + db/b.  Raises OutOfRange.
    """
    require(base_ml > 0 and hardener_ml > 0, "base_ml, hardener_ml", (base_ml, hardener_ml), "more than 0 ml")
    require(step_ml >= 0, "step_ml", step_ml, "0 ml or more")
    return 2 * step_ml / hardener_ml + step_ml / base_ml


def smallest_batch_ml(components: Sequence[Component], step_ml: float, tolerance_frac: float = 0.05) -> float:
    """Smallest mix [ml] whose ratio error stays inside the tolerance (5 % when a sheet is silent).

    Raises OutOfRange for a tolerance outside 0 to 1.
    """
    require(0 < tolerance_frac < 1, "tolerance_frac", tolerance_frac, "between 0 and 1")
    cup = cup_for_total(components, 1.0)
    error = ratio_error_frac(cup.pour("base").ml, cup.pour("hardener").ml, step_ml)
    return error / tolerance_frac


def voc_g_per_l(
    components: Sequence[Component], volumes_ml: Sequence[float], *, less_water: bool
) -> Figure | None:
    """VOC of a mix [g/l], per volume of material or of coating less water; None: a part does not say.

    `less_water` is the US coating definition and the EU's ready-to-use value (no exempt solvents
    here); without it the US material definition.  Raises OutOfRange on an empty or all-water mix.
    """
    require(sum(volumes_ml) > 0, "volumes_ml", list(volumes_ml), "more than 0 ml in all")
    if any(c.voc_g_per_l is None for c in components):
        return None
    mass_g = sum((c.voc_g_per_l or 0.0) * v / 1000 for c, v in zip(components, volumes_ml, strict=True))
    volume_ml = sum(
        v * (1 - c.water_frac if less_water else 1.0) for c, v in zip(components, volumes_ml, strict=True)
    )
    require(volume_ml > 0, "water_frac", 1, "something besides water")
    why = computed("mix.voc", less_water="yes" if less_water else "no")
    return Figure(value=1000 * mass_g / volume_ml, unit="g_per_l", why=why)


def pot_life(pot: Sequence[PotPoint], mix_degc: float) -> Figure:
    """Pot life [s] at a mix temperature, counted from first contact and including induction.

    Between sheet points ln(s) runs straight in 1/T; with one point it halves per +10 °C.  More than
    10 K outside the points the answer is refused.
    Raises Underspecified (no points), OutOfRange.
    """
    if not pot:
        raise Underspecified("pot", [], "at least one point: the material has no pot life")
    low, high = min(p.at_degc for p in pot), max(p.at_degc for p in pot)
    if not low - 10 <= mix_degc <= high + 10:
        raise OutOfRange("mix_degc", mix_degc, f"{low - 10:g} to {high + 10:g} °C, the sheet's points ± 10 K")
    value = _between(list(pot_points(pot)), mix_degc)
    return Figure(value=value, unit="s", why=computed("mix.pot", mix_degc=mix_degc))


def pot_points(pot: Sequence[PotPoint]) -> tuple[tuple[float, int], ...]:
    """(degC, s) pairs, coldest first; a lone point is given neighbours 10 K away, half and double."""
    points = sorted((p.at_degc, p.s) for p in pot)
    if len(points) == 1:
        t, s = points[0]
        points = [(t - 10, 2 * s), (t, s), (t + 10, round(s / 2))]
    return tuple(points)


def _between(points: list[tuple[float, int]], degc: float) -> float:
    k = min(max(sum(t < degc for t, _ in points), 1), len(points) - 1)
    (t0, s0), (t1, s1) = points[k - 1], points[k]
    x, x0, x1 = (1 / (t + 273.15) for t in (degc, t0, t1))
    return math.exp(math.log(s0) + (math.log(s1) - math.log(s0)) * (x - x0) / (x1 - x0))
