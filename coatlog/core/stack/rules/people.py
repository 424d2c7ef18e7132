"""Where more than paint is at stake: people, roads, water, flight.  Many are never overruled."""

from __future__ import annotations

from collections.abc import Iterator
from typing import TypedDict

from ..findings import Hit, Stack, rule
from ..surfaces import FEATURES

#: what a shop can have or know; a stop of this module ends only by the fact itself
FACTS: dict[str, str] = {
    "air_fed": "air-fed breathing apparatus for everyone nearby",
    "exhaust": "tested extraction to outside",
    "booth": "spray booth with tested clearance time",
    "spray_gun": "spray guns",
    "liner_gun": "liner gun or hopper gun",
    "compressor": "compressor sized for the guns",
    "blast": "blast pot with an air-fed helmet",
    "spark_free": "a spray area kept free of anything that can light the vapour",
    "capture": "antifouling wash-down and waste collected as required",
    "permit": "confined-space procedure (gas test, ventilation, attendant, permit)",
    "licensed": "licensed staff for structural work",
    "signatory": "maintenance manual available, licensed sign-off",
    "maker_allows": "manufacturer repair information allows coating there",
    "burn_evidence": "flammability certificates for cabin materials",
}
#: what hands and heads meet inside: an airbag may be behind any of it
INTERIOR = ("interior_plastic", "greasy_plastic", "vinyl", "greasy_vinyl", "leather")
SPRAYED = ("spray_gun", "liner_gun", "aerosol")


class _Asked(TypedDict, total=False):
    instead: str
    asks: str


def _asked(fact: str) -> _Asked:
    """What a stop says that nobody has answered yet; nothing more where the answer was no."""
    return _Asked(instead=f"Answer this first: {FACTS[fact]}?", asks=fact) if fact else _Asked()


@rule(
    "isocyanate.air_fed",
    "stop",
    asks=True,
    overrule="never",
    why="Sprayed isocyanate causes lasting asthma; no cartridge mask is enough, and no smell warns of it.",
    instead="Air-fed mask on and running before the hardener's lid comes off, nobody unprotected near.",
)
def isocyanate_without_air(s: Stack) -> Iterator[Hit]:
    for i, sheet in s.sheets():
        wanting = s.wanting("air_fed")
        if sheet.properties.needs_air_fed_mask and sheet.method_id in SPRAYED and wanting is not None:
            yield Hit(i, f"Spraying {sheet.name} without air-fed breathing.", **_asked(wanting))


@rule(
    "isocyanate.kept_away",
    "warn",
    why="Who is asthmatic or sensitised can get an attack from a trace, whatever the mask.",
    instead="They do not mix, spray, sand it fresh or stand near; somebody else does, or take another kind.",
)
def sensitised_people(s: Stack) -> Iterator[Hit]:
    if s.survey.nobody_left:
        return
    for i, sheet in s.sheets():
        if sheet.properties.needs_air_fed_mask and s.survey.kept_away:
            yield Hit(i, f"{sheet.name}: {', '.join(s.survey.kept_away)} must stay away.")
            return


@rule(
    "isocyanate.nobody",
    "stop",
    overrule="never",
    why="Everybody here is asthmatic or sensitised: a trace can bring on an attack, whatever the mask.",
    instead="Take a material without isocyanate, or have somebody else do it.",
)
def nobody_may_spray_it(s: Stack) -> Iterator[Hit]:
    for i, sheet in s.sheets():
        if sheet.properties.needs_air_fed_mask and s.survey.nobody_left:
            yield Hit(i, f"{sheet.name} in a shop where nobody may work with it.")


@rule(
    "ignition.vapour",
    "stop",
    asks=True,
    overrule="never",
    why="Solvent vapour sinks, creeps along the floor and meets the flame or spark: flash fire.",
    instead="Heat from outside the vapour space or by a heater rated for it; earth cans and gun; ventilate.",
)
def spark_in_vapour(s: Stack) -> Iterator[Hit]:
    for i, sheet in s.sheets():
        wanting = s.wanting("spark_free")
        if sheet.properties.solvent != "none" and sheet.method_id in SPRAYED and wanting is not None:
            yield Hit(i, f"Spraying {sheet.name} where something may light its vapour.", **_asked(wanting))


