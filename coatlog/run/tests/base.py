"""A small shop for the tests of the apps: two shops, three roles, a job of one part."""

from __future__ import annotations

import datetime as dt
import json
import uuid
from typing import Any

from django.contrib.auth import get_user_model
from django.http import HttpResponse
from django.test import Client, TestCase

from coatlog.core.run.facts import PLANNED
from coatlog.core.stack.rules import FACTS
from coatlog.jobs.models import Job
from coatlog.jobs.services import LayerDraft, PartDraft, create_job
from coatlog.run import services
from coatlog.shelf.services import load_typical
from coatlog.shop import clock
from coatlog.shop.models import Member, Place, Shop

NOW = 1_790_000_000


class ShopMixin:
    """Sets the clock and makes shops; use with Django's test cases.

    The shop is made once a class, and anew for each test only where a test ends its own transactions.
    """

    @classmethod
    def setUpTestData(cls) -> None:
        clock.set_now(NOW)
        cls.make_all(cls)

    def setUp(self) -> None:
        clock.set_now(NOW)
        if not isinstance(self, TestCase):
            self.make_all(self)

    @classmethod
    def make_all(cls, into: Any) -> None:
        into.shop, into.owner, into.place, into.sheets = cls.make_shop("Shop one", "owner1")
        into.job = cls.make_job(into.owner, into.place, into.sheets)

    def tearDown(self) -> None:
        clock.release()

    @classmethod
    def make_shop(cls, name: str, owner: str) -> tuple[Shop, Member, Place, dict[str, Any]]:
        shop = Shop.objects.create(
            name=name,
            time_zone="Europe/London",
            opens=dt.time(0, 1),
            closes=dt.time(23, 59),
            default_air_degc=20.0,
            has=list(FACTS),
        )
        user = get_user_model().objects.create_user(owner, password="pw-of-a-test")
        member = Member.objects.create(user=user, shop=shop, role=Member.OWNER)
        place = Place.objects.create(shop=shop, name="Bay 1", has_probe=True)
        sheets = {s.material_id: s for s in load_typical(shop, now=NOW)}
        return shop, member, place, sheets

    def add_member(self, name: str, role: str) -> Member:
        user = get_user_model().objects.create_user(name, password="pw-of-a-test")
        return Member.objects.create(user=user, shop=self.shop, role=role)

    @classmethod
    def make_job(cls, member: Member, place: Place, sheets: dict[str, Any]) -> Job:
        return services.start_job(
            member,
            lambda: create_job(
                member,
                title="Load bed",
                asset_name="Pickup",
                asset_kind="road",
                place_id=place.pk,
                parts=[PartDraft(name="Tailgate", area_m2=1.0, substrate="bare_steel")],
                layers=[
                    LayerDraft(sheet_id=sheets["epoxy-primer-2k"].id, coats=1, target_um=50.0),
                    LayerDraft(sheet_id=sheets["textured-liner-2k"].id, coats=2, target_um=700.0),
                ],
                now=NOW,
            ),
        )

    def lined_job(self, i: int, names: tuple[str, ...]) -> Job:
        """A job of several parts in primer and liner whose steps are planned."""
        parts = [PartDraft(name=n, area_m2=1.0, substrate="bare_steel") for n in names]
        layers = [
            LayerDraft(sheet_id=self.sheets["epoxy-primer-2k"].id, coats=2, target_um=100.0),
            LayerDraft(sheet_id=self.sheets["textured-liner-2k"].id, coats=2, target_um=700.0),
        ]

        def create() -> Any:
            return create_job(
                self.owner, title=f"Load bed {i}", asset_name="Pickup", asset_kind="road",
                place_id=self.place.pk, parts=parts, layers=layers, choices={"steps": PLANNED}, now=NOW,
            )  # fmt: skip

        return services.start_job(self.owner, create)

    def signed_in(self, name: str) -> Client:
        client = Client()
        user = get_user_model().objects.get(username=name)
        client.force_login(user, backend="django.contrib.auth.backends.ModelBackend")
        return client

    def post(self, client: Client, path: str, data: Any) -> HttpResponse:
        return client.post(path, json.dumps(data), content_type="application/json")

    def entry(self, kind: str, body: dict[str, Any], **over: Any) -> dict[str, Any]:
        self.counter = getattr(self, "counter", 0) + 1
        base = {
            "id": str(uuid.uuid4()),
            "job_id": str(self.job.pk),
            "kind": kind,
            "at": clock.now(),
            "at_from": "tap",
            "device_id": "tablet",
            "n": self.counter,
            "body": body,
        }
        return {**base, **over}

    def send(
        self, client: Client, *entries: dict[str, Any], sent_at: int | None = None
    ) -> list[dict[str, Any]]:
        data = {"sent_at": clock.now() if sent_at is None else sent_at, "entries": list(entries)}
        response = self.post(client, "/api/entries", data)
        assert response.status_code == 200, response.content
        return response.json()

    def start_entry(self, **over: Any) -> dict[str, Any]:
        facts = self.job.facts.get().doc
        layer = next(x for x in facts["layers"] if x["position"] == 0)
        coat = {"coat_id": str(uuid.uuid4()), "part_id": layer["part_id"], "layer_id": layer["id"], "n": 1}
        return self.entry("coat_started", {"coats": [coat], "facts_id": facts["id"]}, **over)
