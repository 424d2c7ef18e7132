"""What a material is: a data sheet as an immutable document named by the hash of its content."""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Any, Literal

from .climate import Limits
from .codec import LATER, content_id, from_plain, to_plain
from .errors import Underspecified, require
from .why import Why

__all__ = [
    "FAMILIES",
    "FINISHES",
    "FINISH_GROUPS",
    "PLACES",
    "ROLES",
    "Aid",
    "AidPack",
    "Care",
    "Claim",
    "CoatHint",
    "Component",
    "Coverage",
    "FilmRange",
    "GatePoint",
    "Pack",
    "PotPoint",
    "Properties",
    "Purpose",
    "Recoat",
    "Setup",
    "Sheet",
    "Window",
    "family_words",
    "make_sheet",
    "pick_recoat",
    "sheet_id",
]

Gate = Literal[
    "tacky",
    "touch",
    "sand",
    "unmask_from",
    "unmask_to",
    "handle",
    "water",
    "wash",
    "use",
    "immerse_from",
    "immerse_to",
    "full",
]
Role = Literal["base", "hardener", "tint", "thinner", "filler", "can"]
Law = Literal["solvent", "water", "moisture", "chemical"]


@dataclass(frozen=True, slots=True, kw_only=True)
class Component:
    """One thing that goes into the cup, in pouring order.

    of = ratio: `parts` is its number in the mixing ratio; base or mix: `parts` is a fraction of
    the base alone, or of base and hardener together.
    """

    role: Role
    name: str
    parts: float
    by: Literal["volume", "mass"] = "volume"
    of: Literal["ratio", "base", "mix"] = "ratio"
    density_g_per_ml: float
    solids_frac: float = 0.0
    voc_g_per_l: float | None = None
    water_frac: float = 0.0


@dataclass(frozen=True, slots=True, kw_only=True)
class Coverage:
    """How far a material goes that builds no film: m² a coat from one litre, and how many coats."""

    m2_per_l: float
    coats_min: int = 1
    coats_max: int = 1


@dataclass(frozen=True, slots=True, kw_only=True)
class Pack:
    """What is bought, and the ready mix it makes [ml]."""

    name: str
    makes_ml: float


@dataclass(frozen=True, slots=True, kw_only=True)
class Claim:
    """How long it is said to last [s], in the words of whoever says it."""

    life_s: int
    text: str = ""


@dataclass(frozen=True, slots=True, kw_only=True)
class Care:
    """What is due in service: once after `after_s`, then every `every_s` (None: once)."""

    key: str
    kind: Literal["check", "clean"]
    what: str
    after_s: int
    every_s: int | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class CoatHint:
    """How a coat is put on: its character and the way the hand goes."""

    character: str = ""
    direction: str = ""


@dataclass(frozen=True, slots=True, kw_only=True)
class Setup:
    """How it is sprayed for one look: nozzle [mm], air [kPa] and distance [mm], each as (least, most)."""

    name: str
    nozzle_mm: float | None = None
    air_kpa: tuple[float, ...] = ()
    distance_mm: tuple[float, ...] = ()


@dataclass(frozen=True, slots=True, kw_only=True)
class ThenStep:
    """What has to be done to a finished last coat: from `from_s` after its end to `to_s` after its start."""

    step: str
    from_s: int
    to_s: int | None = None
    at_degc: float
    takes_s: int


@dataclass(frozen=True, slots=True, kw_only=True)
class FilmRange:
    """Dry film a coat may have [um], and how much in all."""

    dry_um_min: float
    dry_um_max: float
    total_max_um: float
    coats_max: int


@dataclass(frozen=True, slots=True, kw_only=True)
class GatePoint:
    """Time [s] after the coat is done until a gate, at a temperature [degC].

    `at_um`: the dry film it is given for; a thicker one takes longer.
    """

    gate: Gate
    at_degc: float
    s: int
    at_um: float | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class Window:
    """A time in which the next coat may go on: from the end of this one, to from its start.

    `at_um`: the dry film it is given for; a thicker one waits longer.
    """

    from_s: int
    to_s: int | None = None
    at_degc: float
    tacky: bool = False
    at_um: float | None = field(default=None, metadata=LATER)


