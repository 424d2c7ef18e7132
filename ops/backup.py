"""./coat backup and ./coat restore: the whole database, in PostgreSQL's own dump format.

Who is signed in and who tried to be stays behind: a backup is a record of the shop, not a key to it.
"""

from __future__ import annotations

import contextlib
import datetime as dt
import os
from collections.abc import Iterator
from pathlib import Path
from urllib.parse import unquote, urlsplit

from .cluster import Cluster
from .console import StepFailed, run, say, step
from .machine import need_postgres, need_python
from .paths import ROOT, home, venv_bin
from .serve import cluster_of, only_one, secret_of, web_env

__all__ = ["backup", "restore"]

WHOLE_OR_NOTHING = ("--no-owner", "--no-acl", "--single-transaction", "--exit-on-error")
LEFT_OUT = (
    "--exclude-table-data=django_session",
    "--exclude-table-data=axes_*",
    "--exclude-table-data=shop_signedin",
)
NAMED = "coat-log-%Y%m%d-%H%M%S.backup"
USAGE = "Say where to: ./coat backup FILE, or ./coat backup FOLDER --keep 14 for a schedule."
DUMP_REMEDY = "Read the last lines; see that the database runs and the disk has room."


def backup(words: list[str]) -> int:
    """Write everything to a file that is not there yet; into a folder with `--keep`, the newest of many."""
    keep = 0
    if len(words) == 3 and words[1] == "--keep" and words[2].isdecimal() and int(words[2]) > 0:
        keep = int(words[2])
    elif len(words) != 1:
        say(USAGE)
        return 2
    target = Path(words[0]).absolute()
    if keep:
        target = target / dt.datetime.now(dt.UTC).strftime(NAMED)
    need_python("base")

    def dump(url: str) -> None:
        if target.exists():
            raise StepFailed(f"{target} is there already.", "Name a file that is not there yet.")
        if not target.parent.is_dir():
            raise StepFailed(f"{target.parent} is no folder.", "Make it, or name another.")
        half = target.with_name(target.name + ".part")
        try:
            half.touch(mode=0o600)  # before the first byte is in it
            half.chmod(0o600)
            run(
                [*_tool("pg_dump", url), "-Fc", *LEFT_OUT, "-f", str(half)], env=_env(url), remedy=DUMP_REMEDY
            )
            half.rename(target)  # whole or not at all
        finally:
            half.unlink(missing_ok=True)

    with _database() as url:
        step(f"Writing {target.name}", lambda: dump(url))
    say(f"{target}: {target.stat().st_size / 1e6:.1f} MB. Keep it on another machine.")
    if keep:
        _drop_older(target.parent, keep)
    return 0


def _drop_older(folder: Path, keep: int) -> None:
    """Only files named as these are, and only once the newest is whole."""
    for old in sorted(folder.glob("coat-log-????????-??????.backup"))[:-keep]:
        old.unlink()
        say(f"{old.name} is older than the newest {keep}: removed.")


def restore(words: list[str]) -> int:
    """Fill an empty database from a backup, and hold it against its own log."""
    if len(words) != 1:
        say("Say from where: ./coat restore FILE")
        return 2
    source = Path(words[0]).absolute()
    need_python("base")
    place = home()
    place.mkdir(parents=True, exist_ok=True)
    with only_one(place) as mine:
        if not mine:
            say("Coat Log is running from this folder. Stop it with Ctrl-C, then restore.")
            return 1
        with _database() as url:
            env = web_env(url, secret=secret_of(place))
            step("Looking at the backup", lambda: _check_dump(source, url))
            step("Looking whether there is room", lambda: _check_empty(url))
            step(
                "Filling the database",
                lambda: run(
                    [*_tool("pg_restore", url), *WHOLE_OR_NOTHING, str(source)],
                    env=_env(url),
                    remedy="Nothing was kept of it. Use a backup of this version or older.",
                ),
            )
            step("Bringing tables up to date", lambda: _manage(env, "prepare"))
            said = step("Holding it against its log", lambda: _manage(env, "verify_log"))
    say(said.strip())
    say("Restored. ./coat start serves it.")
    return 0


@contextlib.contextmanager
def _database() -> Iterator[str]:
    """The database's address; our own cluster is started for the while unless it runs."""
    if os.environ.get("DATABASE_URL"):
        need_postgres()
        yield os.environ["DATABASE_URL"]
        return
    need_postgres()
    place = home()
    place.mkdir(parents=True, exist_ok=True)
    running = _running(place)
    if running is not None:
        yield running.url
        return
    cluster = cluster_of(place)
    cluster.make()
    cluster.start()
    try:
        yield cluster.url
    finally:
        cluster.stop()


def _running(place: Path) -> Cluster | None:
    port = place / "port"
    if not port.exists():
        return None
    cluster = Cluster(place / "postgres", int(port.read_text()))
    return cluster if cluster.pid() is not None else None


def _tool(name: str, url: str) -> list[str]:
    parts = urlsplit(url)
    return [
        str(need_postgres() / name),
        "-h",
        parts.hostname or "127.0.0.1",
        "-p",
        str(parts.port or 5432),
        "-U",
        unquote(parts.username or "coatlog"),
        "-d",
        parts.path.lstrip("/"),
    ]


def _env(url: str) -> dict[str, str]:
    return {**os.environ, "PGPASSWORD": unquote(urlsplit(url).password or "")}


def _check_dump(source: Path, url: str) -> None:
    if not source.is_file():
        raise StepFailed(f"{source} is no file.", "Name a file that ./coat backup wrote.")
    listing = run(
        [str(need_postgres() / "pg_restore"), "--list", str(source)],
        remedy="Name a file that ./coat backup wrote; this one is something else or was cut short.",
    )
    if "logbook_logentry" not in listing:
        raise StepFailed("It is a dump of something else: it has no log.", "Name a file of ./coat backup.")


def _check_empty(url: str) -> None:
    tables = run(
        [*_tool("psql", url), "-qtA", "-c", "SELECT count(*) FROM pg_tables WHERE schemaname = 'public'"],
        env=_env(url),
        remedy=DUMP_REMEDY,
    )
    if int(tables.strip() or 0):
        raise StepFailed(
            "There are tables already: a restore never writes over a shop.",
            "Restore into an empty folder: COATLOG_HOME=/a/new/folder ./coat restore FILE",
        )


def _manage(env: dict[str, str], *words: str) -> str:
    return run(
        [venv_bin("python"), ROOT / "manage.py", *words],
        env=env,
        cwd=ROOT,
        follow=True,
        remedy="What was restored is there. Read the last lines, mend that, run it again.",
    )
