"""Many hands at once: notes, sensor readings, dates, new jobs and plans; none is told to try again."""

from __future__ import annotations

import json
import threading
import uuid
from collections import Counter
from collections.abc import Callable

from django.db import connections
from django.test import TransactionTestCase

from coatlog.core.codec import canonical, to_plain
from coatlog.run import projection
from coatlog.run.models import JobProjection

from .base import NOW, ShopMixin

ROUNDS = 3


class AtOnceTest(ShopMixin, TransactionTestCase):
    def test_readings_notes_dates_plans_and_jobs_do_not_stand_in_each_others_way(self) -> None:
        jobs = [self.job, *(self.make_job(self.owner, self.place, self.sheets) for _ in range(2))]
        sheet_id = self.sheets["epoxy-primer-2k"].id
        part = {"name": "Door", "area_m2": 1.0, "substrate": "bare_steel", "features": ["none"]}
        made = {
            "title": "One more", "asset": "Van", "asset_kind": "road", "place_id": str(self.place.pk),
            "parts": [part], "layers": [{"sheet_id": sheet_id, "coats": 1, "target_um": 50.0}],
        }  # fmt: skip
        answers: Counter[tuple[str, int]] = Counter()

        def note(n: int, i: int) -> tuple[str, object]:
            body = {"text": f"{n}-{i}"}
            entry = self.entry(
                "note", body, id=str(uuid.uuid4()), job_id=str(jobs[i % 3].pk), device_id=f"d{n}"
            )
            return "/api/entries", {"sent_at": NOW, "entries": [entry]}

        acts: tuple[Callable[[int, int], tuple[str, object]], ...] = (
            note,
            lambda n, i: (f"/api/weather/{self.place.pk}/probe", {}),
            lambda n, i: (f"/api/jobs/{jobs[i % 3].pk}/dates", {"due_at": NOW + 500_000 + 3600 * i}),
            lambda n, i: (f"/api/jobs/{jobs[i % 3].pk}/plan", {}),
            lambda n, i: ("/api/jobs", made),
            note,
            lambda n, i: (f"/api/weather/{self.place.pk}/probe", {}),
        )

        def go(n: int) -> None:
            client = self.signed_in("owner1")
            for i in range(ROUNDS):
                path, data = acts[n](n, i)
                r = client.post(path, json.dumps(data), content_type="application/json")
                answers[path.split("/")[-1], r.status_code] += 1
            connections.close_all()

        threads = [threading.Thread(target=go, args=(n,)) for n in range(len(acts))]
        for t in threads:
            t.start()
        for t in threads:
            t.join(timeout=120)
        self.assertEqual({status for _, status in answers}, {200}, answers)
        self.assertEqual(sum(answers.values()), ROUNDS * len(acts))
        for row in JobProjection.objects.select_related("job"):
            _, state = projection.full_replay(row.job)
            self.assertEqual(canonical(row.state), canonical(to_plain(state)), row.job.title)
