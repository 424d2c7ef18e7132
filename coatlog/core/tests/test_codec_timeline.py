"""Plain data in and out, and the air a part really had."""

from __future__ import annotations

import dataclasses
import json
import subprocess
import sys
import unittest
from typing import Any

from hypothesis import given, settings
from hypothesis import strategies as st

from coatlog.core.codec import canonical, content_id, from_plain, to_plain
from coatlog.core.drying import Pace
from coatlog.core.errors import Underspecified
from coatlog.core.run.facts import Facts
from coatlog.core.run.replay import replay
from coatlog.core.run.states import JobState
from coatlog.core.run.timeline import Climate, Reading, Series, Timeline
from coatlog.core.sheet import Sheet, make_sheet

from .samples import PLACE, T0, Log, sheet, steady, two_layer_facts

HOUR = 3600
#: Run apart: where it goes wrong it takes the process with it.
ALL_AT_ONCE = """
import sys, threading
from dataclasses import make_dataclass
from coatlog.core.codec import from_stored
sys.setswitchinterval(1e-6)
for n in range(40):
    kind, data = make_dataclass("Innermost", [("a", int)], frozen=True), {"a": 1}
    for k in range(12):
        fields, data = [("a", kind), ("b", dict[str, kind])], {"a": data, "b": {}}
        kind = make_dataclass(f"Outer{k}", fields, frozen=True)
    go, read = threading.Barrier(4), []
    def one():
        go.wait()
        read.append(from_stored(kind, data))
    threads = [threading.Thread(target=one) for _ in range(4)]
    for thread in threads: thread.start()
    for thread in threads: thread.join()
    assert len(read) == 4 and len(set(map(str, read))) == 1, read
"""
ROWS = st.lists(st.tuples(st.integers(0, 40 * HOUR), st.floats(-10, 40)), max_size=12)
PACE = Pace(((20.0, HOUR),), "chemical", 50000.0, 5.0, "min")


class CodecTest(unittest.TestCase):
    def test_a_field_that_came_later_renames_no_document_that_does_not_set_it(self) -> None:
        old = sheet("a")
        plain = to_plain(old)
        self.assertFalse({"aid", "setups"} & plain.keys())
        self.assertEqual(make_sheet(plain).id, old.id)
        self.assertEqual(make_sheet({**plain, "aid": None, "setups": []}).id, old.id)
        tuned = make_sheet({**plain, "setups": [{"name": "wide", "air_kpa": [275.0, 415.0]}]})
        self.assertNotEqual(tuned.id, old.id)
        self.assertEqual(from_plain(Sheet, to_plain(tuned)), tuned)

    def test_documents_survive_a_round_trip_through_json_to_the_letter(self) -> None:
        facts = two_layer_facts(part_count=2)
        log = Log(facts)
        log.coat("c1", "p0", "p0a", 1, 0, 300)
        log.add("pour", 10, batch_id="b", sheet_id=facts.layers[0].sheet_id, component="base", ml=400.0)
        state = replay({facts.id: facts}, {}, log.entries, steady(22.0))
        for cls, value in ((Facts, facts), (JobState, state), (Sheet, sheet("a"))):
            again = from_plain(cls, json.loads(canonical(value)))
            self.assertEqual(canonical(again), canonical(value))
            self.assertEqual(again, value)

    def test_a_type_that_four_threads_ask_for_first_is_read_by_all_four(self) -> None:
        """A server that has just begun, and every phone of the shop at its door."""
        command = [sys.executable, "-c", ALL_AT_ONCE]
        done = subprocess.run(command, capture_output=True, text=True, check=False)
        self.assertEqual((done.returncode, done.stderr), (0, ""))

    def test_the_id_of_facts_is_the_hash_of_all_the_rest(self) -> None:
        facts = two_layer_facts()
        plain = to_plain(facts)
        self.assertEqual(plain.pop("id"), content_id(plain))

    def test_each_refusal_names_the_path(self) -> None:
        plain = to_plain(sheet("a"))
        for change, path in (
            (("film", "dry_um_min", "thin"), "film.dry_um_min"),
            (("film", "dry_um_min", True), "film.dry_um_min"),
            (("components", 0, {"role": "base"}), r"components\[0\].name"),
            (("points", 1, 7), r"points\[1\]"),
            (("recoat", "x", None), "recoat"),
            (("hazards", None, "one"), "hazards"),
        ):
            broken = json.loads(json.dumps(plain))
            key, inner, value = change
            if isinstance(inner, (str, int)) and key != "recoat":
                broken[key][inner] = value
            else:
                broken[key] = value
            with self.assertRaisesRegex(Underspecified, f"^{path}: got .*expected"):
                from_plain(Sheet, broken)

    @given(st.dictionaries(st.text(max_size=4), st.one_of(st.integers(), st.text(max_size=4)), max_size=5))
    def test_the_order_of_keys_changes_no_hash(self, data: dict[str, Any]) -> None:
        turned = dict(reversed(list(data.items())))
        self.assertEqual(content_id(data), content_id(turned))

    def test_nothing_that_is_not_a_number_leaves(self) -> None:
        with self.assertRaises(ValueError):
            canonical({"x": float("nan")})


