"""A scale by cable and a sensor by Bluetooth beside a phone: stand-ins that speak as the real ones do.

Lines of a scale are common practice, no published source; the Bluetooth values are laid out as the
Environmental Sensing service says (Bluetooth SIG, GATT specification supplement; from memory).
"""

from __future__ import annotations

import datetime as dt
import re

from playwright.sync_api import expect

from coatlog.demo.estuary import PASSWORD
from coatlog.jobs.models import Job
from coatlog.logbook.models import LogEntry
from coatlog.shop import clock

from .base import PHONE, BrowserCase
from .kept import estuary

START = int(dt.datetime(2026, 6, 16, 8, 0, tzinfo=dt.UTC).timestamp())
STAND_INS = """
const put = (name, value) => Object.defineProperty(navigator, name, { value, configurable: true });
window.line = () => undefined;
put("serial", { requestPort: async () => ({
    open: async ({ baudRate }) => { if (baudRate !== 9600) throw new Error("rate"); },
    close: async () => undefined,
    readable: new ReadableStream({ start: (out) => {
        window.line = (text) => out.enqueue(new TextEncoder().encode(text));
    } }),
}) });
const view = (bytes) => new DataView(new Uint8Array(bytes).buffer);
const values = { 0x2a6e: view([0x3a, 0x07]), 0x2a6f: view([0xd3, 0x17]) };  // 18.50 degC, 60.99 %
put("bluetooth", { requestDevice: async ({ filters }) => Object.assign(new EventTarget(), {
    name: "bay sensor",
    gatt: { disconnect: () => undefined, connect: async () => ({
        getPrimaryService: async (id) => {
            if (id !== filters[0].services[0] || id !== 0x181a) throw new DOMException("", "NotFoundError");
            return { getCharacteristic: async (c) => ({ readValue: async () => values[c] }) };
        },
    }) },
}) });
"""


class InstrumentsTest(BrowserCase):
    def test_a_scale_fills_the_reading_and_a_sensor_the_air(self) -> None:
        clock.set_now(START)
        estuary(START, whole=False)
        job = Job.objects.get(title="Load bed")
        context = self.context(PHONE, has_touch=True)
        context.add_init_script(STAND_INS)
        phone = self.page(context, "painter", PASSWORD)
        phone.goto(f"{self.live_server_url}/#/jobs/{job.pk}/mix")
        phone.get_by_role("button", name="Connect a scale by cable").click()
        expect(phone.get_by_text("Reading the scale.")).to_be_visible()
        phone.evaluate("line('ST,GS,  1,2'); line('50.5 kg\\r\\nUS,NT, 812.5 g \\r\\n')")
        expect(phone.get_by_placeholder(re.compile("^Scale reading"))).to_have_value("812.5")
        phone.evaluate("line('0.9 kg\\n')")
        expect(phone.get_by_placeholder(re.compile("^Scale reading"))).to_have_value("900")
        phone.get_by_role("button", name="Disconnect").click()

        phone.goto(f"{self.live_server_url}/#/jobs/{job.pk}/run")
        phone.get_by_role("button", name="More").click()
        phone.get_by_role("button", name="Enter air readings").click()
        phone.get_by_role("button", name="Connect a sensor by Bluetooth").click()
        expect(phone.get_by_label("Air °C")).to_have_value("18.5")
        expect(phone.get_by_label("Humidity %")).to_have_value("61")
        phone.get_by_role("button", name="Save", exact=True).click()
        expect(phone.get_by_label("Air °C")).to_have_count(0)
        expect(phone.get_by_text("not sent yet")).to_have_count(0)
        told = LogEntry.objects.filter(kind="climate_read").order_by("-seq")[0].body
        self.assertEqual((told["air_degc"], told["rh_frac"]), (18.5, 0.61))
        self.assertEqual(self.faults, [])