@dataclass(frozen=True, slots=True, kw_only=True)
class Recoat:
    """Windows for one following material: `same`, `family:X` or `any`; steps that reopen it."""

    next: str
    windows: tuple[Window, ...]
    fix: tuple[str, ...] = ("abrade", "wipe")
    key_valid_s: int | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class PotPoint:
    """Pot life [s] at a mix temperature [degC]."""

    at_degc: float
    s: int
    mass_g: float | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class AidPack:
    """What is bought, and how many units are in it."""

    name: str
    holds: float


@dataclass(frozen=True, slots=True, kw_only=True)
class Aid:
    """What a step is done with and does not stay on the part: cleaner, stripper, abrasive, cloth, masking.

    `serves`: steps of the list.  `covers_m2`: how far one unit goes [m²].  `grit`: FEPA P.  `never_on`:
    metals or groups of surfaces.  `dwell_s`: how long it works before it is taken off [s].
    """

    serves: tuple[str, ...]
    unit: Literal["l", "kg", "disc", "sheet", "pad", "cloth", "m", "m2", "can", "piece"]
    covers_m2: float
    packs: tuple[AidPack, ...] = ()
    grit: int | None = None
    never_on: tuple[str, ...] = ()
    dwell_s: int = 0


Strength = Literal["none", "mild", "strong"]


#: What a finish can be: the words a survey asks for and a sheet answers with.
FINISHES: dict[str, str] = {
    "colour": "a colour",
    "gloss": "gloss",
    "matt": "matt",
    "texture": "texture",
    "clear": "clear (transparent)",
    "reversible": "peelable / removable",
    "repels": "water and dirt repellent",
    "antifouling": "antifouling",
    "seals": "corrosion / moisture protection",
    "primed": "primed only",
    "boot": "de-icing boot sealant",
    "guard": "bonded protection strip",
    "grip": "non-slip",
}
#: where each of them is looked for
FINISH_GROUPS: dict[str, tuple[str, ...]] = {
    "looks": ("colour", "gloss", "matt", "texture", "clear"),
    "does": ("reversible", "repels", "antifouling", "seals", "grip"),
    "ends as": ("primed", "boot", "guard"),
}


@dataclass(frozen=True, slots=True, kw_only=True)
class Properties:
    """What the stack rules read.  Never the name of a material.

    `solvent` is how hard it attacks what lies under it, `resists` what its own dry film stands.
    `made_for` names the only substrates it is for (empty: no such limit), `needs_below` the only
    families it may lie on as an upper coat.  `gives`: what it is as a finish, in words of FINISHES.
    `key_grit`: FEPA P, coarsest and finest, to which what lies below is abraded; empty: it needs no
    key.  `sanded`: it is levelled before the next material.  `fills`: it bridges and shapes.
    `conducts`: metal flake in it.  `small_patches`: on bare metal only up to 50 mm across.
    """

    family: str
    resin: str
    gives: tuple[str, ...] = ()
    key_grit: tuple[int, ...] = ()
    needs_below: tuple[str, ...] = ()
    sanded: bool = False
    fills: bool = False
    conducts: bool = False
    lowers_grip: bool = False
    small_patches: bool = False
    thiocyanate: bool = False
    seals_antifouling: bool = False
    chips_when_washed: bool = False
    rated_for: tuple[str, ...] = ()
    made_for: tuple[str, ...] = ()
    acid: bool = False
    peelable: bool = False
    two_pack: bool = False
    needs_air_fed_mask: bool = False
    solvent: Strength = "mild"
    resists: Strength = "strong"
    uv_stable: bool = True
    immersion: bool = False
    barrier: bool = False
    antifouling: Literal["none", "hard", "eroding", "silicone"] = "none"
    metal: Literal["none", "copper", "zinc"] = "none"
    bitumen: bool = False
    repels: bool = False
    flexible: bool = False
    promotes_adhesion: bool = False
    needs_cover: bool = False
    soaks_up_water: bool = False
    wants_cured_ground: bool = False
    coats_exact: int | None = None
    peel_film_um: float | None = None
    service_max_degc: float | None = None


@dataclass(frozen=True, slots=True)
class RoleRank:
    """Where a role stands in a stack: what may lie directly `below` it as a coat."""

    name: str
    below: tuple[str, ...]


