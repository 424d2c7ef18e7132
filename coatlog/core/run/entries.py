"""The entries of the log: one small fact each, and the shape of its body by kind.

An entry says what happened, also when it was wrong practice.  Refused are only malformed ones.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from datetime import date
from typing import Any, Literal

from ..codec import from_plain
from ..errors import Underspecified

__all__ = ["BODIES", "DamageFound", "Entry", "check_body", "parse_body", "read_body", "read_grit"]


@dataclass(frozen=True, slots=True, kw_only=True)
class Entry:
    """One line of the log.  `at_true` is fixed when it is stored and orders the log."""

    id: str
    job_id: str | None
    kind: str
    v: int = 1
    at: int
    at_from: Literal["tap", "typed", "import"] = "tap"
    at_true: int
    actor_id: str = ""
    device_id: str
    n: int
    seq: int = 0
    group_id: str | None = None
    body: Mapping[str, Any]

    def order(self) -> tuple[int, str, int, str]:
        """Its place in the log: by time, then device and its counter."""
        return (self.at_true, self.device_id, self.n, self.id)


@dataclass(frozen=True, slots=True, kw_only=True)
class FactsAdopted:
    facts_id: str
    reason: str = ""


@dataclass(frozen=True, slots=True, kw_only=True)
class PlanAdopted:
    plan_id: str
    reason: str = ""
    changed: tuple[str, ...] = ()


@dataclass(frozen=True, slots=True, kw_only=True)
class StepDone:
    part_ids: tuple[str, ...]
    step: Literal["wash", "degrease", "abrade", "wipe", "dry", "mask", "test_piece", "wipe off", "other"]
    task_key: str | None = None
    grit: str | None = None
    check_id: str | None = None
    note: str = ""


@dataclass(frozen=True, slots=True, kw_only=True)
class CanBody:
    """Which can it came out of, as its label says: lot, and when it expires and was opened ("2027-03-31").

    `of`: the sheet whose system it belongs to, `product` what it is called; "": that of the mix.
    """

    lot: str = ""
    expires_on: str = ""
    opened_on: str = ""
    of: str = ""
    product: str = ""


@dataclass(frozen=True, slots=True, kw_only=True)
class PourBody:
    batch_id: str
    sheet_id: str
    component: Literal["base", "hardener", "tint", "thinner", "filler", "can"]
    ml: float | None = None
    scale_g: float | None = None
    can: CanBody | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class MixedPart:
    role: str
    lot_id: str | None = None
    ml: float | None = None
    g: float | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class BatchMixed:
    """A mix stirred.  `mix_degc`: how warm it is, measured; None: as warm as its air."""

    batch_id: str
    sheet_id: str
    parts: tuple[MixedPart, ...]
    hardener_in_at: int | None = None
    cup_id: str | None = None
    mix_degc: float | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class BatchClosed:
    """No more is taken from it.  Left in it: by the cup [ml] or the scale [g]; None: nobody looked."""

    batch_id: str
    left_ml: float | None = None
    why: Literal["used", "died", "thrown"]
    left_g: float | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class CoatRef:
    coat_id: str
    part_id: str
    layer_id: str
    n: int


@dataclass(frozen=True, slots=True, kw_only=True)
class CoatStarted:
    """Coats begun by one tap.

    `painter`: who sprays, where it is not who tapped; `gun`: with what.  `breathing`: what the painter
    breathes through; None: nobody said.  `sensitised`: the painter must not meet isocyanates at all.
    """

    coats: tuple[CoatRef, ...]
    facts_id: str
    batch_ids: tuple[str, ...] = ()
    place_id: str | None = None
    painter_id: str | None = None
    character: str | None = None
    direction: str | None = None
    setup: str | None = None
    painter: str = ""
    gun: str = ""
    breathing: Literal["air_fed", "cartridge", "none"] | None = None
    sensitised: bool = False


@dataclass(frozen=True, slots=True, kw_only=True)
class Moved:
    """Parts carried to another place: their air is its air from then on."""

    part_ids: tuple[str, ...]
    place_id: str


@dataclass(frozen=True, slots=True, kw_only=True)
class CoatPaused:
    coat_id: str
    why: str = ""


@dataclass(frozen=True, slots=True, kw_only=True)
class Draw:
    batch_id: str
    ml: float


@dataclass(frozen=True, slots=True, kw_only=True)
class CoatDone:
    coat_ids: tuple[str, ...]
    coverage_frac: float | None = None
    draws: tuple[Draw, ...] = ()


@dataclass(frozen=True, slots=True, kw_only=True)
class CoatRemoved:
    coat_ids: tuple[str, ...]
    how: Literal["sanded", "stripped", "peeled"]
    was: Literal["sound", "failed", "unknown"] = "unknown"
    removed_um: float | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class CoatsSet:
    """So many coats of a layer and no more or fewer: it covers, or it wants one more.  Later words win."""

    part_id: str
    layer_id: str
    coats: int
    reason: str = ""


@dataclass(frozen=True, slots=True, kw_only=True)
class HeatSet:
    """Heat on parts, a lamp or a blanket: how warm their surface gets; off: that is over.

    What nobody switches off or says again counts for two hours.
    """

    part_ids: tuple[str, ...]
    on: bool
    surface_degc: float | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class FilmRead:
    part_id: str
    coat_id: str | None = None
    what: Literal["wet_comb", "dry_total"]
    low_um: float | None = None
    high_um: float | None = None
    um: tuple[float, ...] = ()
    spot: str = ""
    device: str = ""


@dataclass(frozen=True, slots=True, kw_only=True)
class ClimateRead:
    place_id: str
    part_id: str | None = None
    air_degc: float
    surface_degc: float | None = None
    rh_frac: float
    wind_m_s: float | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class GateChecked:
    part_id: str
    gate: str
    passed: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class Unmasked:
    """Tape off: how the edge came out, and how it was parted; "" where nobody said."""

    part_ids: tuple[str, ...]
    result: Literal["clean", "ragged", "lifted"]
    cut: Literal["", "pulled", "knife", "wire"] = ""


@dataclass(frozen=True, slots=True, kw_only=True)
class Defect:
    part_id: str
    coat_id: str | None = None
    type: str
    area_frac: float | None = None
    photo_ids: tuple[str, ...] = ()


@dataclass(frozen=True, slots=True, kw_only=True)
class Note:
    """Words or pictures, of a part or a coat where they are about one."""

    text: str
    photo_ids: tuple[str, ...] = ()
    part_id: str | None = None
    coat_id: str | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class ClaimBody:
    """What was promised when the part went into service."""

    life_s: int | None = None
    text: str = ""


@dataclass(frozen=True, slots=True, kw_only=True)
class InService:
    """Put into use.  `reason`: why in spite of what the log says is wrong with it; the owner's words."""

    part_ids: tuple[str, ...]
    claim: ClaimBody = ClaimBody()
    reason: str = ""