def readings(*rows: tuple[int, float, str]) -> Climate:
    """A climate of (second after T0, degC, source) rows in the order they were stored."""
    series = Series(
        t_at=tuple(T0 + at for at, _, _ in rows),
        air_degc=tuple(degc for _, degc, _ in rows),
        surface_degc=(None,) * len(rows),
        rh_frac=(0.5,) * len(rows),
        source=tuple(source for _, _, source in rows),
    )
    return Climate(id="c", places={PLACE: series}, default_air_degc=18.0, default_rh_frac=0.6)


def hand(at: int, degc: float, *, surface: float | None = None, part: str | None = None) -> Reading:
    return Reading(at=T0 + at, air_degc=degc, rh_frac=0.5, source="hand", surface_degc=surface, part_id=part)


class TimelineTest(unittest.TestCase):
    def at(self, line: Timeline, second: int) -> tuple[str, float]:
        air = line.at(T0 + second)
        return air.source, air.surface_degc

    def test_the_better_source_wins_and_each_holds_only_so_long(self) -> None:
        climate = readings(
            (0, 10.0, "forecast"), (0, 11.0, "import"), (3600, 11.5, "import"), (1800, 21.0, "probe")
        )
        line = Timeline(climate, PLACE, "p0", [hand(600, 15.0), hand(2400, 16.0, surface=30.0, part="p0")])
        for second, expected in (
            (-1, ("default", 18.0)),
            (0, ("import", 11.0)),
            (600, ("hand", 15.0)),
            (1800, ("probe", 21.0)),
            (2400, ("surface", 30.0)),
            (2400 + 1800, ("hand", 15.0)),
            (600 + 7200, ("default", 18.0)),
        ):
            self.assertEqual(self.at(line, second), expected, second)

    def test_another_parts_surface_is_not_this_ones(self) -> None:
        line = Timeline(readings(), PLACE, "p0", [hand(0, 20.0, surface=35.0, part="p1")])
        self.assertEqual(self.at(line, 60), ("hand", 20.0), "the air beside it is everybody's")

    def test_of_two_imports_of_one_hour_the_later_stored_counts(self) -> None:
        line = Timeline(readings((0, 5.0, "import"), (0, 9.0, "import")), PLACE, None, ())
        self.assertEqual(self.at(line, 10), ("import", 9.0))

    def test_an_unknown_place_has_only_the_default(self) -> None:
        line = Timeline(readings((0, 5.0, "probe")), "elsewhere", None, ())
        self.assertEqual(self.at(line, 5), ("default", 18.0))

    @settings(max_examples=60, deadline=None)
    @given(
        st.lists(st.tuples(st.integers(0, 40 * HOUR), st.floats(-10, 40)), max_size=12),
        st.integers(0, 30 * HOUR),
    )
    def test_ripening_adds_up_and_never_runs_back(self, rows: list[tuple[int, float]], start: int) -> None:
        line = Timeline(readings(*[(t, d, "probe") for t, d in rows]), PLACE, None, ())
        half, whole = (line.reach(PACE, T0 + start, a, 0) for a in (0.5, 1.0))
        assert half is not None
        assert whole is not None
        self.assertLessEqual(T0 + start, half)
        self.assertLessEqual(half, whole)
        rest = line.reach(PACE, half, 0.5, 0)
        assert rest is not None
        self.assertAlmostEqual(rest, whole, delta=2)
        early, late = (line.reach(PACE, T0 + start, 1.0, shift) for shift in (+1, -1))
        self.assertTrue(early <= whole + 1e-6 and (late is None or late >= whole - 1e-6))

    def test_too_cold_for_ever_is_never(self) -> None:
        cold = dataclasses.replace(readings(), default_air_degc=2.0)
        self.assertIsNone(Timeline(cold, PLACE, None, ()).reach(PACE, T0, 1.0, 0))

    def test_assumed_seconds_are_those_without_any_reading(self) -> None:
        line = Timeline(readings((0, 20.0, "probe"), (7200, 20.0, "import")), PLACE, None, ())
        self.assertEqual(line.assumed_s(T0, T0 + 3 * HOUR), 7200 - 1800)
        self.assertEqual(line.assumed_s(T0 - 100, T0), 100)
