"""The demo shop: an estuary airfield's finishing shop, jobs at every stage and two years behind them.

Everything is invented.  All times are relative to the moment of loading, so it lives on any date.
"""

from __future__ import annotations

import datetime as dt

from django.contrib.auth import get_user_model
from django.db import transaction
from django.db.models import F

from coatlog.core.sheet import Sheet
from coatlog.devices.forecast import SimulatedForecast
from coatlog.devices.probe import SimulatedProbe
from coatlog.logbook.imports import take_forecast
from coatlog.logbook.models import ClimateReading
from coatlog.shelf.services import load_typical, set_price
from coatlog.shop.models import Member, Place, Shop

from . import scenes

__all__ = ["PASSWORD", "PEOPLE", "load_estuary"]

PASSWORD = "estuary-demo"
PEOPLE = (("demo", Member.OWNER), ("painter", Member.PAINTER), ("viewer", Member.VIEWER))
PRICES = (
    ("epoxy-primer-2k", "1.25 l kit", 46.0),
    ("epoxy-primer-2k", "5 l kit", 148.0),
    ("textured-liner-2k", "bottle kit, 1 l", 39.0),
    ("textured-liner-2k", "four bottle kit", 138.0),
    ("epoxy-barrier", "2.5 l kit", 88.0),
    ("epoxy-barrier", "5 l kit", 164.0),
    ("copper-epoxy", "4 l resin and hardener with copper", 465.0),
    ("copper-epoxy", "1 l resin and hardener with copper", 128.0),
    ("tie-coat", "2.5 l kit", 96.0),
    ("hard-antifouling", "2.5 l tin", 142.0),
    ("hard-antifouling", "0.75 l tin", 51.0),
    ("vinyl-colour", "400 ml can", 13.5),
    ("wheel-peelable", "400 ml can", 12.0),
)


@transaction.atomic
def load_estuary(now: int, *, whole: bool = True) -> Shop:
    """Make the demo shop with its people, places, shelf, prices, jobs and history.

    Not `whole`: the load bed alone.
    """
    shop = Shop.objects.create(
        name="Saltmarsh Airfield Finishing",
        is_demo=True,
        opens=dt.time(0, 1),
        closes=dt.time(23, 59),
        painters=2,
        default_air_degc=20.0,
        voc_limit_g_per_l=540.0,
        has=[
            "air_fed",
            "exhaust",
            "booth",
            "spray_gun",
            "liner_gun",
            "compressor",
            "blast",
            "spark_free",
            "capture",
            "signatory",
        ],
        hasnt=["permit", "licensed", "maker_allows", "burn_evidence"],
    )
    users = get_user_model().objects
    members = []
    for name, role in PEOPLE:
        user = users.filter(username=name).first() or users.create_user(username=name, password=PASSWORD)
        members.append(Member.objects.create(user=user, shop=shop, role=role))
    bay = Place.objects.create(shop=shop, name="Bay 1", has_probe=True, holds=2)
    second = Place.objects.create(shop=shop, name="Bay 2", has_probe=True, holds=2)
    yard = Place.objects.create(shop=shop, name="Yard", outdoors=True)
    sheets = {s.material_id: s for s in load_typical(shop, now=now)}
    owner = Member.objects.select_related("shop", "user").get(pk=members[0].pk)
    for material_id, pack, amount in PRICES:
        set_price(owner, material_id=material_id, pack=pack, amount=amount)
    for place in (bay, second):
        _probe_history(place, now)
    take_forecast(owner, yard, SimulatedForecast(), now=now)
    scenes.load_bed(owner, bay, sheets, now)
    if whole:
        _the_rest(owner, bay, second, yard, sheets, now)
    # From here on it is touched by who works in it.
    Shop.objects.filter(pk=shop.pk).update(demo_seq=F("entry_seq"), demo_at=now)
    return shop


def _the_rest(
    owner: Member, bay: Place, second: Place, yard: Place, sheets: dict[str, Sheet], now: int
) -> None:
    scenes.hull(owner, second, sheets, now)
    scenes.cowling(owner, second, sheets, now)
    scenes.fairings(owner, bay, sheets, now)
    scenes.benches(owner, yard, sheets, now)
    scenes.slip_gate(owner, yard, sheets, now)
    scenes.years_before(owner, yard, sheets, now)


def _probe_history(place: Place, now: int) -> None:
    """Twelve hours by the quarter, four days before that by the hour."""
    probe = SimulatedProbe()
    times = [now - 900 * i for i in range(48, -1, -1)]
    times = [now - 12 * 3600 - 1800 * i for i in range(192, 0, -1)] + times
    readings = [probe.read(place.name, at) for at in times]
    ClimateReading.objects.bulk_create(
        [
            ClimateReading(
                place=place,
                at=r.at,
                air_degc=r.air_degc,
                surface_degc=r.surface_degc,
                rh_frac=r.rh_frac,
                source="probe",
            )
            for r in readings
        ]
    )