@rule(
    "biocide.release",
    "stop",
    asks=True,
    overrule="never",
    why="What comes off an old antifouling poisons the water it runs into.",
    instead="Capture wash-down, chips and dust, and hand them in as the harbour says.",
)
def biocide_runs_off(s: Stack) -> Iterator[Hit]:
    for i, sheet in s.sheets():
        old = bool(s.ground.antifouling) or any(
            d.step == "strip_antifouling" for x in s.layers for d in x.before or ()
        )
        wanting = s.wanting("capture")
        if old and wanting is not None:
            what = f"{sheet.name} over old antifouling that is washed, sanded or stripped."
            yield Hit(i, what, **_asked(wanting))
            return


@rule(
    "enclosed.permit",
    "stop",
    asks=True,
    overrule="never",
    why="Vapour fills a closed space: it stuns, and one spark sets it off.",
    instead="Gas test, forced air, an attendant outside and a permit, or do it in the open.",
)
def closed_space(s: Stack) -> Iterator[Hit]:
    for i, sheet in s.sheets():
        vapour = sheet.properties.solvent != "none" or sheet.properties.two_pack
        wanting = s.wanting("permit")
        if "enclosed" in s.survey.features and vapour and wanting is not None:
            yield Hit(i, f"{sheet.name} in a closed space.", **_asked(wanting))


@rule(
    "enclosed.sprayed",
    "warn",
    why="Mist fills a closed space sooner than any fan clears it.",
    instead="Brush or roll it: less solvent in the air, and no mist.",
)
def sprayed_in_closed_space(s: Stack) -> Iterator[Hit]:
    for i, sheet in s.sheets():
        if "enclosed" in s.survey.features and sheet.method_id in SPRAYED:
            yield Hit(i, f"Spraying {sheet.name} in a closed space.")
            return


@rule(
    "structure.repair",
    "stop",
    asks=True,
    overrule="never",
    why="Paint, filler or cloth carries no load and hides what will break: look for cracks and thin metal, "
    "before and after blasting.",
    instead="Licensed welding and inspection first; coat what they hand back.",
)
def not_a_repair(s: Stack) -> Iterator[Hit]:
    """Rust as it was found counts: it may be thin under bright metal too."""
    rusted = bool(s.found.rust) or "holes" in s.survey.features
    for i, sheet in s.sheets():
        wanting = s.wanting("licensed")
        hides = sheet.properties.fills or rusted
        if "structural" in s.survey.features and hides and wanting is not None:
            yield Hit(i, f"{sheet.name} over a frame, belt or suspension mount.", **_asked(wanting))


@rule(
    "radar.metal",
    "stop",
    overrule="never",
    why="Metallic paint blocks the radar; automatic braking can fail.",
    instead="Leave it bare, or use a film without metal that the vehicle maker allows; recalibrate.",
)
def metal_over_radar(s: Stack) -> Iterator[Hit]:
    for i, sheet in s.sheets():
        if "radar" in s.survey.features and (sheet.properties.conducts or sheet.properties.metal != "none"):
            yield Hit(i, f"{sheet.name} over a radar.")


@rule(
    "radar.cover",
    "stop",
    asks=True,
    overrule="sheet",
    why="A film changes what radar, sensor, camera, lamp or plate sees or shows.",
    instead="Mask it; only where the vehicle maker's repair sheet allows, then recalibrate.",
)
def film_over_sensor(s: Stack) -> Iterator[Hit]:
    for i, sheet in s.sheets():
        wanting = s.wanting("maker_allows")
        if "radar" in s.survey.features and wanting is not None:
            yield Hit(i, f"{sheet.name} over a radar, sensor, camera, lamp or plate.", **_asked(wanting))


