"""The lettering of a PDF: the page's own, at the two weights paper needs: `python -m ops.fonts`."""

from __future__ import annotations

import tempfile
from pathlib import Path

from fontTools.merge import Merger
from fontTools.ttLib import TTFont
from fontTools.varLib.instancer import instantiateVariableFont

from .paths import WEB

__all__ = ["main"]

FILES = WEB / "node_modules" / "@fontsource-variable" / "archivo" / "files"
ALPHABETS = ("latin", "latin-ext")
#: what two alphabets cannot be merged with, and paper does without
TABLES = ("GSUB", "GPOS", "GDEF", "STAT", "HVAR", "MVAR", "avar")


def main() -> None:
    for weight in (400, 700):
        with tempfile.TemporaryDirectory() as folder:
            parts = []
            for alphabet in ALPHABETS:
                font = TTFont(FILES / f"archivo-{alphabet}-wght-normal.woff2")
                font = instantiateVariableFont(font, {"wght": weight})
                for table in TABLES:
                    if table in font:
                        del font[table]
                font.flavor = None
                parts.append(str(Path(folder, f"{alphabet}.ttf")))
                font.save(parts[-1])
            Merger().merge(parts).save(WEB / "src" / "assets" / f"archivo-paper-{weight}.ttf")


if __name__ == "__main__":
    main()
