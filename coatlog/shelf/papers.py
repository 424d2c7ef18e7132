"""A maker's data sheet as a file: its text, and what it seems to say of a material."""

from __future__ import annotations

import io

from pypdf import PdfReader
from pypdf.errors import PyPdfError

from coatlog.core.label_text import Proposal, read_text
from coatlog.errors import NotPermitted, Refused
from coatlog.shop.models import Member

__all__ = ["read_paper"]

MOST_BYTES = 10_000_000
MOST_PAGES = 40


def read_paper(owner: Member, data: bytes, file_name: str) -> tuple[Proposal, ...]:
    """What a data sheet seems to say, line by line; nothing is stored.  PDF, or plain text.

    Raises NotPermitted; Refused for what is no PDF, is locked, too long, or a picture of a page.
    """
    if not owner.is_owner:
        raise NotPermitted("Only the owner may change the shelf.")
    if len(data) > MOST_BYTES:
        raise Refused.field("file", f"{len(data) / 1e6:.0f} MB", "a data sheet of 10 MB at most")
    lines = _pdf_lines(data, file_name) if data[:5] == b"%PDF-" else _plain_lines(data, file_name)
    return read_text(lines)


def _pdf_lines(data: bytes, file_name: str) -> list[str]:
    try:
        reader = PdfReader(io.BytesIO(data))
        if reader.is_encrypted:
            raise Refused.field("file", file_name[:80], "a PDF without a password")
        if len(reader.pages) > MOST_PAGES:
            raise Refused.field("file", f"{len(reader.pages)} pages", f"{MOST_PAGES} pages at most")
        # As it lies on the page: what stands in one row of a table stays in one line.
        lines = [
            line for page in reader.pages for line in page.extract_text(extraction_mode="layout").splitlines()
        ]
    except (PyPdfError, ValueError, KeyError, TypeError, IndexError, AttributeError, RecursionError) as bad:
        told = f"{file_name}: this PDF cannot be read."
        raise Refused.field("file", str(bad)[:120], "a PDF with text in it", told) from None
    if not any(line.strip() for line in lines):
        raise Refused.field("file", file_name[:80], "a PDF with text in it: this one is a picture of a page")
    return lines


def _plain_lines(data: bytes, file_name: str) -> list[str]:
    try:
        return data.decode("utf-8-sig").splitlines()
    except UnicodeDecodeError:
        raise Refused.field("file", file_name[:80], "a PDF, or text in UTF-8") from None