@rule(
    "restraint.cover",
    "stop",
    asks=True,
    overrule="never",
    why="A film holds the seam an airbag has to tear, and dye weakens a belt.",
    instead="Leave it as it is, unless the vehicle maker's sheet allows it.",
)
def restraint_covered(s: Stack) -> Iterator[Hit]:
    for i, sheet in s.sheets():
        wanting = s.wanting("maker_allows")
        if "restraint" in s.survey.features and wanting is not None:
            yield Hit(i, f"{sheet.name} on an airbag cover, seat with side bag or belt.", **_asked(wanting))


@rule(
    "wheel.clamping",
    "stop",
    overrule="never",
    why="Film between wheel, hub and bolt settles: the bolts come loose.",
    instead="Plug bolt seats, hub face, bead seats and valve hole. Torque, again after 50 to 100 km.",
)
def clamping_faces(s: Stack) -> Iterator[Hit]:
    for i, _ in s.steps():
        plugged = any(d.step == "bolts" for x in s.layers[: i + 1] for d in x.before or ())
        if i == 0 and "clamping" in s.survey.features and not plugged:
            yield Hit(i, f"{s.layers[i].sheet.name} with bolt seats and hub face open.")


@rule(
    "grip.lowered",
    "warn",
    why="Hands and feet slip on it.",
    instead="Take a coating with grit, or leave the gripping face bare.",
)
def grip_lowered(s: Stack) -> Iterator[Hit]:
    for i, sheet in s.top():
        slick = sheet.properties.repels or "gloss" in sheet.properties.gives or sheet.properties.lowers_grip
        # Hands hold bare leather, vinyl and grained plastic: any film on them is smoother.
        slick = slick or (s.ground.id in INTERIOR and "grip" not in sheet.properties.gives)
        if "grip" in s.survey.features and slick:
            yield Hit(i, f"{sheet.name} on a steering rim, pedal, deck or step.")


def _aircraft(s: Stack, feature: str) -> str | None:
    """What is wanting of manual and signature where a part has this feature."""
    return s.wanting("signatory") if feature in s.survey.features else None


@rule(
    "aircraft.control_surface",
    "stop",
    asks=True,
    overrule="never",
    why="Added mass behind the hinge line can cause flutter: rebalance.",
    instead="By the maintenance manual: weigh, hinge moment, signed by licensed staff.",
)
def control_surface(s: Stack) -> Iterator[Hit]:
    for i, sheet in s.sheets():
        wanting = _aircraft(s, "control_surface")
        if wanting is not None and sheet.build == "film":
            yield Hit(i, f"{sheet.name} on a control surface.", **_asked(wanting))


@rule(
    "aircraft.ports",
    "stop",
    asks=True,
    overrule="never",
    why="A covered port or vane gives false airspeed or altitude.",
    instead="Cover and list each before, uncover and list each after; the manual and a signature rule.",
)
def ports(s: Stack) -> Iterator[Hit]:
    if "ports" not in s.survey.features:
        return
    for i, sheet in s.sheets():
        listed = any(d.step == "ports" for x in s.layers for d in x.before or ())
        wanting = _aircraft(s, "ports")
        unlisted = s.layers[0].before is not None and not listed
        if wanting is not None or unlisted:
            asked = _asked("" if unlisted or wanting is None else wanting)
            yield Hit(i, f"{sheet.name} near ports, vanes, drains or placards.", **asked)
            return


@rule(
    "aircraft.radome",
    "stop",
    asks=True,
    overrule="never",
    why="Too much film, or any metal in it, blinds the radar.",
    instead="Only a coating the manual rates for radomes, at its thickness.",
)
def radome(s: Stack) -> Iterator[Hit]:
    for i, sheet in s.sheets():
        wanting = _aircraft(s, "radome")
        if "radome" in s.survey.features and (sheet.properties.conducts or wanting is not None):
            asked = _asked("" if sheet.properties.conducts or wanting is None else wanting)
            yield Hit(i, f"{sheet.name} on a radome.", **asked)


