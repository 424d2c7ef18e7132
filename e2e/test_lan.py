"""The shop's own network: a certificate phones can trust, for this address and no other, and HTTPS by it."""

from __future__ import annotations

import datetime as dt
import http.cookiejar
import os
import re
import signal
import socket
import ssl
import tempfile
import time
import urllib.error
import urllib.request
from pathlib import Path

from cryptography import x509

from config.runner import OnItsOwn
from ops.cluster import free_port
from ops.console import StepFailed
from ops.lan import door_to
from ops.papers import papers
from ops.serve import web_env, web_server

TODAY = dt.datetime(2026, 6, 16, tzinfo=dt.UTC)


class LanTest(OnItsOwn):
    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory(prefix="coatlog-lan-")
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)

    def test_the_certificate_lasts_a_year_is_renewed_in_time_and_follows_the_address(self) -> None:
        def read() -> tuple[x509.Certificate, x509.Certificate]:
            files = (self.folder / "server.crt", self.folder / "authority.crt")
            server, authority = (x509.load_pem_x509_certificate(f.read_bytes()) for f in files)
            return server, authority

        papers(self.folder, "192.168.1.20", today=TODAY)
        server, authority = read()
        papers(self.folder, "192.168.1.20", today=TODAY + dt.timedelta(days=300))
        self.assertEqual(read(), (server, authority))
        papers(self.folder, "192.168.1.20", today=TODAY + dt.timedelta(days=380))
        renewed, same = read()
        self.assertNotEqual(renewed, server)
        self.assertEqual(same, authority, "phones would have to trust it anew")
        papers(self.folder, "10.0.0.5", today=TODAY)
        self.assertEqual(read()[1], authority)
        self.assertEqual((self.folder / "server.key").stat().st_mode & 0o077, 0)
        self.assertEqual((self.folder / "authority.key").stat().st_mode & 0o077, 0)

    def test_the_authority_vouches_for_no_other_server(self) -> None:
        """Name constraints of RFC 5280, 4.2.1.10, held by OpenSSL: a stolen key signs no bank."""
        from ops import papers as made

        papers(self.folder, "192.168.1.20")
        now = dt.datetime.now(dt.UTC)
        key, authority = made._authority(self.folder, "192.168.1.20", now)
        for address, trusted in (("192.168.1.20", True), ("203.0.113.9", False)):
            made._issue(
                self.folder / "x.crt", self.folder / "x.key", address, key, authority, dt.datetime.now(dt.UTC)
            )
            self.assertEqual(self.shakes_hands(address), trusted, address)

    def shakes_hands(self, name: str) -> bool:
        """Whether a client that trusts the authority takes the certificate, over a pair of sockets."""
        server = ssl.SSLContext(ssl.PROTOCOL_TLS_SERVER)
        server.load_cert_chain(self.folder / "x.crt", self.folder / "x.key")
        client = ssl.create_default_context(cafile=str(self.folder / "authority.crt"))
        into, out = ssl.MemoryBIO(), ssl.MemoryBIO()
        ours = client.wrap_bio(into, out, server_hostname=name)
        theirs = server.wrap_bio(out, into, server_side=True)
        for _ in range(10):
            for side in (ours, theirs):
                try:
                    side.do_handshake()
                except ssl.SSLWantReadError:
                    continue
                except ssl.SSLCertVerificationError:
                    return False
        return ours.version() is not None

    def test_the_server_speaks_https_to_who_trusts_it_and_its_cookies_go_no_other_way(self) -> None:
        port = free_port()
        door = door_to(self.folder / "lan", "127.0.0.1", port, {})
        env = web_env("postgres://nobody@127.0.0.1:1/none", secret="for this test only") | door.env
        server = web_server(env, port, self.folder / "web.log", None, door)
        self.addCleanup(server.wait)
        self.addCleanup(os.killpg, server.pid, signal.SIGKILL)
        jar = http.cookiejar.CookieJar()
        trust = ssl.create_default_context(cafile=door.papers.authority)
        opener = urllib.request.build_opener(
            urllib.request.HTTPSHandler(context=trust), urllib.request.HTTPCookieProcessor(jar)
        )
        deadline = time.monotonic() + 30
        while True:
            try:
                page = opener.open(door.address, timeout=5).read()
                break
            except OSError:
                self.assertLess(time.monotonic(), deadline, (self.folder / "web.log").read_text())
                time.sleep(0.1)
        self.assertIn(b"<title>Coat Log</title>", page)
        self.assertEqual([c.secure for c in jar], [True])
        self.files_come_small_and_once(opener, door.address, page.decode())
        got = opener.open(door.address + "authority.crt", timeout=5).read()
        self.assertEqual(got, Path(door.papers.authority).read_bytes())
        with self.assertRaises(urllib.error.URLError):
            urllib.request.urlopen(door.address, timeout=5)  # a phone that does not trust it
        with socket.create_connection(("127.0.0.1", port), timeout=5) as plain:
            plain.sendall(b"GET / HTTP/1.1\r\nHost: 127.0.0.1\r\n\r\n")
            self.assertNotIn(b"200", plain.recv(100))

    def files_come_small_and_once(self, opener: urllib.request.OpenerDirector, at: str, page: str) -> None:
        """RFC 9110, 8.4 and 13: packed where the browser unpacks it; asked again, not modified, no body."""
        script = re.search(r"/static/assets/index[^\"]+js", page)
        assert script
        where = at.rstrip("/") + script[0]
        sizes = {}
        for packed in ("br", "gzip", "identity"):
            answer = opener.open(
                urllib.request.Request(where, headers={"Accept-Encoding": packed}), timeout=5
            )
            sizes[packed] = len(answer.read())
            self.assertIn("immutable", answer.headers["Cache-Control"])
        self.assertLess(sizes["br"], sizes["gzip"])
        self.assertLess(sizes["gzip"], 0.4 * sizes["identity"])
        self.assertEqual(opener.open(urllib.request.Request(where, method="HEAD"), timeout=5).read(), b"")
        again = {"If-Modified-Since": answer.headers["Last-Modified"]}
        with self.assertRaises(urllib.error.HTTPError) as told:
            opener.open(urllib.request.Request(where, headers=again), timeout=5)
        self.assertEqual(told.exception.code, 304)

    def test_an_address_that_is_none_is_refused_in_words(self) -> None:
        with self.assertRaisesRegex(StepFailed, "no address of a network"):
            door_to(self.folder, "the shop", 8710, {})