@dataclass(frozen=True, slots=True, kw_only=True)
class RatingBody:
    scale_id: Literal["look"]
    value: int


@dataclass(frozen=True, slots=True, kw_only=True)
class Inspected:
    part_ids: tuple[str, ...]
    ratings: tuple[RatingBody, ...] = ()
    photo_ids: tuple[str, ...] = ()
    care_key: str | None = None
    note: str = ""


@dataclass(frozen=True, slots=True, kw_only=True)
class Cleaned:
    part_ids: tuple[str, ...]
    care_key: str | None = None
    how: str = ""


@dataclass(frozen=True, slots=True, kw_only=True)
class TouchedUp:
    part_ids: tuple[str, ...]
    what: str = ""


@dataclass(frozen=True, slots=True, kw_only=True)
class DamageFound:
    """Damage that was there before any work; the pin is where on the picture, from its top left corner."""

    part_id: str
    text: str
    photo_id: str | None = None
    across_frac: float | None = None
    down_frac: float | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class Overruled:
    rule_id: str
    subject: str
    reason: str
    sheet_ref: str = ""


@dataclass(frozen=True, slots=True, kw_only=True)
class JobEnded:
    """No more is done on it: finished, or given up and why."""

    how: Literal["closed", "abandoned"]
    reason: str = ""


