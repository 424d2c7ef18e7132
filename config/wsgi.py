"""The WSGI door for the web server."""

import os
from collections.abc import Iterable, Iterator
from typing import Any

from django.core.wsgi import get_wsgi_application

os.environ.setdefault("DJANGO_SETTINGS_MODULE", "config.settings")
django = get_wsgi_application()


class Begun:
    """An answer that begins with nothing: the server sends its head with the first piece of its body.

    One that has no body at all (not modified, a question for the head alone) would have none.
    """

    def __init__(self, body: Iterable[bytes]) -> None:
        self.body = body

    def __iter__(self) -> Iterator[bytes]:
        yield b""
        yield from self.body

    def close(self) -> None:
        getattr(self.body, "close", lambda: None)()


def application(environ: dict[str, Any], start_response: Any) -> Begun:
    return Begun(django(environ, start_response))
