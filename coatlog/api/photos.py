"""Pictures of damage."""

from __future__ import annotations

from django.http import HttpRequest, HttpResponse
from ninja import File, Router, Schema
from ninja.files import UploadedFile

from coatlog.jobs.photos import photo_of, take_photo
from coatlog.shop import clock

from .guard import content_of, member_of

router = Router()


class PhotoOut(Schema):
    photo_id: str
    width_px: int
    height_px: int


@router.post("/photos", response=PhotoOut, operation_id="add_photo")
def add_photo(request: HttpRequest, file: File[UploadedFile]) -> PhotoOut:
    """A picture, sent before the entry that names it.  What a camera adds to it is not kept."""
    return PhotoOut.from_orm(take_photo(member_of(request), *content_of(file), now=clock.now()))


@router.get("/photos/{photo_id}", response=bytes, operation_id="get_photo")
def get_photo(request: HttpRequest, photo_id: str) -> HttpResponse:
    photo = photo_of(member_of(request).shop, photo_id)
    response = HttpResponse(bytes(photo.content), content_type="image/jpeg")
    response["Cache-Control"] = "private, max-age=31536000, immutable"
    return response
