"""Weather files through the upload, against the public TMY3 file that ships with pvlib."""

from __future__ import annotations

import datetime as dt
import itertools
import math
import uuid
from functools import cached_property
from pathlib import Path
from typing import Any

import numpy as np
import pvlib
from django.core.files.uploadedfile import SimpleUploadedFile
from django.test import SimpleTestCase, TestCase

from coatlog.core.climate import dew_point_degc, frost_point_degc
from coatlog.errors import Refused
from coatlog.logbook.models import ClimateReading
from coatlog.logbook.weather_files import HourRow, Manner, read_weather
from coatlog.run import projection
from coatlog.run.models import JobProjection
from coatlog.shop import clock

from .base import NOW, ShopMixin

LAID = Manner(lay="this_year")
TMY3 = Path(pvlib.__file__).parent / "data" / "703165TY.csv"
TMY3A = TMY3.with_name("723170TYA.CSV")


class Tmy3Test(SimpleTestCase):
    """Source: station 703165 of the public TMY3 collection, as shipped in pvlib."""

    def test_the_dew_point_column_agrees_with_ours_within_its_rounding_away_from_the_seams(self) -> None:
        rows = read_weather(TMY3.read_bytes(), "703165TY.csv", year=2026, manner=LAID).rows
        self.assertEqual(len(rows), 8760)
        seam = np.array([r.month_seam for r in rows])
        outside = self.misfits(rows) & ~seam
        self.assertEqual(int(outside.sum()), 0, [rows[i] for i in np.flatnonzero(outside)[:3]])
        # 12 joins of 16 h, the year's own ends included: those rows are smoothed and may differ.
        self.assertTrue(150 < seam.sum() < 200, seam.sum())

    def misfits(self, rows: tuple[HourRow, ...]) -> np.ndarray:
        """Rows whose dew point differs from ours by more than the columns' rounding explains."""
        t, rh = np.array([r.air_degc for r in rows]), np.array([r.rh_frac for r in rows])
        theirs = np.array([r.dew_point_degc for r in rows], dtype=float)

        def ours(t: np.ndarray, rh: np.ndarray) -> np.ndarray:
            rh = np.clip(rh, 0.001, 1.0)
            return np.where(theirs < 0, frost_point_degc(t, rh), dew_point_degc(t, rh))

        here = ours(t, rh)
        rounding = np.abs(here - ours(t, rh - 0.01)) * 0.5 + np.abs(ours(t + 1, rh) - here) * 0.05 + 0.05
        return np.abs(here - theirs) > rounding + 1e-6

    def test_hour_ending_standard_time_and_midnight(self) -> None:
        """Row one says 01:00 at -9 h: it covers 00:00 to 01:00 there, 09:00 to 10:00 UTC."""
        rows = read_weather(TMY3.read_bytes(), "703165TY.csv", year=2026, manner=LAID).rows
        first = dt.datetime.fromtimestamp(rows[0].at, dt.UTC)
        self.assertEqual((first.year, first.month, first.day, first.hour), (2026, 1, 1, 9))
        self.assertTrue(all(b.at - a.at == 3600 for a, b in itertools.pairwise(rows)))
        self.assertEqual(len(read_weather(TMY3.read_bytes(), "x.csv", year=2028, manner=LAID).rows), 8760)


class DecadesTest(SimpleTestCase):
    """Source: station 723170 of the public TMY3 collection, as shipped in pvlib: its months differ."""

    def test_each_month_below_zero_is_read_as_its_own_dew_points_tell(self) -> None:
        rows = read_weather(TMY3A.read_bytes(), "723170TYA.CSV", year=2026, manner=LAID).rows
        cold = [r for r in rows if r.air_degc < 0 and not r.month_seam and r.dew_point_degc is not None]
        self.assertGreater(len(cold), 700)
        self.assertEqual({r.over_ice for r in cold}, {True, False})
        for r in cold:
            point = frost_point_degc if r.over_ice else dew_point_degc
            ours = float(point(r.air_degc, r.rh_frac))
            # A whole percent of humidity and a tenth of a degree are what its columns can say.
            step = abs(float(point(r.air_degc, min(1.0, r.rh_frac + 0.01))) - ours)
            self.assertLess(abs(ours - r.dew_point_degc), step + 0.15, r)


