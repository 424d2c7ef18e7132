"""What the example is called, in the languages it is asked for in."""

from __future__ import annotations

__all__ = ["NAMES"]

#: title, object and parts, as whoever asks for it reads
NAMES = {
    "en": ("Example: trailer boards", "Farm trailer", ("Left board", "Right board", "Tailboard")),
    "de": ("Beispiel: Bordwände", "Ackeranhänger", ("Linke Bordwand", "Rechte Bordwand", "Heckbord")),
}
