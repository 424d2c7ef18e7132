"""Pictures come in as cameras write them and are kept as pixels only."""

from __future__ import annotations

import io
from typing import Any

from django.core.files.uploadedfile import SimpleUploadedFile
from django.test import TestCase
from PIL import Image

from coatlog.jobs.models import Photo

from .base import ShopMixin

GPS_IFD, ORIENTATION, CAMERA = 0x8825, 0x0112, 0x0110  # Exif 2.32


def picture(kind: str = "JPEG", size: tuple[int, int] = (400, 200), **save: Any) -> bytes:
    image = Image.new("RGB", size, (10, 10, 10))
    image.paste((250, 250, 250), (0, 0, size[0] // 4, size[1]))
    out = io.BytesIO()
    image.save(out, kind, **save)
    return out.getvalue()


class PhotoTest(ShopMixin, TestCase):
    def setUp(self) -> None:
        super().setUp()
        self.client = self.signed_in("owner1")

    def send_photo(self, data: bytes, client: Any = None) -> Any:
        file = SimpleUploadedFile("a.jpg", data, content_type="image/jpeg")
        return (client or self.client).post("/api/photos", {"file": file})

    def kept(self, photo_id: str) -> Image.Image:
        return Image.open(io.BytesIO(self.client.get(f"/api/photos/{photo_id}").content))

    def test_place_and_camera_are_gone_and_the_picture_stands_upright(self) -> None:
        exif = Image.Exif()
        exif[CAMERA], exif[ORIENTATION] = "Pocket camera", 6  # to be turned a quarter clockwise
        exif.get_ifd(GPS_IFD)[2] = (51.0, 30.0, 0.0)
        data = picture(exif=exif.tobytes())
        self.assertIn(b"Pocket camera", data)
        told = self.send_photo(data).json()
        self.assertEqual((told["width_px"], told["height_px"]), (200, 400))
        content = bytes(Photo.objects.get().content)
        self.assertNotIn(b"Pocket", content)
        self.assertNotIn(b"Exif", content)
        image = self.kept(told["photo_id"])
        self.assertFalse(dict(image.getexif()))
        light, dark = image.getpixel((100, 20)), image.getpixel((100, 380))
        self.assertGreater(light[0], 200)  # the left quarter is on top now
        self.assertLess(dark[0], 60)

    def test_large_ones_are_made_smaller_and_the_same_one_is_kept_once(self) -> None:
        data = picture("PNG", (2400, 1200))
        first, second = self.send_photo(data).json(), self.send_photo(data).json()
        self.assertEqual(first, second)
        self.assertEqual((first["width_px"], first["height_px"], Photo.objects.count()), (1600, 800, 1))

    def test_what_is_no_picture_is_named_and_nothing_is_kept(self) -> None:
        for data in (
            b"",
            b"hello",
            b"<svg xmlns='http://www.w3.org/2000/svg'/>",
            picture()[:300],
            picture("GIF"),
        ):
            r = self.send_photo(data)
            self.assertEqual(r.status_code, 422, data[:20])
            self.assertIn("JPEG", r.json()["detail"])
        self.assertEqual(Photo.objects.count(), 0)

    def test_another_shop_and_a_viewer(self) -> None:
        photo_id = self.send_photo(picture()).json()["photo_id"]
        self.make_shop("Shop two", "owner2")
        self.assertEqual(self.signed_in("owner2").get(f"/api/photos/{photo_id}").status_code, 404)
        self.add_member("vera", "viewer")
        viewer = self.signed_in("vera")
        self.assertEqual(viewer.get(f"/api/photos/{photo_id}").status_code, 200)
        self.assertEqual(self.send_photo(picture(), viewer).status_code, 403)

    def test_the_register_keeps_note_and_pin_until_it_is_struck(self) -> None:
        photo_id = self.send_photo(picture()).json()["photo_id"]
        part_id = self.job.facts.get().doc["parts"][0]["id"]
        body = {
            "part_id": part_id,
            "text": "crease",
            "photo_id": photo_id,
            "across_frac": 0.2,
            "down_frac": 0.7,
        }
        entry = self.entry("damage_found", body)
        for wrong in ({"text": " "}, {"across_frac": 1.5}):
            (answer,) = self.send(self.client, self.entry("damage_found", {**body, **wrong}))
            self.assertEqual(answer["result"], "refused")
        self.send(self.client, entry)
        path = f"/api/jobs/{self.job.pk}/damage"
        (row,) = self.client.get(path).json()
        self.assertEqual((row["part"], row["down_frac"], row["before_work"]), ("Tailgate", 0.7, True))
        self.send(self.client, self.entry("strike", {"target_id": entry["id"], "reason": "wrong car"}))
        self.assertEqual(self.client.get(path).json(), [])
