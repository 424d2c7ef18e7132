"""The way in from the local network, for the phones of a shop."""

from __future__ import annotations

import ipaddress
import json
import os
import socket
from pathlib import Path
from typing import NamedTuple

from .console import StepFailed, run
from .lesser import Rights
from .paths import ROOT, venv_bin

__all__ = ["Door", "Papers", "door_to", "hosts", "lan_address"]


class Papers(NamedTuple):
    """Files: what the server shows, its key, and the authority's certificate that phones are to trust."""

    certificate: str
    key: str
    authority: str
    fingerprint: str


class Door(NamedTuple):
    """`env`: what the web process is to know of it; `code`: its address, to be read off a terminal."""

    address: str
    papers: Papers
    env: dict[str, str]
    code: str

    @property
    def told(self) -> str:
        return (
            f"\n{self.code}\n"
            f"Every phone and desk has to trust this shop's certificate once: {self.address}authority.crt\n"
            f"Its SHA-256: {self.papers.fingerprint}\n"
            "Everybody on this network reaches the sign-in page: give each account a password of its own."
        )


def lan_address() -> str:
    """This machine's address on the network it reaches others by.  Nothing is sent.  Raises StepFailed."""
    with socket.socket(socket.AF_INET, socket.SOCK_DGRAM) as probe:
        try:
            probe.connect(("192.0.2.1", 9))  # for documents, RFC 5737: only the route is looked up
            address = str(probe.getsockname()[0])
        except OSError:
            address = "127.0.0.1"
    if ipaddress.ip_address(address).is_loopback:
        remedy = "Connect it, or give its address: ./coat start --lan 192.168.1.20"
        raise StepFailed("This machine is on no network.", remedy)
    return address


def hosts(address: str) -> list[str]:
    """Every name the server answers to."""
    name = socket.gethostname().split(".")[0].lower()
    return list(dict.fromkeys([address, f"{name}.local", name, "localhost", "127.0.0.1"]))


def door_to(folder: Path, given: str, port: int, rights: Rights) -> Door:
    """The door by an address, empty: by the one this machine has.  Raises StepFailed."""
    address = given or lan_address()
    try:
        ipaddress.ip_address(address)
    except ValueError:
        remedy = "Give it as numbers: ./coat start --lan 192.168.1.20"
        raise StepFailed(f"{address} is no address of a network.", remedy) from None
    at = f"https://{address}:{port}/"
    told = run(
        [venv_bin("python"), "-m", "ops.papers", folder, address, at],
        cwd=ROOT,
        remedy=f"Remove {folder} and start again: every phone is to trust the new certificate then.",
    )
    fields, code = json.loads(told)
    shown = Papers(**fields)
    if rights:
        os.chown(shown.key, rights["user"], rights["group"])
    known = ",".join(hosts(address))
    env = {"COATLOG_LAN": at, "COATLOG_LAN_AUTHORITY": shown.authority, "COATLOG_HOSTS": known}
    return Door(at, shown, env, code)
