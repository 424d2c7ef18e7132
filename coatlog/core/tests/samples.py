"""Sheets, facts and entries for the core's tests.  Invented, except where a test names a source."""

from __future__ import annotations

from typing import Any

from coatlog.core.run.entries import Entry
from coatlog.core.run.facts import Facts, Layer, Part, PartSystem, Patches, make_facts
from coatlog.core.run.timeline import Climate, Series
from coatlog.core.sheet import Sheet, make_sheet

T0 = 1_760_000_000
PLACE = "bay"


def sheet(name: str, **over: Any) -> Sheet:
    """A two-pack sheet with round numbers at 23 degC."""
    data: dict[str, Any] = {
        "material_id": name,
        "name": name,
        "kind": "two-pack",
        "grade": "typical",
        "law": "chemical",
        "ea_j_per_mol": 50000.0,
        "stops_below_degc": 5.0,
        "method_id": "spray_gun",
        "components": [
            {"role": "base", "name": "Base", "parts": 4.0, "density_g_per_ml": 1.4, "solids_frac": 0.62},
            {
                "role": "hardener",
                "name": "Hardener",
                "parts": 1.0,
                "density_g_per_ml": 1.0,
                "solids_frac": 0.52,
            },
        ],
        "film": {"dry_um_min": 40.0, "dry_um_max": 75.0, "total_max_um": 400.0, "coats_max": 5},
        "points": [
            {"gate": "tacky", "at_degc": 23.0, "s": 600},
            {"gate": "touch", "at_degc": 23.0, "s": 3600},
            {"gate": "full", "at_degc": 23.0, "s": 86400},
        ],
        "recoat": [
            {"next": "same", "windows": [{"from_s": 1800, "to_s": 86400, "at_degc": 23.0}]},
            {"next": "any", "windows": [{"from_s": 3600, "to_s": 28800, "at_degc": 23.0}]},
        ],
        "pot": [{"at_degc": 23.0, "s": 3600}],
        "properties": {"family": name, "resin": "epoxy", "two_pack": True, "rated_for": ["bare_steel"]},
    }
    return make_sheet({**data, **over})


def liner_sheet(name: str = "liner") -> Sheet:
    """A liner that is masked: it has an unmask window."""
    points = [
        {"gate": "tacky", "at_degc": 23.0, "s": 600},
        {"gate": "touch", "at_degc": 23.0, "s": 3600},
        {"gate": "unmask_from", "at_degc": 23.0, "s": 3600},
        {"gate": "unmask_to", "at_degc": 23.0, "s": 14400},
        {"gate": "full", "at_degc": 23.0, "s": 86400},
    ]
    film = {"dry_um_min": 300.0, "dry_um_max": 400.0, "total_max_um": 1200.0, "coats_max": 3}
    return sheet(name, points=points, film=film, method_id="liner_gun")


def two_layer_facts(
    part_count: int = 1, liner_coats: int = 2, *, spots: bool = False, **sheet_over: Any
) -> Facts:
    """Primer then liner on each part; `spots`: the last one has a system of its own, its primer on spots."""
    primer, liner = sheet("primer", **sheet_over), liner_sheet()
    parts = tuple(
        Part(id=f"p{i}", name=f"Part {i}", area_m2=1.0, substrate="bare_steel", condition="", place_id=PLACE)
        for i in range(part_count)
    )
    layers = []
    for p in parts:
        layers += [
            Layer(
                id=f"{p.id}a",
                part_id=p.id,
                position=0,
                sheet_id=primer.id,
                target_um=50.0,
                tol_um=5.0,
                coats=1,
                method_id="spray_gun",
                patches=Patches(n=3, area_m2=0.05) if spots and p is parts[-1] else None,
            ),
            Layer(
                id=f"{p.id}b",
                part_id=p.id,
                position=1,
                sheet_id=liner.id,
                target_um=350.0 * liner_coats,
                tol_um=80.0,
                coats=liner_coats,
                method_id="liner_gun",
            ),
        ]
    sheets = {primer.id: primer, liner.id: liner}
    systems = (PartSystem(part_ids=(parts[-1].id,)),) if spots else ()
    return make_facts(
        job_id="job", version=1, parts=parts, layers=tuple(layers), sheets=sheets, systems=systems
    )


class Log:
    """Writes entries with rising counters."""

    def __init__(self, facts: Facts) -> None:
        self.facts, self.entries = facts, []
        self.add("facts_adopted", 0, facts_id=facts.id)

    def add(self, kind: str, at: int, *, device: str = "tablet", at_from: str = "tap", **body: Any) -> Entry:
        n = len(self.entries) + 1
        e = Entry(
            id=f"e{n:05d}",
            job_id="job",
            kind=kind,
            at=T0 + at,
            at_true=T0 + at,
            at_from=at_from,
            device_id=device,
            n=n,
            seq=n,
            body=body,
        )
        self.entries.append(e)
        return e

    def coat(self, coat_id: str, part: str, layer: str, n: int, start: int, end: int | None) -> None:
        ref = {"coat_id": coat_id, "part_id": part, "layer_id": layer, "n": n}
        self.add("coat_started", start, coats=[ref], facts_id=self.facts.id)
        if end is not None:
            self.add("coat_done", end, coat_ids=[coat_id])


def steady(degc: float, *, hours: int = 400, rh: float = 0.5, source: str = "probe") -> Climate:
    """A climate with a reading every half hour."""
    return stepped([(0, degc)], hours=hours, rh=rh, source=source)


def stepped(
    steps: list[tuple[int, float]], *, hours: int = 400, rh: float = 0.5, source: str = "probe"
) -> Climate:
    """Temperature by steps of (from second, degC), read every half hour from T0 - 1 h."""
    times = list(range(T0 - 3600, T0 + hours * 3600, 1800))
    temps = [next(v for s, v in reversed([(-(10**9), steps[0][1]), *steps]) if t - T0 >= s) for t in times]
    series = Series(
        t_at=tuple(times),
        air_degc=tuple(temps),
        surface_degc=tuple([None] * len(times)),
        rh_frac=tuple([rh] * len(times)),
        source=tuple([source] * len(times)),
    )
    return Climate(id="c", places={PLACE: series}, default_air_degc=18.0)
