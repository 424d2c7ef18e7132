"""The jobs of the demo shop, each at another stage of the work."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

from coatlog.core.run.facts import PLANNED
from coatlog.core.sheet import Sheet
from coatlog.jobs.services import LayerDraft, PartDraft, create_job
from coatlog.shop.models import Member, Place

from .drawn import impact
from .past import DAY, HOUR, Past

__all__ = ["benches", "cowling", "fairings", "hull", "load_bed", "slip_gate", "years_before"]

Sheets = Mapping[str, Sheet]
Layers = Sequence[tuple[str, int, float | None]]


def _part(name: str, area_m2: float, substrate: str, survives: str, condition: str = "") -> PartDraft:
    return PartDraft(
        name=name,
        area_m2=area_m2,
        substrate=substrate,
        must_survive=tuple(survives.split()),
        condition=condition,
        features=("none",),
    )


def _start(
    owner: Member,
    place: Place,
    sheets: Sheets,
    now: int,
    ago: float,
    *,
    title: str,
    asset: tuple[str, str, str, str],
    customer: str,
    parts: Sequence[PartDraft],
    layers: Layers,
    choices: Mapping[str, str] | None = None,
) -> Past:
    """A job created `ago` minutes before now.  asset: name, kind, number, paint code."""
    name, kind, mark, paint_code = asset
    job, facts = create_job(
        owner,
        title=title,
        asset_name=name,
        asset_kind=kind,
        mark=mark,
        paint_code=paint_code,
        customer=customer,
        place_id=place.pk,
        parts=parts,
        layers=[LayerDraft(sheet_id=sheets[k].id, coats=n, target_um=um) for k, n, um in layers],
        choices=choices,
        now=now - round(ago * 60),
    )
    past = Past(job, facts, now)
    past.adopt(ago)
    return past


def load_bed(owner: Member, bay: Place, sheets: Sheets, now: int) -> None:
    """In the middle of its run: primer on, two of five parts lined once, one wet, a pot alive."""
    areas = (
        ("Tailgate", 0.9),
        ("Left side", 1.3),
        ("Right side", 1.3),
        ("Floor", 2.2),
        ("Headboard", 0.8),
    )
    past = _start(
        owner,
        bay,
        sheets,
        now,
        560,
        title="Load bed",
        asset=("Fire-service pickup", "road", "EST 417", "R 30"),
        customer="Airfield fire service",
        parts=[
            PartDraft(
                name=n,
                area_m2=a,
                substrate="bare_steel",
                condition="abraded P80",
                must_survive=("stones", "feet", "rain"),
            )
            for n, a in areas
        ],
        layers=[("epoxy-primer-2k", 2, 100.0), ("textured-liner-2k", 2, 700.0)],
    )
    epoxy, liner = sheets["epoxy-primer-2k"], sheets["textured-liner-2k"]
    past.prepare(540, grit="P80")
    primer = past.batch(epoxy, 2000.0, 500)
    for i, name in enumerate(("Tailgate", "Headboard", "Left side", "Right side", "Floor")):
        past.coat(name, epoxy, 1, 495 - 6 * i, primer)
        past.coat(name, epoxy, 2, 408 - 6 * i, primer)
    past.add(370, "batch_closed", batch_id=primer, left_ml=120.0, why="used")
    a = past.batch(liner, 1340.0, 145)
    past.coat("Headboard", liner, 1, 140, a)
    past.coat("Left side", liner, 1, 134, a)
    b = past.batch(liner, 2260.0, 86)
    past.coat("Right side", liner, 1, 80, b)
    past.coat("Floor", liner, 1, 47, b)
    past.add(30, "batch_closed", batch_id=b, left_ml=150.0, why="died")
    past.add(96, "batch_closed", batch_id=a, left_ml=70.0, why="died")
    c = past.batch(liner, 1400.0, 13)
    past.coat("Headboard", liner, 2, 9, c)
    past.post(owner, plan=True)


HULL_PARTS = (
    PartDraft(
        name="Port side",
        substrate="gelcoat",
        condition="keyed P80, pressure-washed",
        area_m2=17.7,
        shape_text="half of hull: waterline 9.1, beam 3.4, draught 1.8, fullness 0.75",
        must_survive=("immersion",),
        features=("none",),
    ),
    PartDraft(
        name="Starboard side",
        substrate="gelcoat",
        condition="keyed P80, pressure-washed",
        area_m2=17.7,
        must_survive=("immersion",),
        features=("none",),
        damage="old impact at the turn of the bilge, filled and faired, dry by meter",
    ),
    PartDraft(
        name="Rudder",
        substrate="gelcoat",
        condition="keyed P80",
        area_m2=1.3,
        must_survive=("immersion",),
        features=("none",),
    ),
)
BOOTS = ("Left wing boot", "Right wing boot")
SLOOP = ("Sloop, 10.6 m", "vessel", "SMH 88", "copper")


def hull(owner: Member, bay: Place, sheets: Sheets, now: int) -> None:
    """Barrier on two days ago, first copper coat rolled while it was tacky, second open now."""
    past = _start(
        owner,
        bay,
        sheets,
        now,
        3 * DAY,
        title="Underwater hull",
        asset=SLOOP,
        customer="M. Alder",
        parts=HULL_PARTS,
        layers=[("epoxy-barrier", 2, 220.0), ("copper-epoxy", 4, 240.0)],
        choices={
            "rejected": "2 × Epoxy barrier, 1 × Tie coat, 3 × Hard antifouling",
            "rejected_why": "three jobs against one in ten years, and the slipway is dear",
        },
    )
    barrier, copper = sheets["epoxy-barrier"], sheets["copper-epoxy"]
    past.damage(
        2.9 * DAY, "Starboard side", "old impact at the turn of the bilge", impact(), owner, (0.62, 0.58)
    )
    past.damage(2.89 * DAY, "Rudder", "gelcoat crazed at the heel, no fibre to be seen")
    past.prepare(2.2 * DAY, grit="P80")
    names = ("Port side", "Starboard side", "Rudder")
    for n, at in ((1, 30 * HOUR), (2, 7.2 * HOUR)):
        for i, name in enumerate(names):
            batch = past.batch(barrier, (4200.0, 4200.0, 500.0)[i], at - 32 * i + 7)
            past.coat(name, barrier, n, at - 32 * i, batch)
            past.add(at - 32 * i - 31, "batch_closed", batch_id=batch, left_ml=90.0, why="used")
    for i, name in enumerate(names):
        at = 3.1 * HOUR - 34 * i
        batch = past.batch(copper, (1300.0, 1300.0, 150.0)[i], at + 8)
        past.coat(name, copper, 1, at, batch)
        past.add(at - 33, "batch_closed", batch_id=batch, left_ml=40.0, why="used")
    past.post(owner, plan=True)


def cowling(owner: Member, bay: Place, sheets: Sheets, now: int) -> None:
    """Primer two days old, surfacer since yesterday: sanded today, waiting for colour."""
    past = _start(
        owner,
        bay,
        sheets,
        now,
        4 * DAY,
        title="Cowling repaint",
        asset=("Two-seat trainer", "aircraft", "X-SALT", "white 9"),
        customer="Saltmarsh flying group",
        parts=[
            PartDraft(
                name=n,
                area_m2=a,
                substrate="glass_fibre",
                condition="keyed P320",
                features=("composite_skin",),
                must_survive=("sun", "rain"),
            )
            for n, a in (("Upper cowling", 1.1), ("Lower cowling", 1.4))
        ],
        layers=[
            ("epoxy-primer-2k", 1, 55.0),
            ("urethane-surfacer-2k", 2, 130.0),
            ("base-coat", 3, 40.0),
            ("clear-coat-2k", 2, 60.0),
        ],
    )
    epoxy, surfacer = sheets["epoxy-primer-2k"], sheets["urethane-surfacer-2k"]
    past.prepare(3.1 * DAY, grit="P320")
    past.add(
        3.05 * DAY,
        "note",
        text="Ports, drains and placards taped over; list ticked before and after.",
        photo_ids=[],
    )
    names = ("Upper cowling", "Lower cowling")
    batch = past.batch(epoxy, 500.0, 2.05 * DAY + 10)
    for i, name in enumerate(names):
        past.coat(name, epoxy, 1, 2.05 * DAY - 8 * i, batch)
    past.add(2.0 * DAY, "batch_closed", batch_id=batch, left_ml=60.0, why="used")
    batch = past.batch(surfacer, 1600.0, 22 * HOUR + 10)
    for n in (1, 2):
        for i, name in enumerate(names):
            past.coat(name, surfacer, n, 22 * HOUR - 20 * (n - 1) - 6 * i, batch)
    past.add(21 * HOUR, "batch_closed", batch_id=batch, left_ml=140.0, why="used")
    past.sand(2 * HOUR, grit="P500")
    past.post(owner, plan=True)


def fairings(owner: Member, bay: Place, sheets: Sheets, now: int) -> None:
    """Surveyed and planned, nothing on yet: four parts that one tap starts."""
    past = _start(
        owner,
        bay,
        sheets,
        now,
        5 * HOUR,
        title="Fairings, colour and clear",
        asset=("Scooter", "road", "EST 902", "sea green"),
        customer="R. Teal",
        parts=[
            PartDraft(
                name="Fairing",
                area_m2=0.28,
                count=4,
                as_set=True,
                substrate="raw_polyolefin",
                condition="scuffed, wiped twice",
                must_survive=("sun", "rain", "stones"),
                damage="scrape on number 2, through to the plastic",
            )
        ],
        layers=[("adhesion-promoter", 1, 5.0), ("base-coat", 3, 40.0), ("clear-coat-2k", 2, 60.0)],
        choices={"steps": PLANNED, "wanted": "colour gloss"},
    )
    past.post(owner, plan=True)


def benches(owner: Member, yard: Place, sheets: Sheets, now: int) -> None:
    """The harbour ferry's benches: recoloured fourteen months ago, looked at since, due again."""
    past = _start(
        owner,
        yard,
        sheets,
        now,
        432 * DAY,
        title="Benches recoloured",
        asset=("Harbour ferry", "vessel", "SMH 12", "harbour blue"),
        customer="Estuary ferries",
        parts=[
            PartDraft(
                name="Upper deck benches",
                count=14,
                area_m2=0.9,
                substrate="vinyl",
                must_survive=("sun", "feet"),
                features=("none",),
            ),
            PartDraft(
                name="Saloon benches",
                count=10,
                area_m2=0.9,
                substrate="vinyl",
                must_survive=("feet",),
                features=("none",),
            ),
        ],
        layers=[("vinyl-colour", 3, 24.0)],
    )
    colour = sheets["vinyl-colour"]
    for i, name in enumerate(("Upper deck benches", "Saloon benches")):
        for n in (1, 2, 3):
            past.coat(name, colour, n, 430 * DAY - 60 * n - 300 * i)
    past.service(422, months=24, text="two years, said the price list")
    past.look(392, 5, "no rub-off on a white cloth", "vinyl.look")
    past.look(210, 4, "front edges of the upper deck paler", "vinyl.look")
    past.add(209 * DAY, "touched_up", part_ids=past.everything[:1], what="front edges, two cans")
    past.post(owner, plan=False)


