"""What a finish usually asks for in service where its sheet says nothing, and what a look at a part answers.

Source of all of it: common practice, no published source; a sheet that names its own care wins.
"""

from __future__ import annotations

from .sheet import Care, Sheet

__all__ = ["EARLY_FRAC", "answered_by_look", "care_of"]

DAY = 86_400
#: a look made so much of the interval before it is due is that look
EARLY_FRAC = 0.25
#: how the keys of checks end that a look at the whole part answers; a bead test or a torque wrench is no look
_LOOKS = ("look", "edge", "first", "year")


def _check(key: str, what: str, after_d: int, every_d: int | None) -> Care:
    every_s = None if every_d is None else every_d * DAY
    return Care(key=f"usual.{key}", kind="check", what=what, after_s=after_d * DAY, every_s=every_s)


def _clean(key: str, what: str, after_d: int, every_d: int | None) -> Care:
    every_s = None if every_d is None else every_d * DAY
    return Care(key=f"usual.{key}", kind="clean", what=what, after_s=after_d * DAY, every_s=every_s)


_FIRST_WASH = _clean("wash", "First wash, by hand and without wax", 7, None)
_PAINT = _check("look", "Look at edges, joints and stone chips", 180, 365)
_WORN = _check("look", "Look at the waterline, leading edges and rudder: worn through there first", 60, 90)
_LIFTED = _check("look", "Look for lifted edges", 30, 90)
_HIT = _check("look", "Look for chips, cracks and rust creeping under it", 180, 365)
_RUBBED = _check("look", "Look at edges and where loads rub", 30, 180)
_NO_FINISH = _check(
    "look", "No finish is on it: look for rust, chalk and wet edges, and coat it soon", 14, 14
)

#: by family; what is not here goes by its role
_FAMILIES: dict[str, tuple[Care, ...]] = {
    "enamel": (_PAINT,),
    "topcoat": (_FIRST_WASH, _PAINT),
    "clear": (_FIRST_WASH, _PAINT),
    "colour_can": (_PAINT,),
    "clear_can": (_PAINT,),
    "dope_colour": (_check("look", "Look for cracks, slack cloth and worn ribs", 90, 180),),
    "varnish": (
        _check("look", "Look for dull or lifting places; sand and recoat before it wears through", 120, 180),
    ),
    "lens": (_check("look", "Look for haze and yellowing", 180, 180),),
    "peelable": (_LIFTED, _clean("wash", "Wash with mild soap, no pressure at the edges", 7, 14)),
    "liner": (_RUBBED,),
    "liner_1k": (_RUBBED,),
    "liner_3c": (_RUBBED,),
    "grip": (_check("look", "Look where feet wear it, and at its edges", 90, 180),),
    "stone": (_HIT,),
    "bitumen": (_check("look", "Look for cracks and lifted skin: rust works on behind it", 180, 365),),
    "wax": (_check("look", "Look in by the drain holes; where it is thin, spray again", 365, 365),),
    "encapsulator": (_HIT,),
    "heat": (_check("look", "Look for chalk, flakes and rust after the first heats", 30, 180),),
    "caliper": (_check("look", "Look for chips, and where brake fluid ran", 180, 365),),
    "tank_lining": (
        _check(
            "look",
            "Look in from outside when empty, by a lamp made for vapour; nobody goes in without a permit",
            365,
            365,
        ),
    ),
    "silicone": (
        _clean("wipe", "Wipe slime with a soft cloth, no brush", 60, 60),
        _check("look", "Look for cuts and lifted edges; no strop or prop pad on it", 180, 365),
    ),
    "antifouling": (_WORN,),
    "copper_epoxy": (_WORN, _clean("brush", "Brush", 14, 14)),
    "propeller": (_check("look", "Look at the edges of the blades and the hub", 60, 90),),
    "strip": (_check("look", "Look at its ends and where it grounds", 90, 365),),
    "boot": (_check("look", "Look for shine gone, cracks, pinholes", 60, 60),),
    "clear_film": (_check("look", "Look for white or brown spots", 180, 180),),
    "ceramic": (_check("bead", "Bead test with water", 90, 180),),
    "protectant": (_check("bead", "Water beading test", 60, 60),),
    "glass_coating": (_check("bead", "Bead test with water", 30, 90),),
    "dye": (_check("look", "Look for grey and streaked places", 90, 180),),
    "trim": (_check("look", "Look for chips; no pressure washer near it", 90, 180),),
    "trim_clear": (_check("look", "Look for milky or peeling places", 90, 180),),
    "vinyl": (_check("look", "Look at seams and front edges", 30, 180),),
}
_ROLES: dict[str, tuple[Care, ...]] = {
    "antifouling": (_WORN,),
    "peelable": (_LIFTED,),
    "guard": (_RUBBED,),
    "treatment": (_check("bead", "Bead test with water", 90, 180),),
    "clear": (_FIRST_WASH, _PAINT),
    "one_coat": (_PAINT,),
    "sealant": (_check("look", "Look for cracks and pinholes", 60, 60),),
}
#: layers that are meant to be covered
_COVERED = ("pretreatment", "primer", "filler", "build", "tie", "colour")


def care_of(sheet: Sheet) -> tuple[tuple[Care, ...], bool]:
    """What the finish asks for in service, and whether that is the usual and not its sheet's own."""
    if sheet.care:
        return sheet.care, False
    role = sheet.purpose.role if sheet.purpose is not None else ""
    usual = _FAMILIES.get(sheet.properties.family)
    if usual is None:
        usual = (_NO_FINISH,) if role in _COVERED else _ROLES.get(role, (_PAINT,))
    return usual, True


def answered_by_look(key: str) -> bool:
    """Whether a look at the whole part answers the check with this key."""
    return key.rsplit(".", 1)[-1] in _LOOKS