#: What a material is in a stack, in working order.
ROLES: dict[str, RoleRank] = {
    "pretreatment": RoleRank("pretreatment", ()),
    "primer": RoleRank("primer", ("pretreatment", "primer", "filler")),
    "filler": RoleRank("filler", ("primer", "build", "filler")),
    "build": RoleRank("build coat", ("pretreatment", "primer", "filler", "build")),
    "tie": RoleRank("sealer or tie coat", ("pretreatment", "primer", "filler", "build", "tie")),
    "colour": RoleRank("colour that wants clear over it", ("pretreatment", "primer", "build", "tie")),
    "clear": RoleRank("clear", ("colour", "clear", "primer", "one_coat")),
    "one_coat": RoleRank("one-coat finish", ("pretreatment", "primer", "filler", "build", "tie", "one_coat")),
    "antifouling": RoleRank("antifouling", ("primer", "tie", "antifouling")),
    "peelable": RoleRank("film that comes off", ("clear", "one_coat", "peelable")),
    "treatment": RoleRank("treatment that soaks in or wipes on", ("clear", "one_coat", "treatment")),
    "guard": RoleRank("bonded guard", ("tie", "pretreatment")),
    "sealant": RoleRank("rubber sealant", ("sealant",)),
}
#: Where a material may be used.
PLACES: dict[str, str] = {
    "above_water": "above water",
    "under_water": "under water",
    "underside": "the underside or a frame",
    "cavity": "inside closed sections",
    "tank": "inside fuel tanks",
    "gear": "propellers, shafts and drives",
    "wheel": "wheels",
    "trim": "exterior trim",
    "interior": "interiors",
    "hot": "hot parts",
    "aircraft": "aircraft",
}
#: families as they are said, where the word itself is not what a painter says
FAMILIES: dict[str, str] = {
    "base": "base coat",
    "boot": "boot sealant",
    "caliper": "caliper enamel",
    "clear_can": "clear from a can",
    "clear_film": "clear anti-corrosion film",
    "cloth": "glass cloth",
    "colour_can": "colour from a can",
    "conversion": "conversion coat",
    "converter": "rust converter",
    "dtm": "direct-to-metal urethane",
    "encapsulator": "rust encapsulator",
    "etch": "etch primer",
    "grip": "deck grip",
    "heat": "heat paint",
    "lens": "lens clear",
    "liner_1k": "aerosol liner",
    "liner_3c": "three-component liner",
    "metal_primer": "a primer rated for the metal",
    "peelable": "peelable film",
    "penetrating": "penetrating epoxy",
    "polyester": "polyester filler or high-build",
    "primer_1k": "single-pack primer",
    "primer_can": "primer from a can",
    "promoter": "adhesion promoter",
    "sealer_af": "antifouling sealer",
    "stone": "stone-guard coat",
    "strip": "keel strip",
    "tie": "tie coat",
    "topcoat": "two-pack topcoat",
    "trim": "trim paint",
    "vinyl": "vinyl colour",
    "wax": "cavity wax",
    "zinc": "zinc-rich primer",
}
Stands = Literal["yes", "for_a_time", "no"]
TACKY = ":tacky"


def family_words(family: str) -> str:
    """A family as a painter says it; `family` may end in ":tacky"."""
    plain = family.removesuffix(TACKY)
    return FAMILIES.get(plain, plain.replace("_", " "))


@dataclass(frozen=True, slots=True, kw_only=True)
class Purpose:
    """What a material is for, as its data sheet says it.  What is not in it is not said.

    `role`: one of ROLES.  `goes_on`: the surfaces it may touch first, keys of the survey.  `over`: the
    families it may lie on, in their window or keyed; "family:tacky" only while tacky.  What may follow it
    is what its recoat windows name.  `used_on`: keys of PLACES; `first_for`: those it is made for.
    `colours`: what it usually comes in.
    `temp_max_degc`, `temp_short_degc`: what it stands for good and for minutes.  `withstands`: exposures
    of the survey, each yes, for a time or no.
    """

    role: str
    goes_on: tuple[str, ...] = ()
    over: tuple[str, ...] = ()
    used_on: tuple[str, ...] = ()
    first_for: tuple[str, ...] = ()
    shows_ground: bool = False
    temp_max_degc: float | None = None
    temp_short_degc: float | None = None
    withstands: dict[str, Stands] = field(default_factory=dict)
    colours: tuple[str, ...] = ()