def slip_gate(owner: Member, yard: Place, sheets: Sheets, now: int) -> None:
    """Three things went wrong and were put right: a window missed, a thin coat, a morning too cold."""
    primer, enamel = sheets["epoxy-primer-2k"], sheets["alkyd-enamel"]
    past = _start(
        owner,
        yard,
        sheets,
        now,
        70 * DAY,
        title="Slipway gate",
        asset=("Yard gate, north", "road", "", "green"),
        customer="Harbour office",
        parts=[_part("Gate", 2.4, "bare_steel", "sun rain", "brushed to bright metal")],
        layers=[("epoxy-primer-2k", 1, 55.0), ("alkyd-enamel", 2, 70.0)],
    )
    gate = past.everything[0]
    past.prepare(69 * DAY, grit="P120")
    past.add(69 * DAY - 2 * HOUR, "climate_read", place_id=str(yard.pk), air_degc=11.0, rh_frac=0.6)
    past.coat("Gate", primer, 1, 69 * DAY - 2 * HOUR)
    past.add(69 * DAY - 4 * HOUR, "climate_read", place_id=str(yard.pk), air_degc=17.0, rh_frac=0.6)
    past.add(66 * DAY, "gate_checked", part_id=gate, gate="handle", passed=True)
    past.sand(55 * DAY, grit="P240")  # the window had closed long before
    past.add(55 * DAY - 20, "climate_read", place_id=str(yard.pk), air_degc=18.0, rh_frac=0.6)
    past.coat("Gate", enamel, 1, 55 * DAY - 30)
    past.coat("Gate", enamel, 2, 53 * DAY)
    second = past.coat_ids[-1]
    past.add(
        53 * DAY - 20, "film_read", part_id=gate, coat_id=second, what="wet_comb", low_um=25.0, high_um=50.0
    )
    past.coat("Gate", enamel, 3, 51 * DAY)
    read = (
        141.0,
        152.0,
        138.0,
        160.0,
        133.0,
        147.0,
        121.0,
        155.0,
        149.0,
        144.0,
        139.0,
        150.0,
        146.0,
        136.0,
        143.0,
    )
    past.add(40 * DAY, "film_read", part_id=gate, what="dry_total", um=list(read))
    past.service(30)
    past.post(owner, plan=False)