@dataclass(frozen=True, slots=True, kw_only=True)
class JobReopened:
    reason: str = ""


@dataclass(frozen=True, slots=True, kw_only=True)
class Archived:
    """Put away, so that lists do not show it; or brought back."""

    archived: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class Corrected:
    """A word about the job put right; the log keeps what stood there before."""

    what: Literal["title", "asset", "mark", "paint_code", "customer"]
    was: str
    now: str


@dataclass(frozen=True, slots=True, kw_only=True)
class Strike:
    target_id: str
    reason: str


BODIES: dict[str, type] = {
    "facts_adopted": FactsAdopted,
    "plan_adopted": PlanAdopted,
    "step_done": StepDone,
    "step_failed": StepDone,
    "pour": PourBody,
    "batch_mixed": BatchMixed,
    "batch_closed": BatchClosed,
    "coat_started": CoatStarted,
    "moved": Moved,
    "coat_paused": CoatPaused,
    "coat_resumed": CoatPaused,
    "coat_done": CoatDone,
    "coat_removed": CoatRemoved,
    "coats_set": CoatsSet,
    "heat_set": HeatSet,
    "film_read": FilmRead,
    "climate_read": ClimateRead,
    "gate_checked": GateChecked,
    "unmasked": Unmasked,
    "defect": Defect,
    "note": Note,
    "damage_found": DamageFound,
    "in_service": InService,
    "inspected": Inspected,
    "cleaned": Cleaned,
    "touched_up": TouchedUp,
    "overruled": Overruled,
    "job_ended": JobEnded,
    "job_reopened": JobReopened,
    "archived": Archived,
    "corrected": Corrected,
    "strike": Strike,
}

MOST_COATS = 40
MOST_LETTERS = 4000
MOST_DRY_UM = 20_000.0  # two centimetres of paint: more than any gauge reads

#: lists that must name something
_SOME = {"part_ids": "part", "coats": "coat", "coat_ids": "coat", "parts": "component"}
_BOUNDS = {
    "ml": (0, 1e6),
    "g": (0, 1e6),
    "scale_g": (0, 1e6),
    "left_ml": (0, 1e6),
    "left_g": (0, 1e6),
    "low_um": (0, 1e5),
    "high_um": (0, 1e5),
    "removed_um": (0, 1e5),
    "coverage_frac": (0, 1.5),
    "area_frac": (0, 1),
    "across_frac": (0, 1),
    "down_frac": (0, 1),
    "air_degc": (-40, 60),
    "surface_degc": (-40, 120),
    "mix_degc": (-10, 60),
    "rh_frac": (0.001, 1),
    "wind_m_s": (0, 80),
    "value": (0, 5),
    "life_s": (1, 4_000_000_000),
}


def read_body(kind: str, body: Mapping[str, Any]) -> Any:
    """The body as its dataclass, and nothing in it that cannot be: how entries come in, and are replayed.

    Raises Underspecified naming field, given and expected.
    """
    parsed = parse_body(kind, body)
    check_body(kind, parsed)
    return parsed


def check_body(kind: str, parsed: Any) -> None:
    """Refuse what cannot be.  Logs from before this was asked may hold it; they are flagged in replay.

    Raises Underspecified naming field, given and expected.
    """
    for name, what in _SOME.items():
        if name in parsed.__dataclass_fields__ and not getattr(parsed, name):
            raise Underspecified(f"body.{name}", [], f"at least one {what}")
    if isinstance(parsed, CoatStarted) and any(not 1 <= ref.n <= MOST_COATS for ref in parsed.coats):
        expected = f"coats counted from 1, at most {MOST_COATS}"
        raise Underspecified("body.coats", [ref.n for ref in parsed.coats], expected)
    for name in ("part_ids", "coat_ids"):
        ids = getattr(parsed, name, ())
        if len(ids) != len(set(ids)):
            raise Underspecified(f"body.{name}", list(ids), "each once")
    for name in ("text", "reason"):
        if len(getattr(parsed, name, None) or "") > MOST_LETTERS:
            raise Underspecified(
                f"body.{name}", getattr(parsed, name)[:60], f"at most {MOST_LETTERS} letters"
            )
    for name in ("painter", "gun"):
        if isinstance(parsed, CoatStarted) and len(getattr(parsed, name)) > 60:
            raise Underspecified(f"body.{name}", getattr(parsed, name)[:60], "at most 60 letters")
    if isinstance(parsed, CoatsSet) and not 1 <= parsed.coats <= MOST_COATS:
        raise Underspecified("body.coats", parsed.coats, f"1 to {MOST_COATS} coats")
    if isinstance(parsed, HeatSet) and parsed.on and parsed.surface_degc is None:
        raise Underspecified("body.surface_degc", None, "how warm the surface gets [°C]")
    if isinstance(parsed, FilmRead):
        _check_film(parsed)
    if isinstance(parsed, PourBody) and parsed.can is not None:
        _check_can(parsed.can)