@dataclass(frozen=True, slots=True, kw_only=True)
class Sheet:
    """A material's data sheet.  See the parts above for units.  An aid has `aid` and nothing of a coat."""

    id: str = ""
    material_id: str
    name: str
    kind: str
    grade: Literal["sheet", "typical"]
    build: Literal["film", "soaks_in", "wipe_on", "bonded", "aid"] = "film"
    components: tuple[Component, ...]
    film: FilmRange | None = None
    coverage: Coverage | None = None
    packs: tuple[Pack, ...] = ()
    claim: Claim | None = None
    care: tuple[Care, ...] = ()
    hints: tuple[CoatHint, ...] = ()
    then: tuple[ThenStep, ...] = ()
    points: tuple[GatePoint, ...]
    recoat: tuple[Recoat, ...]
    pot: tuple[PotPoint, ...] = ()
    use_frac: float = 0.75
    induction_s: int = 0
    stir_every_s: int | None = None
    ea_j_per_mol: float | None = None
    law: Law
    stops_below_degc: float = 5.0
    limits: Limits = Limits()
    properties: Properties
    hazards: tuple[str, ...] = ()
    method_id: str = "spray_gun"
    texture: Literal["plain", "speckle", "fine", "dots", "slant", "bands", "weave"] = "plain"
    why: dict[str, Why] = field(default_factory=dict)
    aid: Aid | None = field(default=None, metadata=LATER)
    setups: tuple[Setup, ...] = field(default=(), metadata=LATER)
    purpose: Purpose | None = field(default=None, metadata=LATER)

    @property
    def role(self) -> str:
        """What it is in a stack; empty where its sheet does not say."""
        return "" if self.purpose is None else self.purpose.role

    @property
    def grounds(self) -> tuple[str, ...]:
        """The surfaces its sheet names; sheets from before purposes were asked named some of them."""
        if self.purpose is not None:
            return self.purpose.goes_on
        return (*self.properties.rated_for, *self.properties.made_for)

    def names_below(self, lower: Sheet) -> bool:
        """Whether this sheet says that it may lie on that one."""
        family = lower.properties.family
        if self.purpose is None:
            return family in self.properties.needs_below
        return family in self.purpose.over or family + TACKY in self.purpose.over

    def names_above(self, upper: Sheet) -> bool:
        """Whether this sheet says that that one may follow it."""
        recoat = pick_recoat(self, upper)
        return recoat is not None and recoat.next != "any"

    def source_of(self, name: str) -> Why:
        """Where a field comes from: as noted beside it, else the sheet, or practice for a typical one."""
        if name in self.why:
            return self.why[name]
        if self.grade == "typical":
            return Why(kind="practice", ref="common practice, no published source")
        return Why(kind="sheet", ref=self.name)

    def usual_um(self, coats: int = 1) -> float | None:
        """Dry film so many coats usually leave [um], the middle of their range; None: it builds none."""
        return None if self.film is None else coats * (self.film.dry_um_min + self.film.dry_um_max) / 2

    def points_for(self, gate: str) -> tuple[tuple[float, int], ...]:
        """(temperature degC, seconds) pairs of a gate, coldest first."""
        return tuple(sorted((p.at_degc, p.s) for p in self.points if p.gate == gate))

    def hint(self, n: int) -> CoatHint:
        """How coat `n` (from 1) goes on; the last hint holds for all after it."""
        return self.hints[min(n, len(self.hints)) - 1] if self.hints else CoatHint()

    @property
    def coats_range(self) -> tuple[int, int]:
        """Fewest and most coats the sheet speaks of."""
        if self.properties.coats_exact is not None:
            return self.properties.coats_exact, self.properties.coats_exact
        if self.coverage is not None:
            return self.coverage.coats_min, self.coverage.coats_max
        return 1, self.film.coats_max if self.film else 1


def pick_recoat(lower: Sheet, upper: Sheet) -> Recoat | None:
    """The entry of the lower sheet that speaks of the upper: same, its family, any."""
    same = lower.material_id == upper.material_id
    family = f"family:{upper.properties.family}"
    named = other = None
    for entry in lower.recoat:
        if same and entry.next == "same":
            return entry
        if named is None and entry.next == family:
            named = entry
        if other is None and entry.next == "any":
            other = entry
    return named or other


