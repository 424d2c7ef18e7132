"""./coat start: everything up, one address printed, nothing left running afterwards."""

from __future__ import annotations

import contextlib
import fcntl
import os
import secrets
import signal
import ssl
import subprocess
import sys
import time
import urllib.request
from collections.abc import Iterator
from pathlib import Path
from types import FrameType

from .cluster import Cluster, free_port
from .console import StepFailed, run, say, step
from .keeping import Kept, end_left_over, keep_running
from .lan import Door, door_to
from .lesser import Rights, lesser_rights
from .machine import need_postgres, need_python, need_web
from .paths import ROOT, home, venv_bin

__all__ = ["cluster_of", "only_one", "secret_of", "start", "web_env", "web_server"]

WEB_PORT = 8710


def web_env(database_url: str, *, secret: str) -> dict[str, str]:
    """Environment of the web process and of manage.py."""
    return {
        **os.environ,
        "DATABASE_URL": database_url,
        "COATLOG_SECRET_KEY": secret,
        "DJANGO_SETTINGS_MODULE": "config.settings",
        "PYTHONPATH": str(ROOT),
        "PYTHONUNBUFFERED": "1",
    }


def start(lan: str | None = None) -> int:
    """Set up, serve, and wait for Ctrl-C.

    `lan`: for the phones of the shop too, by this address; empty: by the one this machine has.
    """
    place = home()
    place.mkdir(parents=True, exist_ok=True)
    with only_one(place) as mine:
        if not mine:
            return _join_running(place)
        signal.signal(signal.SIGTERM, _as_ctrl_c)
        try:
            return _serve(place, lan)
        except KeyboardInterrupt:
            return 0
        finally:
            with contextlib.suppress(FileNotFoundError):
                (place / "address").unlink()


def _as_ctrl_c(number: int, frame: FrameType | None) -> None:
    raise KeyboardInterrupt


@contextlib.contextmanager
def only_one(place: Path) -> Iterator[bool]:
    """Hold the start lock; the kernel frees it when its holder dies, so it is never left over."""
    with open(place / "start.lock", "a") as lock:
        try:
            fcntl.flock(lock, fcntl.LOCK_EX | fcntl.LOCK_NB)
        except BlockingIOError:
            yield False
            return
        yield True


def _join_running(place: Path) -> int:
    say("Coat Log is already being started from this folder; waiting for its address.")
    for _ in range(1800):
        address = place / "address"
        if address.exists():
            say(address.read_text())
            return 0
        with only_one(place) as free:
            if free:
                say("The other start ended without coming up. Start again.")
                return 1
        time.sleep(1)
    say("It did not come up in 30 minutes. Stop it with Ctrl-C and start again.")
    return 1


def _serve(place: Path, lan: str | None) -> int:
    say("Coat Log")
    need_python("base")
    need_web()
    cluster: Cluster | None = None
    kept: list[Kept] = []
    try:
        url = os.environ.get("DATABASE_URL", "")
        owner_url = os.environ.get("COATLOG_OWNER_DATABASE_URL", "")
        if not url:
            need_postgres()
            cluster = cluster_of(place)
            made = cluster
            step("Making the database", made.make)
            step("Starting the database", made.start)
            made.let_app_in()
            url, owner_url = made.app_url, made.url
        secret = secret_of(place)
        env = web_env(url, secret=secret)
        rights = lesser_rights(env)
        if os.geteuid() == 0 and not rights:
            say("  You are root, and the server runs as root too: nobody else can read this folder.")
        owner = web_env(owner_url or url, secret=secret)
        port = free_port(int(os.environ.get("COATLOG_PORT", WEB_PORT)))
        door: Door | None = None
        if lan is not None:
            door = step("Opening the local network", lambda: door_to(place / "lan", lan, port, rights))
            env |= door.env
        web = Kept("web", place, lambda log: web_server(env, port, log, rights, door))
        planner = Kept("planner", place, lambda log: _planner(env, log, rights))
        for one in (web, planner):
            end_left_over(one)
        # It comes up while the tables are seen to; nobody is given the address before both are done.
        web.start()
        kept.append(web)
        sign_in = step("Bringing tables and demo shop up to date", lambda: _manage(owner, "prepare"))
        planner.start()
        kept.append(planner)
        step("Starting the web server", lambda: _wait_until_up(web, port, door))
        at = f"http://127.0.0.1:{port}/" if door is None else door.address
        text = f"\nOpen {at}\n{sign_in.strip()}\nCtrl-C stops everything."
        if door is not None:
            text += door.told
        (place / "address").write_text(text)
        say(text)
        return keep_running(kept, cluster)
    finally:
        _shut(kept, cluster)