def years_before(owner: Member, yard: Place, sheets: Sheets, now: int) -> None:
    """What the shop did in the two years before: one that failed, one peeled in time, two that hold."""
    past = _start(
        owner,
        yard,
        sheets,
        now,
        745 * DAY,
        title="Hull, hard antifouling",
        asset=SLOOP,
        customer="M. Alder",
        parts=[
            PartDraft(
                name="Underwater hull",
                substrate="old_hard_antifouling",
                area_m2=36.7,
                must_survive=("immersion",),
                features=("under_laminate",),
            )
        ],
        layers=[("hard-antifouling", 2, 90.0)],
    )
    coats = []
    for n in (1, 2):
        coats += past.coat("Underwater hull", sheets["hard-antifouling"], n, 744 * DAY - (n - 1) * 10 * HOUR)
    past.service(741, months=30)
    past.look(700, 5, "slime only", "antifouling.look")
    past.look(430, 3, "thin at the leading edge", "antifouling.look")
    past.look(60, 1, "bare patches at the waterline, barnacles")
    past.add(20 * DAY, "coat_removed", coat_ids=coats, how="stripped", was="failed")
    past.post(owner, plan=False)

    past = _start(
        owner,
        yard,
        sheets,
        now,
        500 * DAY,
        title="Wheels in graphite",
        asset=("Estate car", "road", "EST 233", ""),
        customer="D. Rush",
        parts=[
            PartDraft(
                name="Wheel",
                count=4,
                as_set=True,
                area_m2=0.16,
                substrate="wheel_clear",
                features=("clamping",),
                must_survive=("stones", "rain"),
            )
        ],
        layers=[("wheel-peelable", 4, 110.0)],
    )
    wheels = [f"Wheel {k}" for k in (1, 2, 3, 4)]
    coats = []
    for n in (1, 2, 3, 4):
        coats += past.coat(wheels, sheets["wheel-peelable"], n, 499 * DAY - 25 * n)
    past.service(498)
    past.look(496, 5, "nuts torqued after 80 km", "wheel.nuts")
    past.look(400, 4, "one edge lifted by a tyre iron", "wheel.edge")
    past.add(150 * DAY, "coat_removed", coat_ids=coats, how="peeled", was="sound")
    past.post(owner, plan=False)

    past = _start(
        owner,
        yard,
        sheets,
        now,
        130 * DAY,
        title="Boots sealed",
        asset=("Twin-engine survey aeroplane", "aircraft", "X-TIDE", ""),
        customer="Estuary survey",
        parts=[_part(n, 1.6, "black_rubber", "sun rain stretch") for n in BOOTS],
        layers=[("boot-sealant", 3, 42.0)],
    )
    for n in (1, 2, 3):
        for i, name in enumerate(BOOTS):
            past.coat(name, sheets["boot-sealant"], n, 129 * DAY - 40 * n - 12 * i)
    past.service(127, text="one season")
    past.look(66, 5, "even shine, bead good", "boot.look")
    past.post(owner, plan=False)

    past = _start(
        owner,
        yard,
        sheets,
        now,
        100 * DAY,
        title="Hood proofed",
        asset=("Open roadster", "road", "EST 58", ""),
        customer="H. Brent",
        parts=[_part("Fabric hood", 2.4, "woven_fabric", "sun rain")],
        layers=[("fabric-protectant", 3, None)],
    )
    for n in (1, 2, 3):
        past.coat("Fabric hood", sheets["fabric-protectant"], n, 99 * DAY - 28 * n)
    past.service(98)
    past.post(owner, plan=False)