def sheet_id(sheet: Sheet) -> str:
    """Hash of everything but the id itself."""
    plain = to_plain(sheet)
    plain.pop("id")
    return content_id(plain)


def make_sheet(data: dict[str, Any]) -> Sheet:
    """Validate a plain document into a Sheet with its id.

    Raises Underspecified (shape) or OutOfRange (a number that cannot be), naming the field.
    """
    sheet = from_plain(Sheet, {**data, "id": ""})
    check_sheet(sheet)
    plain = to_plain(sheet)
    plain["id"] = sheet_id(sheet)
    return from_plain(Sheet, plain)


MAX_S = 400_000_000  # a dozen years; longer is a slip of the keyboard
MIN_POT_S = 10  # what sets faster is mixed in the gun, not in a pot
MOST_COATS = 99


def _validate_words(sheet: Sheet) -> None:
    for name, most in (("material_id", 80), ("name", 80), ("kind", 120)):
        text = getattr(sheet, name)
        require(len(text.strip()) >= 1 and len(text) <= most, name, text[:40], f"1 to {most} letters")
    roles = [c.role for c in sheet.components]
    require(len(roles) == len(set(roles)), "components", roles, "each role once")
    for i, pack in enumerate(sheet.packs):
        require(1 <= len(pack.name.strip()) <= 80, f"packs[{i}].name", pack.name[:40], "1 to 80 letters")


def _validate_limits(sheet: Sheet) -> None:
    x = sheet.limits
    require(
        -20 <= x.surface_min_degc < x.surface_max_degc <= 120,
        "limits",
        [x.surface_min_degc, x.surface_max_degc],
        "a lowest and a higher highest surface, -20 to 120 °C",
    )
    require(0 < x.rh_max_frac <= 1, "limits.rh_max_frac", x.rh_max_frac, "above 0, at most 1")
    require(0 <= x.dew_margin_k <= 20, "limits.dew_margin_k", x.dew_margin_k, "0 to 20 K")
    require(0 < sheet.use_frac <= 1, "use_frac", sheet.use_frac, "above 0, at most 1")
    for i, p in enumerate(sheet.pot):
        require(MIN_POT_S <= p.s <= MAX_S, f"pot[{i}].s", p.s, f"{MIN_POT_S} s or more")
        require(-10 <= p.at_degc <= 100, f"pot[{i}].at_degc", p.at_degc, "-10 to 100 °C")
    if sheet.claim is not None:
        require(0 < sheet.claim.life_s <= 100 * MAX_S, "claim.life_s", sheet.claim.life_s, "more than 0 s")


def _validate_properties(sheet: Sheet) -> None:
    p = sheet.properties
    for word in p.gives:
        require(word in FINISHES, "properties.gives", word, "of " + ", ".join(FINISHES))
    grits = list(p.key_grit)
    require(
        not grits or (len(grits) == 2 and 12 <= grits[0] <= grits[1] <= 3000),
        "properties.key_grit",
        grits,
        "coarsest and finest grit, P12 to P3000, or nothing",
    )
    coats, peel_um = p.coats_exact, p.peel_film_um
    expected = f"1 to {MOST_COATS} coats, or nothing"
    require(coats is None or 1 <= coats <= MOST_COATS, "properties.coats_exact", coats, expected)
    require(
        peel_um is None or 0 < peel_um <= 20_000, "properties.peel_film_um", peel_um, "above 0 µm, or nothing"
    )
    ea = sheet.ea_j_per_mol
    require(ea is None or 0 <= ea <= 200_000, "ea_j_per_mol", ea, "0 to 200 000 J/mol, or nothing")


def _validate_purpose(purpose: Purpose) -> None:
    role = purpose.role
    require(role in ROLES, "purpose.role", role, "one of " + ", ".join(ROLES))
    for name in ("used_on", "first_for"):
        for word in getattr(purpose, name):
            require(word in PLACES, f"purpose.{name}", word, "of " + ", ".join(PLACES))
    for name in ("temp_max_degc", "temp_short_degc"):
        value = getattr(purpose, name)
        require(value is None or 20 <= value <= 1500, f"purpose.{name}", value, "20 to 1500 °C, or nothing")