def read_grit(text: str | None) -> int | None:
    """A grit as it was typed, "P80" or "80" (FEPA P); None: none, or nobody can tell."""
    digits = (text or "").strip().upper().removeprefix("P").strip()
    return int(digits) if digits.isascii() and digits.isdigit() and 6 <= int(digits) <= 10_000 else None


def _check_can(can: CanBody) -> None:
    for name, most in (("lot", 60), ("product", 80), ("of", 80)):
        if len(getattr(can, name)) > most:
            raise Underspecified(f"body.can.{name}", getattr(can, name)[:60], f"at most {most} letters")
    for name in ("expires_on", "opened_on"):
        given = getattr(can, name)
        try:
            if given:
                date.fromisoformat(given)
        except ValueError:
            raise Underspecified(f"body.can.{name}", given[:20], "a day, as in 2027-03-31") from None


def _check_film(read: FilmRead) -> None:
    if read.what == "dry_total":
        if not read.um:
            raise Underspecified("body.um", [], "at least one reading of the gauge [µm]")
        for i, um in enumerate(read.um):
            if not 0 <= um <= MOST_DRY_UM:
                raise Underspecified(f"body.um[{i}]", um, f"0 to {MOST_DRY_UM:g} µm")
        return
    if read.coat_id is None or read.low_um is None or read.high_um is None:
        raise Underspecified("body.low_um", read.low_um, "the coat, its last wet and its first dry tooth")
    if not read.low_um < read.high_um:
        given = f"{read.low_um:g} and {read.high_um:g}"
        raise Underspecified("body.high_um", given, "a first dry tooth above the last wet one")


def parse_body(kind: str, body: Mapping[str, Any]) -> Any:
    """The body as its dataclass.  Raises Underspecified naming field, given and expected."""
    if kind not in BODIES:
        raise Underspecified("kind", kind, "one of " + ", ".join(BODIES))
    parsed: Any = from_plain(BODIES[kind], body, "body")
    _check_bounds(parsed, "body")
    if kind in ("strike", "overruled") and not parsed.reason.strip():
        raise Underspecified("body.reason", parsed.reason, "a reason in words")
    if kind == "job_ended" and parsed.how == "abandoned" and len(parsed.reason.strip()) < 4:
        raise Underspecified("body.reason", parsed.reason, "why it is given up, in words")
    if kind == "damage_found" and not 1 <= len(parsed.text.strip()) <= 400:
        raise Underspecified("body.text", parsed.text[:40], "what is damaged, 1 to 400 letters")
    if kind == "pour" and parsed.ml is None and parsed.scale_g is None:
        raise Underspecified("body.ml", None, "ml poured, or what the scale shows")
    return parsed


def _check_bounds(value: Any, path: str) -> None:
    for name in value.__dataclass_fields__:
        item = getattr(value, name)
        at = f"{path}.{name}"
        if name in _BOUNDS and item is not None:
            low, high = _BOUNDS[name]
            if not low <= item <= high:
                raise Underspecified(at, item, f"{low:g} to {high:g}")
        if hasattr(item, "__dataclass_fields__"):
            _check_bounds(item, at)
        for i, sub in enumerate(item if isinstance(item, tuple) else ()):
            if hasattr(sub, "__dataclass_fields__"):
                _check_bounds(sub, f"{at}[{i}]")