class MannerTest(SimpleTestCase):
    LOCAL = (
        "time_local,air_degc,rh_frac,rain_mm\n2024-02-28T23:00,8,0.7,0\n"
        "2024-02-29T01:00,7,0.8,1.5\n2024-03-01T01:00,6,0.8,\n"
    )

    def read(self, text: str, year: int = 2026, **manner: Any) -> list[str]:
        file = read_weather(text.encode(), "a.csv", year=year, manner=Manner(**{"lay": "history", **manner}))
        self.notes = " ".join(file.notes)
        return [f"{dt.datetime.fromtimestamp(r.at, dt.UTC):%Y-%m-%d %H}" for r in file.rows]

    def test_hour_ending_local_standard_time_as_it_happened(self) -> None:
        """23:00 at +1 h, hour-ending, is the hour from 21:00 UTC."""
        got = self.read(self.LOCAL, stamps="end", hours_from_utc=1)
        self.assertEqual(got, ["2024-02-28 21", "2024-02-28 23", "2024-02-29 23"])
        self.assertIn("Gap of 1 h from 2024-02-28 22:00 UTC, Gap of 23 h", self.notes)

    def test_a_typical_year_is_laid_onto_this_one_and_drops_a_day_it_lacks(self) -> None:
        got = self.read(self.LOCAL, lay="this_year", hours_from_utc=0)
        self.assertEqual(got, ["2026-02-28 23", "2026-03-01 01"])
        self.assertEqual(len(self.read(self.LOCAL, year=2028, lay="this_year", hours_from_utc=0)), 3)

    def test_a_column_in_fahrenheit_says_so_in_its_name(self) -> None:
        text = "time_utc,air_degf,rh_frac,surface_degf\n2026-03-01T09:00:00Z,55,0.7,50\n"
        (row,) = read_weather(text.encode(), "f.csv", year=2026, manner=Manner(lay="history")).rows
        self.assertEqual((row.air_degc, row.surface_degc), (12.78, 10.0))

    def test_local_times_ask_for_the_zone_and_a_typical_year_is_no_history(self) -> None:
        with self.assertRaises(Refused) as caught:
            self.read(self.LOCAL)
        self.assertIn("hours its standard time is from UTC", caught.exception.detail)
        with self.assertRaises(Refused) as caught:
            read_weather(TMY3.read_bytes(), "t.csv", year=2026, manner=Manner(lay="history"))
        self.assertIn("Lay it onto this year", caught.exception.detail)


class RefusalTest(SimpleTestCase):
    def test_a_bad_file_is_refused_whole_naming_line_column_given_and_expected(self) -> None:
        good = "time_utc,air_degc,rh_frac\n2026-03-01T09:00:00Z,8.5,0.71\n"
        tmy = TMY3.read_text().splitlines()
        cases = {
            "empty.csv": (b"", "is empty"),
            "picture.csv": (b"\x89PNG\r\n", "not a text file"),
            "words.csv": (b"hello\nthere\n", "no format is recognised"),
            "fahrenheit.csv": (good.replace("8.5", "55").encode(), "name the column air_degf"),
            "percent.csv": (
                good.replace("0.71", "71").encode(),
                "line 2, column rh_frac: '71' stands there, expected a number from 0.001 to 1",
            ),
            "nozone.csv": (good.replace("00Z", "00").encode(), "line 2, column time_utc"),
            "text.csv": (good.replace("8.5", "mild").encode(), "column air_degc: 'mild'"),
            "column.csv": (good.replace("air_degc", "temp").encode(), "column air_degc is missing"),
            "short.csv": ((good + "2026-03-01T10:00:00Z,1\n").encode(), "line 3: 2 columns, expected 3"),
            "back.csv": ((good + "2026-03-01T08:00:00Z,1,0.5\n").encode(), "a time after the line before"),
            "hole.csv": ("\n".join(tmy[:20] + tmy[22:40]).encode(), "an hour is missing"),
            "hour.csv": (
                "\n".join(tmy[:5]).replace("03:00", "25:00").encode(),
                "a full hour from 01:00 to 24:00",
            ),
        }
        for name, (data, said) in cases.items():
            with self.assertRaises(Refused, msg=name) as caught:
                read_weather(data, name, year=2026, manner=LAID)
            self.assertIn(said, caught.exception.detail, name)
            self.assertIn(name, caught.exception.detail)