@rule(
    "aircraft.composite",
    "stop",
    asks=True,
    overrule="never",
    why="Dark paint, stripper or grinding weakens a composite skin.",
    instead="Light colour, no chemical stripper, no grinding into fibre: by the manual, signed.",
)
def composite_skin(s: Stack) -> Iterator[Hit]:
    if "composite_skin" not in s.survey.features:
        return
    for i, sheet in s.sheets():
        wanting = s.wanting("signatory")
        if s.survey.dark and wanting is not None:
            yield Hit(i, f"A dark {sheet.name} on a composite skin.", **_asked(wanting))
            return
    for i, steps in s.steps():
        if any(d.step == "strip_paint" for d in steps):
            yield Hit(i, "Chemical stripper on a composite skin.")


@rule(
    "aircraft.whole",
    "stop",
    asks=True,
    overrule="never",
    why="A full repaint changes weight and balance.",
    instead="Follow the manual: strip, paint, reweigh; licensed sign-off.",
)
def whole_repaint(s: Stack) -> Iterator[Hit]:
    for i, sheet in s.sheets():
        wanting = _aircraft(s, "whole_aircraft")
        if wanting is not None and sheet.build == "film":
            yield Hit(i, f"{sheet.name} on the whole aircraft.", **_asked(wanting))
            return


@rule(
    "aircraft.cabin",
    "stop",
    asks=True,
    overrule="never",
    why="Cabin fabric, leather and plastic must not feed a fire.",
    instead="Only with flammability evidence for what it then is.",
)
def cabin(s: Stack) -> Iterator[Hit]:
    for i, sheet in s.sheets():
        wanting = s.wanting("burn_evidence")
        if "cabin" in s.survey.features and wanting is not None:
            yield Hit(i, f"{sheet.name} in an aircraft cabin.", **_asked(wanting))


@rule(
    "aircraft.window",
    "stop",
    overrule="never",
    why="Solvent crazes stretched acrylic, and it is part of the pressure skin.",
    instead="Only cleaners the manual names.",
)
def window(s: Stack) -> Iterator[Hit]:
    for i, sheet in s.sheets():
        if "window" in s.survey.features:
            yield Hit(i, f"{sheet.name} on an aircraft window.")


# What has to be asked of a part ---------------------------------------------------------------------


@rule(
    "features.unanswered",
    "stop",
    asks=True,
    overrule="never",
    why="Whether it is or hides something that must stay as it is was not said.",
    instead="Answer this first: tick what it is or hides, or none of these.",
)
def nobody_said_what_it_hides(s: Stack) -> Iterator[Hit]:
    part = s.survey.craft in ("aircraft", "vessel") or s.ground.id == "wheel_clear" or s.ground.id in INTERIOR
    told = any(FEATURES[f].group != "damage" for f in s.survey.features)
    if s.survey.has is not None and part and not told:
        for i, sheet in s.sheets()[:1]:
            yield Hit(i, f"{sheet.name} on a part nobody was asked about.", asks="features")


@rule(
    "under.unknown",
    "stop",
    asks=True,
    overrule="never",
    why="Nobody said what is under the old coat: in water copper eats aluminium, and rust lifts paint.",
    instead="Answer this first: steel, aluminium, laminate or wood.  A magnet and a scratch tell.",
)
def nobody_said_what_is_under(s: Stack) -> Iterator[Hit]:
    told = any(f.startswith("under_") for f in s.survey.features) or s.ground.hull_metal
    hidden = s.ground.group == "paint" and s.ground.coat != "varnish"
    if s.survey.has is not None and "immersion" in s.must_survive and hidden and not told:
        for i, sheet in s.sheets()[:1]:
            yield Hit(i, f"{sheet.name} over {s.ground.name} under water.", asks="features")
