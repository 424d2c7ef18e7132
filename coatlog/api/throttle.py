"""How often the doors that take a password may be tried: by address, and by who is signed in."""

from __future__ import annotations

from django.conf import settings
from django.http import HttpRequest
from ninja.throttling import SimpleRateThrottle

__all__ = ["Often"]


class Often(SimpleRateThrottle):
    """So often from one address, whatever name is given, as the settings say under a name.

    A name has its own limit of wrong passwords: here nobody tries one password on a thousand names, nor
    founds shops or guesses the old password without an end.  Each process counts by itself.
    """

    def __init__(self, scope: str) -> None:
        self.scope = self.door = scope
        super().__init__(settings.TRIES[scope])

    def allow_request(self, request: HttpRequest) -> bool:
        """Whether this try is one of those allowed by the settings as they are now."""
        self.num_requests, self.duration = self.parse_rate(settings.TRIES[self.door])
        return super().allow_request(request)

    def get_cache_key(self, request: HttpRequest) -> str:
        """The door and the address; of a signed-in person the person."""
        who = getattr(request, "auth", None)
        ident = f"member-{who.pk}" if who is not None and hasattr(who, "pk") else self.get_ident(request)
        return self.cache_format % {"scope": self.scope, "ident": ident}
