"""What must keep running is looked at twice a second and started again when it has ended by itself."""

from __future__ import annotations

import os
import signal
import subprocess
import time
from collections.abc import Callable, Sequence
from dataclasses import dataclass, field
from pathlib import Path

from .cluster import Cluster
from .console import StepFailed, say

__all__ = ["Kept", "end_left_over", "end_session", "keep_running"]

LOOK_S = 0.5
TIRED_AFTER, WITHIN_S = 5, 60.0
#: In the environment of every process started from here.
OURS = b"COATLOG_SECRET_KEY="


@dataclass
class Kept:
    """A process of ours, leader of a session.  `folder`: where its id and its log are."""

    name: str
    folder: Path
    begin: Callable[[Path], subprocess.Popen[bytes]]
    process: subprocess.Popen[bytes] | None = None
    ended: list[float] = field(default_factory=list)

    @property
    def log(self) -> Path:
        return self.folder / f"{self.name}.log"

    @property
    def pid_file(self) -> Path:
        return self.folder / f"{self.name}.pid"

    def start(self) -> None:
        if self.process is not None:
            end_session(self.process.pid)
        self.process = self.begin(self.log)
        self.pid_file.write_text(str(self.process.pid))

    def alive(self) -> bool:
        return self.process is not None and self.process.poll() is None

    def stop(self) -> None:
        """End it, in order first."""
        if self.process is None or self.process.poll() is not None:
            return
        self.process.terminate()
        try:
            self.process.wait(15)
        except subprocess.TimeoutExpired:
            self.process.kill()


def end_left_over(kept: Kept) -> None:
    """End what a start that was killed left behind."""
    try:
        end_session(int(kept.pid_file.read_text()))
    except (OSError, ValueError):
        return


def end_session(leader: int) -> None:
    """Kill what is left of a session of ours: workers outlive a leader that was killed, and hold its port."""
    for folder in Path("/proc").glob("[0-9]*"):
        try:
            session = int((folder / "stat").read_text().rsplit(")", 1)[1].split()[3])
            if session == leader and OURS in (folder / "environ").read_bytes():
                os.kill(int(folder.name), signal.SIGKILL)
        except OSError:
            continue  # it has ended meanwhile, or is somebody else's


def keep_running(kept: Sequence[Kept], cluster: Cluster | None) -> int:
    """Watch until something ends again and again: then say which and return 1."""
    while True:
        time.sleep(LOOK_S)
        if cluster is not None and cluster.pid() is None:
            say("The database ended by itself; starting it again.")
            try:
                cluster.start()
            except StepFailed as failure:
                say(f"It does not start: {failure.why}")
                return 1
        for one in kept:
            if one.alive():
                continue
            now = time.monotonic()
            one.ended = [t for t in one.ended if t > now - WITHIN_S] + [now]
            if len(one.ended) > TIRED_AFTER:
                say(f"The {one.name} ended {len(one.ended)} times within a minute; see {one.log}")
                return 1
            say(f"The {one.name} ended by itself; starting it again. See {one.log}")
            one.start()
