"""What must come off, dry out or be tested before anything goes on."""

from __future__ import annotations

from collections.abc import Iterator

from ..findings import Hit, Stack, rule
from ..surfaces import BARE_METALS

#: what lies on the surface: (why nothing holds on it, what to do)
WASTE: dict[str, tuple[str, str]] = {
    "scale": ("Mill scale lets go of the steel and takes the coat along.", "Blast it off, to Sa 2½."),
    "acid": ("Acid left from the gel eats the amine and stops the cure; rust comes back under it.",
             "Rinse until test paper says pH 6 to 8, dry, then coat at once."),
    "blush": ("Amine blush: the next coat stays soft or peels.",
              "Wash it off with water and a pad, before any sanding."),
    "release_wax": ("Release wax: sanding grinds it in and nothing holds.",
                    "Dewax with solvent and turned cloths first, then abrade."),
    "old_sealant": ("Shiny rubber carries old sealant; new sealant will not bond.",
                    "Strip it with the ammonia prep until it is dull all over."),
    "salt": ("Salt under a film draws water through it and blisters.",
             "Wash with fresh water and test for soluble salts."),
    "white_rust": ("White rust lets go of the zinc and takes the coat along.",
                   "Brush it off wet with a stiff nylon brush, rinse, dry, and coat soon."),
    "soot": ("Soot and salt stop anything from soaking in or holding.",
             "Wash until the rinse water is clear, then dry."),
    "grease": ("Contamination: fish-eyes and peeling.",
               "Clean twice until the water-break test passes."),
}  # fmt: skip


@rule("ground.waste", "stop")
def something_is_on_it(s: Stack) -> Iterator[Hit]:
    for sheet in s.first():
        if s.ground.waste:
            why, instead = WASTE[s.ground.waste]
            yield Hit(0, f"{sheet.name} on {s.ground.name}.", why, instead)


@rule(
    "ground.wet",
    "stop",
    overrule="sheet",
    why="Water shut in under the film swells, blisters and rots.",
    instead="Dry it and measure: wood under 15 %, laminate dry on the meter.",
)
def wet_ground(s: Stack) -> Iterator[Hit]:
    for sheet in s.first():
        if s.ground.wet:
            yield Hit(0, f"{sheet.name} on {s.ground.name}.")


@rule(
    "ground.toxic",
    "stop",
    overrule="never",
    why="Lead, chromate, asbestos or tin-organic dust poisons; washing it down poisons the water.",
    instead="Test first. Only a negative test lets work begin; positive means licensed removal.",
)
def not_tested(s: Stack) -> Iterator[Hit]:
    if s.ground.toxic:
        for i, sheet in s.sheets():
            yield Hit(i, f"{sheet.name} on {s.ground.name}.")
            return


@rule(
    "patch.rated",
    "stop",
    overrule="sheet",
    why="Bare metal shows through: a coat that is not rated for it lifts there first.",
    instead="Spot the patches with etch or epoxy, or prime all over.",
)
def bare_patches_want_primer(s: Stack) -> Iterator[Hit]:
    for sheet in s.first():
        bare = s.survey.bare_mm is not None and s.survey.bare_mm > 0 and not s.ground.metal
        rated = any(m in sheet.grounds for m in BARE_METALS)
        if bare and not rated and not sheet.properties.peelable:
            yield Hit(0, f"{sheet.name} over bare patches.")


@rule(
    "patch.large",
    "stop",
    overrule="sheet",
    why="Urethane straight on metal holds on small breakthroughs only, up to 50 mm across.",
    instead="Put etch or epoxy on the bare metal first.",
)
def patch_too_large(s: Stack) -> Iterator[Hit]:
    for sheet in s.first():
        patch_mm = s.survey.bare_mm or 0.0
        if sheet.properties.small_patches and (s.ground.metal or patch_mm > 50):
            yield Hit(0, f"{sheet.name} on bare metal over 50 mm across.")


HOLE_MM = 50.0  # common practice, no published source


@rule(
    "holes.large",
    "stop",
    overrule="reason",
    why="Cloth and filler bridge small holes only: over 50 mm they flex, crack and let water in.",
    instead="Weld or bond in metal first, or renew the part; then prime and coat.",
)
def hole_too_large(s: Stack) -> Iterator[Hit]:
    for i, sheet in s.sheets():
        if (s.survey.hole_mm or 0.0) > HOLE_MM and sheet.properties.fills:
            yield Hit(i, f"{sheet.name} over a hole of {s.survey.hole_mm:.0f} mm.")


@rule(
    "holes.open",
    "warn",
    why="Paint bridges no hole: water stands in it and rust goes on behind the film.",
    instead="Weld or bond in metal first; where it carries load a licensed welder. Small ones: cloth.",
)
def hole_left_open(s: Stack) -> Iterator[Hit]:
    """Whatever is wished of the coat, and however the metal round the hole was prepared."""
    hole = "holes" in s.survey.features or (s.survey.hole_mm or 0.0) > 0
    cavity = "cavity" in s.survey.features  # wax goes in by the holes there are
    if hole and not cavity and not any(sheet.properties.fills for _, sheet in s.sheets()):
        for i, sheet in s.sheets()[:1]:
            yield Hit(i, f"{sheet.name} over a hole.")


@rule(
    "rust.deep",
    "warn",
    why="Rust sits in the pits where no scraper reaches, and salts with it.",
    instead="Blast it, or wash, let the gel work twice and test for salts.",
)
def pitted(s: Stack) -> Iterator[Hit]:
    for sheet in s.first():
        if s.ground.rust == "deep":
            yield Hit(0, f"{sheet.name} over pits.")


@rule(
    "patch.spot",
    "advise",
    why="Etch holds by biting metal; on paint it has nothing to bite and its acid stays.",
    instead="Spot it on the bare patches only, and prime the rest.",
)
def etch_on_patches_only(s: Stack) -> Iterator[Hit]:
    for sheet in s.first():
        if s.layers[0].patches_m2 is not None:
            continue
        if sheet.properties.acid and s.survey.bare_mm and not s.ground.metal:
            yield Hit(0, f"{sheet.name} over {s.ground.name}.")
