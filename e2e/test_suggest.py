"""A stack asked for rather than typed: a usual thing, what would go on it, its steps, a check that fails."""

from __future__ import annotations

import io
import re

from PIL import Image
from playwright.sync_api import expect

from coatlog.jobs.models import Job
from coatlog.logbook.models import LogEntry
from coatlog.shop.models import Shop

from .base import PHONE
from .test_trades import TradesCase


class SuggestTest(TradesCase):
    def test_wing_boots_from_the_usual_things_to_the_list_of_ports(self) -> None:
        self.found_shop()
        self.name_job("De-icing boots", "Survey twin", "aircraft")
        self.usual(self.desk, "Wing boots")
        expect(self.desk.get_by_label("Part 2", exact=True)).to_have_value("Right wing boot")
        self.put_on(self.desk, "Boot sealant")
        expect(self.desk.get_by_role("alert").first).to_contain_text("Shiny rubber carries old sealant")
        self.desk.get_by_role("button", name="Remove layer 1").click()
        self.desk.get_by_role("button", name="Suggest systems").click()
        card = self.desk.get_by_role("article").filter(has_text="Boot sealant")
        expect(card).to_contain_text("strip old sealant")
        card.get_by_role("button", name="steps").click()
        expect(self.desk.get_by_text("dull all over: any shine is old sealant")).to_be_visible()
        card.get_by_role("button", name="Use this").click()
        expect(self.desk.get_by_label("Coats", exact=True)).to_have_value("3")
        self.assertEqual(self.axe(self.desk), [])
        self.desk.get_by_text("Alternative methods").click()
        ask = self.desk.get_by_role("group", name="Tape the boot's edge or not?")
        ask.get_by_role("button", name="no tape").click()
        job = self.start("De-icing boots", steps=True)
        self.assertEqual(job.facts.get().doc["choices"]["way.tape_aircraft"], "no tape")
        due = self.desk.get_by_role("region", name="Next task")
        expect(due.get_by_role("heading", name="inspect")).to_be_visible()
        expect(due.get_by_text("Complete before coating")).to_be_visible()
        expect(due.get_by_role("button", name="coat")).to_have_count(0)
        self.assertEqual(self.axe(self.desk), [])
        due.get_by_role("button", name="Pass", exact=True).click()
        expect(due.get_by_role("heading", name="cover and list ports and placards")).to_be_visible()
        plan = self.desk.get_by_role("region", name="Plan")
        # Both boots are stripped in one go, then both are sealed.
        for what, count in (("strip old sealant", 1), ("inspect", 0), ("mask", 0)):
            cell = plan.get_by_role("cell", name=re.compile(rf"^Left wing boot \+ Right wing boot: {what}"))
            expect(cell).to_have_count(count)
        self.step("System")
        steps = self.desk.get_by_role("region", name="Steps for Left wing boot, Right wing boot")
        steps.get_by_role("button", name="cover and list ports and placards: fail").click()
        expect(steps.get_by_text("Waiting for:")).to_be_visible()
        expect(steps.get_by_text("Do not continue until the list is complete.").first).to_be_visible()
        steps.get_by_role("button", name="cover and list ports and placards: pass").click()
        expect(steps.get_by_text("Waiting for:")).to_have_count(0)
        self.landed("step_done", 2)
        self.assertEqual(LogEntry.objects.filter(job=job, kind="step_failed").count(), 1)
        self.step("Apply")
        expect(due.get_by_role("heading", name="wash with mild soap")).to_be_visible()
        phone = self.page(self.context(PHONE, has_touch=True), "ines", "long-and-odd-77")
        phone.goto(self.desk.url)
        expect(phone.get_by_role("heading", name="wash with mild soap")).to_be_visible()
        phone.get_by_role("button", name="Left wing boot", exact=True).click()
        self.hold(phone, "Pass next")
        expect(phone.get_by_role("heading", name="strip old sealant")).to_be_visible()
        self.landed("step_done", 3)
        body = LogEntry.objects.filter(kind="step_done").order_by("-seq")[0].body
        self.assertEqual(len(body["part_ids"]), 1)
        self.assertEqual(self.axe(phone), [])
        self.press(phone, "Pass next")  # and while the thumb is down the desk ticks the same step
        self.step("System")
        left = self.desk.get_by_role("region", name="Steps for Left wing boot", exact=True)
        left.get_by_role("button", name="strip old sealant, two passes: pass").click()
        expect(phone.get_by_role("heading", name="strip old sealant")).to_have_count(0)
        expect(phone.get_by_text("let go")).to_have_count(0)
        phone.mouse.up()
        self.landed("step_done", 4)
        phone.context.set_offline(True)
        before = phone.get_by_role("heading", level=2).first.inner_text()
        self.hold(phone, "Pass next")
        expect(phone.get_by_text("1 not sent yet")).to_be_visible()
        expect(phone.get_by_role("heading", name=before)).to_have_count(0)
        phone.context.set_offline(False)
        self.landed("step_done", 5)
        self.assertEqual(LogEntry.objects.filter(kind="step_done").count(), 5)  # the lost hold ticked nothing
        self.step("Apply")
        due.get_by_role("button", name="Skip the checks").click()
        expect(due.get_by_role("button", name="Start coat", exact=True)).to_be_visible()

    def test_what_the_shop_has_decides_and_a_missing_finish_is_said(self) -> None:
        self.found_shop(answered=False)
        self.desk.get_by_role("link", name="Creek Yard").click()
        for fact in ("spray guns", "liner gun", "compressor", "a spray area kept free"):
            self.desk.get_by_label(fact).select_option("yes")
        self.desk.get_by_label("air-fed breathing apparatus").select_option("no")
        self.desk.get_by_role("button", name="Save", exact=True).first.click()
        self.desk.get_by_text("Saved.").wait_for()
        self.desk.get_by_role("link", name="Jobs", exact=True).click()
        self.desk.get_by_role("link", name="New job").click()
        self.name_job("Bed", "Pickup", "road")
        self.usual(self.desk, "Load bed")
        self.desk.get_by_role("button", name="Suggest systems").click()
        expect(self.desk.get_by_text("pass every rule")).to_be_visible()
        for card in self.desk.get_by_role("article").all():
            expect(card).not_to_contain_text("air-fed mask")
        self.put_on(self.desk, "Textured liner")
        expect(self.desk.get_by_role("alert").first).to_contain_text("without air-fed breathing")
        expect(self.desk.get_by_text("This stop cannot be overridden.")).to_be_visible()
        self.desk.get_by_role("button", name="de-icing boot sealant").click()
        self.desk.get_by_role("button", name="Suggest systems").click()
        expect(self.desk.get_by_text(re.compile("(No material|Nothing) you have"))).to_be_visible()
        self.assertFalse(Job.objects.exists())

    def test_what_can_hurt_is_asked_before_a_job_is_made(self) -> None:
        """A shop that answered nothing: offers stand, each with its question; no job before the answer."""
        self.found_shop(answered=False)
        self.name_job("Wheels", "Estate car", "road")
        self.usual(self.desk, "Set of 4 wheels (on the car)")
        self.desk.get_by_role("button", name="wheel: bolt seats and hub face").click()  # not marked any more
        expect(self.desk.get_by_text("Answer this first: tick what it is or hides")).to_be_visible()
        self.desk.get_by_role("button", name="none of these").click()
        expect(self.desk.get_by_text("Answer this first: tick what it is or hides")).to_have_count(0)
        self.desk.get_by_role("button", name="Suggest systems").click()
        card = self.desk.get_by_role("article").filter(has_text="Wheel peelable").first
        card.get_by_role("button", name="Who says so").click()
        said = self.desk.get_by_role("list", name="Who says so")
        first = "Wheel peelable on clear-coated alloy wheel, sound: yes, says the sheet"
        expect(said.get_by_role("listitem").first).to_contain_text(first)
        card.get_by_role("button", name="Use this").click()
        expect(self.desk.get_by_role("alert").filter(has_text="may light its vapour").first).to_be_visible()
        expect(self.desk.get_by_role("button", name="Create job")).to_have_count(0)
        self.assertEqual(self.axe(self.desk), [])
        ask = self.desk.get_by_role("group", name="Answer this first: a spray area kept free")
        ask.first.get_by_role("button", name="Yes").click()
        expect(ask).to_have_count(0)
        self.start("Wheels")
        self.assertEqual((Shop.objects.get().has, Shop.objects.get().hasnt), (["spark_free"], []))

    def test_parts_differ_in_what_they_meet(self) -> None:
        self.found_shop()
        self.name_job("Bed", "Pickup", "road")
        self.usual(self.desk, "Load bed")
        self.desk.get_by_role("button", name="Measure, test, damage").nth(1).click()
        own = self.desk.get_by_role("group", name="This part has to withstand")
        own.get_by_role("button", name="foot traffic / loads").click()
        every = self.desk.get_by_role("group", name="What it has to withstand")
        mixed = every.get_by_role("button", name="foot traffic / loads, some parts")
        expect(mixed).to_have_attribute("aria-pressed", "mixed")
        self.assertEqual(self.axe(self.desk), [])
        self.desk.get_by_role("button", name="Suggest systems").click()
        self.desk.get_by_role("button", name="Use this").first.click()
        job = self.start("Bed")
        met = {p["name"]: "feet" in p["must_survive"] for p in job.facts.get().doc["parts"]}
        self.assertEqual(met, {"Floor": True, "Sides": False, "Tailgate": True})

    def test_damage_is_pinned_on_a_picture_before_the_first_wash(self) -> None:
        self.found_shop()
        self.name_job("Load bed", "Pickup", "road")
        self.usual(self.desk, "Load bed")
        self.desk.get_by_role("button", name="Suggest systems").click()
        self.desk.get_by_role("button", name="Use this").first.click()
        job = self.start("Load bed")
        self.step("Survey")
        register = self.desk.get_by_role("region", name="Damage found before work")
        register.get_by_role("button", name="Save damage").click()
        expect(register.get_by_role("alert")).to_contain_text("Describe the damage")
        register.get_by_label("Description of the damage").fill("crease at the left corner")
        picture = {"name": "bed.png", "mimeType": "image/png", "buffer": drawn()}
        register.get_by_label("Photo", exact=True).set_input_files([picture])
        register.get_by_label("Across").fill("20")
        register.get_by_label("Down").fill("75")
        self.assertEqual(self.axe(self.desk), [])
        register.get_by_role("button", name="Save damage").click()
        row = register.get_by_role("listitem").filter(has_text="crease at the left corner")
        expect(row.get_by_role("img")).to_be_visible()
        self.landed("damage_found", 1)
        body = LogEntry.objects.get(job=job, kind="damage_found").body
        self.assertEqual((body["across_frac"], body["down_frac"]), (0.2, 0.75))
        self.desk.get_by_role("link", name="Job record").click()
        expect(self.desk.get_by_role("img", name="Floor: crease at the left corner")).to_be_visible()
        expect(self.desk.get_by_text("steps were not signed off")).to_be_visible()
        expect(self.desk.get_by_text("Required finish")).to_be_visible()
        self.assertEqual(self.axe(self.desk), [])
        self.step("Quantities")
        used = self.desk.get_by_role("row").filter(has_text="Masking tape")
        expect(used).to_contain_text("roll of 50 m")


def drawn() -> bytes:
    """A small picture of nothing."""
    out = io.BytesIO()
    Image.new("RGB", (320, 200), (120, 120, 120)).save(out, "PNG")
    return out.getvalue()