class ImportTest(ShopMixin, TestCase):
    def setUp(self) -> None:
        super().setUp()
        self.client = self.signed_in("owner1")

    def upload(self, data: bytes, name: str = "703165TY.csv"):
        file = SimpleUploadedFile(name, data, content_type="text/csv")
        return self.client.post(f"/api/weather/{self.place.pk}/import", {"file": file, "lay": "this_year"})

    def test_flash_windows_and_cure_of_a_whole_run_follow_the_uploaded_file(self) -> None:
        """The file as it is, in its July: every span and gate against a sum over its hours by hand."""
        r = self.upload(TMY3.read_bytes())
        self.assertEqual((r.status_code, r.json()["rows"]), (200, 8760), r.content[:300])
        at = self.run_job(int(dt.datetime(2026, 7, 9, 19, tzinfo=dt.UTC).timestamp()))
        state = JobProjection.objects.get(job=self.job).state
        part = state["parts"][0]
        primer, liner, last = part["films"]
        facts = self.job.facts.get().doc
        joins = {(j["lower"], j["upper"]): j["recoat"]["windows"][0] for j in facts["joins"]}
        over_primer = joins[primer["sheet_id"], liner["sheet_id"]]
        over_itself = joins[liner["sheet_id"], liner["sheet_id"]]
        low = {"epoxy": 10.0, "liner": 8.0}
        opens = {f["coat_id"]: first_open(f["spans"]) for f in (primer, liner)}
        self.near(opens[primer["coat_id"]], self.after(at[0][1], over_primer["from_s"], 20, low["epoxy"], -2))
        self.near(opens[liner["coat_id"]], self.after(at[1][1], over_itself["from_s"], 20, low["liner"], -2))
        gates = {g["name"]: g for g in part["gates"]}
        for name in ("touch", "handle", "use", "full"):
            likely = []
            for film, (_, done) in zip(part["films"], at, strict=True):
                family = facts["sheets"][film["sheet_id"]]["properties"]["family"]
                points = [p for p in facts["sheets"][film["sheet_id"]]["points"] if p["gate"] == name]
                likely += [self.after(done, p["s"], p["at_degc"], low[family], 0) for p in points]
            self.near(gates[name]["likely_at"], max(likely))
            self.assertGreater(gates[name]["assumed_s"], 0, "a typical year is a guess")
        closes = self.after(at[2][0], 14400, 20, low["liner"], +2)
        self.near(gates["unmask_from"]["closes_at"], closes)
        self.assertEqual(last["n"], 2)

    def run_job(self, first: int) -> list[tuple[int, int]]:
        """Primer and two liner coats, six and nine hours apart; answers (start, done) of each."""
        layers = sorted(self.job.facts.get().doc["layers"], key=lambda x: x["position"])
        plan = [(layers[0], 1, first), (layers[1], 1, first + 6 * 3600), (layers[1], 2, first + 15 * 3600)]
        out = []
        for layer, n, start in plan:
            coat_id = str(uuid.uuid4())
            coat = {"coat_id": coat_id, "part_id": layer["part_id"], "layer_id": layer["id"], "n": n}
            body = {"coats": [coat], "facts_id": self.job.facts.get().facts_id}
            typed = {"at_from": "typed"}
            self.send(self.client, self.entry("coat_started", body, at=start, **typed))
            self.send(self.client, self.entry("coat_done", {"coat_ids": [coat_id]}, at=start + 600, **typed))
            out.append((start, start + 600))
        return out

    def after(self, start: int, s: float, at_degc: float, stops_below: float, shift_k: float) -> float:
        """When `s` seconds at a temperature have ripened, hour by hour (Ea 50 kJ/mol, ASTM C1074)."""
        done, at = 0.0, float(start)
        while True:
            t = self.hours[int(at) // 3600 * 3600] + shift_k
            k = math.exp(-50000 / 8.314462618 * (1 / (t + 273.15) - 1 / (at_degc + 273.15)))
            rate = k if t >= stops_below else 0.0
            step = (int(at) // 3600 + 1) * 3600 - at
            if done + rate * step >= s:
                return at + (s - done) / rate
            done, at = done + rate * step, at + step

    @cached_property
    def hours(self) -> dict[int, float]:
        rows = read_weather(TMY3.read_bytes(), "703165TY.csv", year=2026, manner=LAID).rows
        return {r.at: r.air_degc for r in rows}

    def near(self, got: int, expected: float) -> None:
        self.assertAlmostEqual(got, expected, delta=2)

    def test_a_refused_file_changes_nothing(self) -> None:
        lines = TMY3.read_text().splitlines()
        lines[4000] = lines[4000].replace(lines[4000].split(",")[0], "13/44/1990")
        r = self.upload("\n".join(lines).encode())
        self.assertEqual(r.status_code, 422)
        self.assertIn("line 4001, column Date (MM/DD/YYYY)", r.json()["detail"])
        self.assertFalse(ClimateReading.objects.filter(place=self.place).exists())
        big = self.upload(b"time_utc,air_degc,rh_frac\n" + b" " * 50_000_000)
        self.assertIn(big.status_code, (413, 422))

    def test_the_probe_is_simulated_and_says_so(self) -> None:
        r = self.post(self.client, f"/api/weather/{self.place.pk}/probe", {}).json()
        self.assertTrue(r["simulated"])
        self.assertEqual(ClimateReading.objects.get(place=self.place).air_degc, r["air_degc"])
        self.assertEqual(
            JobProjection.objects.get(job=self.job).climate_id, projection.ground_of(self.job).climate.id
        )
        self.assertEqual(clock.now(), NOW)


class ForecastTest(ShopMixin, TestCase):
    def test_a_forecast_is_for_the_open_and_its_windows_have_room_for_the_whole_coat(self) -> None:
        client = self.signed_in("owner1")
        path = f"/api/weather/{self.place.pk}"
        self.assertEqual(self.post(client, f"{path}/forecast", {}).status_code, 422)
        self.place.outdoors = True
        self.place.save()
        self.assertTrue(self.post(client, f"{path}/forecast", {}).json()["simulated"])
        sheet = self.sheets["clear-anticorrosion"]
        page = client.get(path, {"sheet_id": sheet.id, "coat_min": 45}).json()
        need = page["need"]
        self.assertEqual((need["coat_s"], need["flash_s"], need["dry_s"]), (2700, 1800, 86400))
        hours = {h["at"]: h for h in page["hours"]}
        for w in page["windows"]:
            for start in (w["from_at"], w["latest_start_at"]):
                end, dry = start + 4500, start + 4500 + 86400
                for at, h in hours.items():
                    if start - 3600 < at < end:
                        self.assertEqual((h["stops"], h["source"]), ([], "forecast"))
                    if start - 3600 < at < dry:
                        self.assertFalse(h["rain_mm"])
        self.assertTrue(page["go"] or page["reason"])


class TypicalYearTest(ShopMixin, TestCase):
    """What is usual is no news of today: it counts under any forecast or reading, and never says go."""

    def setUp(self) -> None:
        super().setUp()
        self.client = self.signed_in("owner1")
        self.path = f"/api/weather/{self.place.pk}"
        hour = NOW // 3600 * 3600
        rows = "\n".join(
            f"{dt.datetime.fromtimestamp(hour + 3600 * i, dt.UTC):%Y-%m-%dT%H:%M:%SZ},21,0.5"
            for i in range(-4, 90)
        )
        file = SimpleUploadedFile("typical.csv", f"time_utc,air_degc,rh_frac\n{rows}\n".encode())
        r = self.client.post(f"{self.path}/import", {"file": file, "lay": "this_year"})
        self.assertEqual(r.status_code, 200, r.content[:300])

    def sources(self) -> dict[int, str]:
        return {h["at"]: h["source"] for h in self.client.get(self.path).json()["hours"]}

    def test_it_says_neither_go_nor_when(self) -> None:
        page = self.client.get(self.path).json()
        self.assertEqual((page["go"], page["windows"]), (False, []))
        self.assertIn("no typical hour ever happened: measure first", page["reason"])
        self.assertEqual(
            set(self.sources().values()), {"typical"} | ({"default"} & set(self.sources().values()))
        )
        job = self.client.get(f"/api/jobs/{self.job.pk}").json()
        self.assertTrue(all(r["assumed"] for r in job["ribbon"]))

    def test_a_forecast_and_a_reading_count_before_it(self) -> None:
        self.place.outdoors = True
        self.place.save()
        self.post(self.client, f"{self.path}/forecast", {})
        self.assertEqual({s for at, s in self.sources().items() if at > NOW + 3600}, {"forecast"})
        self.post(self.client, f"{self.path}/probe", {})
        self.assertEqual(self.sources()[NOW], "probe")


def first_open(spans: list[dict[str, Any]]) -> int:
    """When a film first opens."""
    return next(s["from_at"] for s in spans if s["state"] == "open")