def check_sheet(sheet: Sheet) -> None:
    """Refuse a sheet that cannot be.  Raises Underspecified or OutOfRange naming the field."""
    _validate_words(sheet)
    if sheet.purpose is not None:
        _validate_purpose(sheet.purpose)
    if sheet.build == "aid" or sheet.aid is not None:
        return _validate_aid(sheet)
    _validate_properties(sheet)
    _validate_limits(sheet)
    for i, c in enumerate(sheet.components):
        at = f"components[{i}]"
        require(1e-4 <= c.parts <= 1e5, f"{at}.parts", c.parts, "0.0001 to 100 000")
        require(
            0.4 <= c.density_g_per_ml <= 9.5, f"{at}.density_g_per_ml", c.density_g_per_ml, "0.4 to 9.5 g/ml"
        )
        require(0 <= c.solids_frac <= 1, f"{at}.solids_frac", c.solids_frac, "0 to 1")
        require(0 <= c.water_frac <= 1, f"{at}.water_frac", c.water_frac, "0 to 1")
        both = c.solids_frac + c.water_frac
        require(
            both <= 1 + 1e-9,
            f"{at}.water_frac",
            c.water_frac,
            f"at most {1 - c.solids_frac:g}: the rest is solids",
        )
        if c.voc_g_per_l is not None:
            require(0 <= c.voc_g_per_l <= 1500, f"{at}.voc_g_per_l", c.voc_g_per_l, "0 to 1500 g/l")
    if not any(c.role in ("base", "can", "filler") for c in sheet.components):
        raise Underspecified("components", [c.role for c in sheet.components], "a base, a filler or a can")
    if not any(c.of == "ratio" for c in sheet.components):
        raise Underspecified(
            "components", [c.of for c in sheet.components], "one that is counted in the ratio"
        )
    _validate_amount(sheet)
    _validate_setups(sheet)
    for i, then in enumerate(sheet.then):
        require(1 <= len(then.step.strip()) <= 40, f"then[{i}].step", then.step[:40], "1 to 40 letters")
        require(0 < then.takes_s <= MAX_S, f"then[{i}].takes_s", then.takes_s, "more than 0 s")
        require(0 <= then.from_s <= MAX_S, f"then[{i}].from_s", then.from_s, "0 s or more")
        require(
            then.to_s is None or then.to_s > then.from_s,
            f"then[{i}].to_s",
            then.to_s,
            f"more than from_s ({then.from_s} s)",
        )
    for i, pack in enumerate(sheet.packs):
        require(pack.makes_ml > 0, f"packs[{i}].makes_ml", pack.makes_ml, "more than 0 ml")
    for i, care in enumerate(sheet.care):
        require(care.after_s > 0, f"care[{i}].after_s", care.after_s, "more than 0 s")
        require(care.every_s is None or care.every_s > 0, f"care[{i}].every_s", care.every_s, "more than 0 s")
    for i, p in enumerate(sheet.points):
        require(0 < p.s <= MAX_S, f"points[{i}].s", p.s, "more than 0 s, at most twelve years")
        require(-10 <= p.at_degc <= 200, f"points[{i}].at_degc", p.at_degc, "-10 to 200 °C")
        _validate_at_um(f"points[{i}].at_um", p.at_um)
    told = [(p.gate, p.at_degc, p.at_um) for p in sheet.points]
    for i, key in enumerate(told):
        require(
            key not in told[:i],
            f"points[{i}]",
            f"{key[0]} at {key[1]:g} °C",
            "each gate once at a temperature",
        )
    if not sheet.points_for("full"):
        raise Underspecified("points", None, "a point for gate full")
    for i, r in enumerate(sheet.recoat):
        if not r.windows:
            raise Underspecified(f"recoat[{i}].windows", [], "at least one window")
        last = -1
        for j, w in enumerate(r.windows):
            at = f"recoat[{i}].windows[{j}]"
            require(
                MAX_S >= w.from_s >= 0 and w.from_s > last,
                f"{at}.from_s",
                w.from_s,
                "after the window before it",
            )
            require(
                w.to_s is None or w.to_s > w.from_s, f"{at}.to_s", w.to_s, f"more than from_s ({w.from_s} s)"
            )
            if w.to_s is None and j + 1 < len(r.windows):
                raise Underspecified(f"{at}.to_s", None, "an end, as another window follows")
            require(-10 <= w.at_degc <= 200, f"{at}.at_degc", w.at_degc, "-10 to 200 °C")
            _validate_at_um(f"{at}.at_um", w.at_um)
            last = w.to_s or 0
    if sheet.properties.two_pack and not sheet.pot:
        raise Underspecified("pot", [], "a pot life, as the material is two-pack")


