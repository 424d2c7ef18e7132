"""People in the plan: what each may do, when they are there, and what nobody may."""

from __future__ import annotations

from typing import Any

from django.test import TestCase

from coatlog.shop import clock
from coatlog.shop.models import Member

from .base import NOW, ShopMixin

DAY = 86400


class CrewTest(ShopMixin, TestCase):
    def setUp(self) -> None:
        super().setUp()
        self.client = self.signed_in("owner1")
        self.add_member("mate", Member.PAINTER)

    def crew(self, name: str, **over: Any) -> Any:
        path = f"/api/people/{name}/crew"
        body = {"in_plan": True, "may": ["coat"], **over}
        return self.client.put(path, body, content_type="application/json")

    def coats(self) -> list[dict[str, Any]]:
        self.plan = self.client.get(f"/api/jobs/{self.job.pk}").json()["plan"]
        return [t for t in self.plan["tasks"] if t["kind"] == "coat"]

    def test_isocyanate_waits_for_who_may_and_the_primer_does_not(self) -> None:
        """The liner is a two-pack urethane: who sprays it is trained for isocyanates (EU 2020/1149)."""
        away = [{"from_at": NOW - 3600, "to_at": NOW + DAY, "why": "course"}]
        self.assertEqual(self.crew("owner1").status_code, 200)
        self.assertEqual(self.crew("mate", may=["coat", "isocyanate"], away=away).status_code, 200)
        primer, *liner = self.coats()
        self.assertEqual(self.plan["people"], ["owner1", "mate"])
        self.assertEqual((primer["painter"], {t["painter"] for t in liner}), (0, {1}))
        self.assertTrue(all(t["start_at"] >= NOW + DAY for t in liner))
        told = next(p for p in self.client.get("/api/shop").json()["people"] if p["username"] == "mate")
        self.assertEqual((told["crew"]["may"], told["crew"]["away"]), (["coat", "isocyanate"], away))
        # Back today after all: the liner is.
        self.crew("mate", may=["coat", "isocyanate"])
        self.assertTrue(all(t["start_at"] < NOW + DAY for t in self.coats()))
        # Only at weekends: NOW is a Monday.
        self.crew("mate", may=["coat", "isocyanate"], days=[5, 6], starts="09:00", ends="12:00")
        self.assertGreater(min(t["start_at"] for t in self.coats()[1:]), NOW + 4 * DAY)

    def test_what_nobody_may_is_said_and_the_rest_is_planned(self) -> None:
        self.crew("owner1")
        self.crew("mate", may=["coat", "isocyanate"])
        path = "/api/people/mate"
        self.client.put(path, {"sensitised": True}, content_type="application/json")
        self.crew("owner1")
        self.assertEqual(len(self.coats()), 1, "the primer")
        (conflict,) = self.plan["conflicts"]
        self.assertIn("nobody of the 2 people in the plan may", conflict["why"])
        self.assertIn("work with isocyanates", conflict["why"])
        # Nobody named any more: as many painters as the shop has, who may do anything.
        for name in ("owner1", "mate"):
            self.crew(name, in_plan=False)
        self.assertEqual((len(self.coats()), self.plan["people"], self.plan["conflicts"]), (3, [], []))

    def test_what_cannot_be_is_refused_by_field(self) -> None:
        self.add_member("looker", Member.VIEWER)
        for name, over, field in (
            ("mate", {"may": ["fly"]}, "may"),
            ("mate", {"days": [7]}, "days"),
            ("mate", {"starts": "12:00", "ends": "09:00"}, "ends"),
            ("mate", {"away": [{"from_at": NOW, "to_at": NOW}]}, "away"),
            ("mate", {"away": [{"from_at": NOW, "to_at": 2**40}]}, "away"),
            ("looker", {}, "in_plan"),
        ):
            r = self.crew(name, **over)
            self.assertEqual((r.status_code, r.json()["errors"][0]["field"]), (422, field), over)
        self.assertEqual(self.crew("stranger").status_code, 404)
        self.client = self.signed_in("mate")
        self.assertEqual(self.crew("mate").status_code, 403)
        self.assertEqual(clock.now(), NOW)