def _shut(kept: list[Kept], cluster: Cluster | None) -> None:
    for number in (signal.SIGINT, signal.SIGTERM):  # a second Ctrl-C must not cut this short
        signal.signal(number, signal.SIG_IGN)
    for one in kept:
        one.stop()
    if cluster is not None:
        cluster.stop()
    say("\nStopped.")


def cluster_of(place: Path) -> Cluster:
    """The cluster of a folder on a free port, taken down first if it was left running."""
    remembered = place / "port"
    wanted = int(remembered.read_text()) if remembered.exists() else 0
    old = Cluster(place / "postgres", wanted)
    if old.pid() is not None:  # left running by a start that was killed: take it down first
        old.stop()
    cluster = Cluster(place / "postgres", free_port(wanted))
    remembered.write_text(str(cluster.port))
    return cluster


def secret_of(place: Path) -> str:
    """The folder's secret key, made once."""
    file = place / "secret-key"
    if not file.exists():
        file.write_text(secrets.token_urlsafe(48))
        file.chmod(0o600)
    return file.read_text()


def _manage(env: dict[str, str], *words: str) -> str:
    return run(
        [venv_bin("python"), ROOT / "manage.py", *words],
        env=env,
        cwd=ROOT,
        follow=True,
        remedy="Nothing was dropped. Read the last lines, mend that, start again.",
    )


def web_server(
    env: dict[str, str],
    port: int,
    log_file: Path,
    rights: Rights | None = None,
    door: Door | None = None,
) -> subprocess.Popen[bytes]:
    """The web server, in a session of its own: on this machine alone, or by the door on the local network."""
    host = "127.0.0.1" if door is None else "0.0.0.0"
    words = ["-m", "hypercorn", "--config", "file:config/server.py", "--bind", f"{host}:{port}"]
    if door is not None:
        words += ["--certfile", door.papers.certificate, "--keyfile", door.papers.key]
    return _of_its_own([*words, "wsgi:config.wsgi:application"], env, log_file, rights or {})


def _planner(env: dict[str, str], log_file: Path, rights: Rights) -> subprocess.Popen[bytes]:
    """The worker that plans full shops."""
    return _of_its_own([str(ROOT / "manage.py"), "work"], env, log_file, rights)


def _of_its_own(
    words: list[str], env: dict[str, str], log_file: Path, rights: Rights
) -> subprocess.Popen[bytes]:
    """Python in a session of its own: Ctrl-C reaches this script alone, which then stops all in order."""
    with log_file.open("ab") as log:
        return subprocess.Popen(
            [str(venv_bin("python")), *words],
            cwd=ROOT,
            env=env,
            stdin=subprocess.DEVNULL,
            stdout=log,
            stderr=log,
            start_new_session=True,
            **rights,
        )


def _wait_until_up(web: Kept, port: int, door: Door | None) -> None:
    trust = ssl.create_default_context(cafile=door.papers.authority) if door else None
    at = f"{'https' if door else 'http'}://127.0.0.1:{port}/"
    for _ in range(300):
        if not web.alive():
            break
        with contextlib.suppress(OSError), urllib.request.urlopen(at, timeout=2, context=trust):
            return
        time.sleep(0.1)
    raise StepFailed(f"It did not answer on port {port}; see {web.log}", "Read the end of that log.")


if __name__ == "__main__":
    sys.exit(start())