def _validate_at_um(at: str, um: float | None) -> None:
    expected = "the dry film it is given for, 0.1 to 20000 µm, or nothing"
    require(um is None or 0.1 <= um <= 20_000, at, um, expected)


def _validate_setups(sheet: Sheet) -> None:
    for i, x in enumerate(sheet.setups):
        at = f"setups[{i}]"
        require(1 <= len(x.name.strip()) <= 60, f"{at}.name", x.name[:40], "1 to 60 letters")
        require(
            x.nozzle_mm is None or 0.2 <= x.nozzle_mm <= 12, f"{at}.nozzle_mm", x.nozzle_mm, "0.2 to 12 mm"
        )
        for name, pair, most in (("air_kpa", x.air_kpa, 1000), ("distance_mm", x.distance_mm, 2000)):
            given, expected = list(pair), f"least and most, above 0, up to {most}, or nothing"
            fits = not pair or (len(pair) == 2 and 0 < pair[0] <= pair[1] <= most)
            require(fits, f"{at}.{name}", given, expected)


def _validate_aid(sheet: Sheet) -> None:
    aid = sheet.aid
    if aid is None or sheet.build != "aid":
        raise Underspecified("aid", sheet.build, "an aid, as build says aid, and in no other build")
    for name in ("components", "points", "recoat", "pot", "hints", "then", "packs"):
        given = getattr(sheet, name)
        require(not given, name, len(given), "nothing: an aid is no coat")
    require(sheet.film is None and sheet.coverage is None, "film", "given", "nothing: an aid is no coat")
    require(bool(aid.serves), "aid.serves", [], "the steps it serves")
    require(0 < aid.covers_m2 <= 10_000, "aid.covers_m2", aid.covers_m2, "above 0, up to 10 000 m²")
    require(aid.grit is None or 12 <= aid.grit <= 3000, "aid.grit", aid.grit, "P12 to P3000, or nothing")
    require(0 <= aid.dwell_s <= MAX_S, "aid.dwell_s", aid.dwell_s, "0 s or more")
    for i, pack in enumerate(aid.packs):
        require(1 <= len(pack.name.strip()) <= 80, f"aid.packs[{i}].name", pack.name[:40], "1 to 80 letters")
        require(pack.holds > 0, f"aid.packs[{i}].holds", pack.holds, "more than 0")


def _validate_amount(sheet: Sheet) -> None:
    """A film has micrometres, everything else has a coverage: never both, never neither."""
    if sheet.build == "film":
        f = sheet.film
        if f is None:
            raise Underspecified("film", None, "dry film per coat and in all, as it builds a film")
        require(
            0 < f.dry_um_min <= f.dry_um_max <= f.total_max_um,
            "film",
            [f.dry_um_min, f.dry_um_max, f.total_max_um],
            "0 < min <= max <= total, µm",
        )
        require(f.total_max_um <= 50_000, "film.total_max_um", f.total_max_um, "at most 50 000 µm")
        require(1 <= f.coats_max <= MOST_COATS, "film.coats_max", f.coats_max, f"1 to {MOST_COATS} coats")
        return
    c = sheet.coverage
    if c is None or sheet.film is not None:
        raise Underspecified("coverage", sheet.build, "m² per litre and no film, as it builds none")
    require(0 < c.m2_per_l <= 1000, "coverage.m2_per_l", c.m2_per_l, "above 0, up to 1000 m²/l")
    require(
        1 <= c.coats_min <= c.coats_max <= MOST_COATS,
        "coverage",
        [c.coats_min, c.coats_max],
        f"1 <= min <= max coats, at most {MOST_COATS}",
    )
