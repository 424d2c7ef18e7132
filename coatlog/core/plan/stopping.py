"""What can be finished before one must leave, and what is better not begun.

A part is left safely when every coat and its tape are done, when nothing was begun on it, or when
its next window is still open, with time to mix and set up, at the moment the shop opens again.
The coats chosen are laid out as a plan of their own, so the times hold together: one painter, the
pots, the waits.
"""

from __future__ import annotations

import dataclasses
from collections.abc import Callable, Collection, Mapping, Sequence
from dataclasses import dataclass

from ..run.task_key import clean_key
from .layout import lay_out, legal
from .plan import Plan, Task
from .problem import Link, Problem, ToDo, link_windows

MOST_SEARCHED = 60  # tasks; each of some fifty trials lays out all that are kept
MOST_PASSES = 25  # what needs more pushes than that is not what one begins before leaving
SPARE_S = 600  # what pots and guns taken otherwise might win back

__all__ = [
    "MOST_SEARCHED",
    "Leaving",
    "PartLeft",
    "StopPoint",
    "finish_before",
    "next_opening",
    "stop_points",
]


@dataclass(frozen=True, slots=True, kw_only=True)
class PartLeft:
    """How a part is left: `done` more tasks of `of`, safe or not, and why.

    `latest_start_at` of its last task before leaving; `closes_at`: when its next window does.
    """

    part_id: str
    done: int
    of: int
    safe: bool
    why: str
    closes_at: int | None
    latest_start_at: int | None


@dataclass(frozen=True, slots=True, kw_only=True)
class Leaving:
    """The answer: what to do until `leave_at`, how each part is then left, what fails first."""

    leave_at: int
    back_at: int
    tasks: tuple[Task, ...]
    parts: tuple[PartLeft, ...]
    fails_first: str


@dataclass(frozen=True, slots=True, kw_only=True)
class StopPoint:
    """A moment of a plan to stop at: is every part safe until work goes on, and which fails first."""

    at: int
    back_at: int
    safe: bool
    why: str
    part_id: str | None


def stop_points(
    p: Problem, plan: Plan, hours: Sequence[tuple[int, int]], *, lead_s: Mapping[str, int]
) -> tuple[StopPoint, ...]:
    """Now, and the end of each task of a plan up to the next closing: may one stop there?

    A part is safe when it is finished, not begun, or its next window still open when work goes on.
    """
    chains = _chains(p)
    links = p.links_to()
    times = {t.key: t for t in plan.tasks}
    closes = next((b for a, b in hours if a <= p.now < b), p.now + 86400)
    ends = sorted({t.end_at for t in plan.tasks if t.key in p.tasks and p.now < t.end_at <= closes})
    out = []
    for at in (p.now, *ends):
        back = next_opening(hours, at)
        fails: list[tuple[int, str, str]] = []
        done = {k for k in p.tasks if k in times and times[k].end_at <= at}
        for part, chain in chains.items():
            begun = (times[k] for k in chain if k in times and k not in done)
            going = next((t for t in begun if t.start_at < at and (t.locked or at > p.now)), None)
            if going is not None:
                fails.append((at, part, f"{going.label} is in progress"))
                continue
            safe, until, why = _window(p, chain, done, times, links, back, lead_s)
            if not safe:
                fails.append((until or 0, part, f"{_name(p, part)}: {why}"))
        first = min(fails) if fails else None
        out.append(
            StopPoint(
                at=at,
                back_at=back,
                safe=first is None,
                why="" if first is None else first[2],
                part_id=None if first is None else first[1],
            )
        )
    return tuple(out)


def next_opening(hours: Sequence[tuple[int, int]], leave_at: int) -> int:
    """When the shop opens after `leave_at`; with no hours known, a day later."""
    return min((a for a, _ in hours if a > leave_at), default=leave_at + 86400)


def finish_before(
    p: Problem, leave_at: int, back_at: int, *, lead_s: Mapping[str, int], plan: Plan | None = None
) -> Leaving:
    """The most that can be finished by `leave_at` so that every part is left safely.

    Where there are very many tasks nothing is searched: the answer is what the standing plan has done
    by then, less what is better not begun.

    Parameters
    ----------
    p : Problem
        What is still to do; its opening hours are not looked at before `leave_at`.
    leave_at, back_at : int
        When one must stop, and when work goes on [epoch s].
    lead_s : mapping
        Time to mix, set up and put on, by task key [s]: a window that closes sooner after
        opening time is lost.
    plan : Plan
        The plan that stands.
    """
    chains = _chains(p)
    links = p.links_to()
    if plan is not None and len(p.tasks) > MOST_SEARCHED:
        return _by_plan(p, chains, plan, leave_at, back_at, lead_s)
    free = dataclasses.replace(p, hours=())
    keep = _laid_off(free, chains, leave_at, back_at, lead_s)

    def ask(trial: Mapping[str, int]) -> tuple[Plan, list[str]] | None:
        """The trial laid out and the parts it leaves unsafe; None when it does not end in time."""
        laid = _laid(free, chains, trial, by_at=leave_at + SPARE_S)
        when = {t.key: t for t in laid.tasks}
        if _too_late(chains, trial, when, leave_at):
            return None
        done = _kept(chains, trial)
        return laid, [
            k for k in chains if not _window(free, chains[k], done, when, links, back_at, lead_s)[0]
        ]

    keep = _given_back(chains, keep, ask)
    plan = _laid(free, chains, keep, slack=True)
    return _told(free, chains, keep, plan.tasks, leave_at, back_at, lead_s)


def _by_plan(
    p: Problem,
    chains: Mapping[str, list[str]],
    plan: Plan,
    leave_at: int,
    back_at: int,
    lead_s: Mapping[str, int],
) -> Leaving:
    """What the plan has done by then; a part that a coat fewer would leave better gives it up."""
    times, links = {t.key: t for t in plan.tasks}, p.links_to()

    def ends(key: str) -> int:
        if key not in times:
            return 2**60
        return max(times[key].end_at, times[clean_key(key)].end_at if clean_key(key) in times else 0)

    keep = {}
    for part, chain in chains.items():
        n = next((i for i, k in enumerate(chain) if ends(k) > leave_at), len(chain))
        if n == 0 and chain[0] in times and times[chain[0]].locked:
            n = 1  # it is going on: it will be ended, late or not
        keep[part] = n
    keep |= _better_left(p, chains, keep, times, links, back_at, lead_s)
    kept = _kept(chains, keep)
    tasks = tuple(t for t in plan.tasks if t.key in kept or t.waits_key in kept)
    return _told(p, chains, keep, tasks, leave_at, back_at, lead_s)


def _told(
    p: Problem,
    chains: Mapping[str, list[str]],
    keep: Mapping[str, int],
    tasks: Sequence[Task],
    leave_at: int,
    back_at: int,
    lead_s: Mapping[str, int],
) -> Leaving:
    times, links = {t.key: t for t in tasks}, p.links_to()
    done = _kept(chains, keep) & times.keys()
    left = tuple(
        _left(p, part, chains[part], done, times, links, leave_at, back_at, lead_s) for part in chains
    )
    lost = [x for x in left if not x.safe]
    first = min(lost, key=lambda x: x.closes_at or 0) if lost else None
    return Leaving(
        leave_at=leave_at,
        back_at=back_at,
        tasks=tuple(t for t in tasks if t.end_at <= leave_at or t.locked),
        parts=left,
        fails_first="" if first is None else f"{_name(p, first.part_id)}: {first.why}",
    )


def _laid_off(
    p: Problem, chains: Mapping[str, list[str]], leave_at: int, back_at: int, lead_s: Mapping[str, int]
) -> dict[str, int]:
    """How many tasks of each part are done by then, all laid out together; what a part is better left
    without is not begun.
    """
    links = p.links_to()
    keep = {part: len(chain) for part, chain in chains.items()}
    while True:
        times = {t.key: t for t in _laid(p, chains, keep).tasks}
        if not times:  # they do not go together: what is going on, and then what can be given to it
            return {part: int(_goes_on(p, chain)) for part, chain in chains.items()}
        if _too_late(chains, keep, times, leave_at):
            keep = {part: _in_time(chain[: keep[part]], times, leave_at) for part, chain in chains.items()}
            continue
        fewer = _better_left(p, chains, keep, times, links, back_at, lead_s)
        if not fewer:
            return keep
        keep |= fewer


def _in_time(chain: Sequence[str], times: Mapping[str, Task], leave_at: int) -> int:
    """How many tasks of a part, one after the other, have ended by then, their gun cleaned."""
    late = (i for i, k in enumerate(chain) if k not in times or _ends_late(times[k], times, leave_at))
    return next(late, len(chain))


def _ends_late(t: Task, times: Mapping[str, Task], leave_at: int) -> bool:
    """A gun left as it is sets; what is going on will be ended, late or not."""
    return not t.locked and times.get(clean_key(t.key), t).end_at > leave_at


def _given_back(
    chains: Mapping[str, list[str]],
    keep: dict[str, int],
    ask: Callable[[Mapping[str, int]], tuple[Plan, list[str]] | None],
) -> dict[str, int]:
    """Coats given up on the way to a plan that holds may fit after all: what is unsafe first."""
    now = ask(keep)
    if now is None:
        return keep
    unsafe = now[1]
    for part in sorted(chains, key=lambda k: (k not in unsafe, k)):
        first, whole = keep[part], len(chains[part])
        # All of it; or else as much as there is.
        for n in (whole, *range(first + 1, whole)) if first < whole else ():
            then = ask({**keep, part: n})
            if then is None and n < whole:
                break  # nor would more of it end in time
            if then is not None and (
                len(then[1]) < len(unsafe) or (then[1] == unsafe and part not in unsafe)
            ):
                keep, unsafe = {**keep, part: n}, then[1]
                if n == whole:
                    break
    return keep


def _chains(p: Problem) -> dict[str, list[str]]:
    """All each part waits for, in working order: its own tasks, and those it shares with its neighbours.

    A wash that four wheels have together is before the first coat of every one of them.  What is going on
    comes first, whatever should have been done before it.
    """
    place = {k: i for i, k in enumerate(legal(tuple(p.tasks), p.before()))}
    before = p.before()
    own: dict[str, list[str]] = {}
    for key, t in p.tasks.items():
        own.setdefault(t.part_id, []).append(key)
    out: dict[str, list[str]] = {}
    for part, keys in own.items():
        found, ahead = set(keys), list(keys)
        while ahead:
            more = [k for k in before.get(ahead.pop(), ()) if k in p.tasks and k not in found]
            found |= set(more)
            ahead += more
        out[part] = sorted(found, key=lambda k: (p.tasks[k].began_at is None, place[k]))
    return out


def _goes_on(p: Problem, chain: Sequence[str]) -> bool:
    return p.tasks[chain[0]].began_at is not None


def _kept(chains: Mapping[str, list[str]], keep: Mapping[str, int]) -> set[str]:
    """What is done where so many tasks of each chain are."""
    return {k for part, chain in chains.items() for k in chain[: keep[part]]}


def _laid(
    p: Problem,
    chains: Mapping[str, list[str]],
    keep: Mapping[str, int],
    *,
    slack: bool = False,
    by_at: int | None = None,
) -> Plan:
    """The kept tasks laid out alone: what closes first goes first, then layer by layer."""
    kept = _kept(chains, keep)
    tasks = {k: t for k, t in p.tasks.items() if k in kept}
    links = tuple(x for x in p.links if x.b_key in kept and x.a_key in kept)
    sub = dataclasses.replace(p, tasks=tasks, links=links)
    ends: dict[str, int] = {}
    depth: dict[str, int] = {}
    for chain in chains.values():
        for i, k in enumerate(chain):
            depth[k] = max(depth.get(k, 0), i)
            ends[k] = min(ends.get(k, 2**60), _closes(p.tasks[chain[0]]))
    order = sorted(tasks, key=lambda k: (depth[k], ends[k], k))
    return lay_out(tuple(order), sub, slack=slack, passes=MOST_PASSES, by_at=by_at)


def _closes(t: ToDo) -> int:
    return min((c for _, c in t.windows if c is not None), default=2**60)


def _too_late(
    chains: Mapping[str, list[str]], keep: Mapping[str, int], times: Mapping[str, Task], leave_at: int
) -> bool:
    """Whether a part's last kept task ends past leaving, or is not planned at all."""
    return any(_in_time(chain[: keep[part]], times, leave_at) < keep[part] for part, chain in chains.items())


def _better_left(
    p: Problem,
    chains: Mapping[str, list[str]],
    keep: Mapping[str, int],
    times: Mapping[str, Task],
    links: Mapping[str, Sequence[Link]],
    back_at: int,
    lead_s: Mapping[str, int],
) -> dict[str, int]:
    """Parts that fewer tasks would leave safe, and how many: not safe as they are, nor going on.

    What parts share is given up by all of them or by none: not where one of them is then done.
    """
    kept = _kept(chains, keep) & times.keys()
    whole = {k for part, chain in chains.items() if keep[part] == len(chain) for k in chain}
    out: dict[str, int] = {}
    for part, chain in chains.items():
        n = keep[part]
        if n in (0, len(chain)) or _window(p, chain, kept, times, links, back_at, lead_s)[0]:
            continue
        for fewer in range(n - 1, -1, -1):
            given_up = chain[fewer]
            if given_up in whole or (given_up in times and times[given_up].locked):
                break
            done = kept - set(chain[fewer:])
            if _window(p, chain, done, times, links, back_at, lead_s)[0]:
                dropped = set(chain[fewer:])
                for other, its in chains.items():
                    first = next((i for i, k in enumerate(its) if k in dropped), len(its))
                    if first < keep[other]:
                        out[other] = min(out.get(other, keep[other]), first)
                break
    return out


def _window(
    p: Problem,
    chain: Sequence[str],
    done: Collection[str],
    times: Mapping[str, Task],
    links: Mapping[str, Sequence[Link]],
    back_at: int,
    lead_s: Mapping[str, int],
) -> tuple[bool, int | None, str]:
    """Left with these tasks done: is it safe, when does the next window close, and why."""
    ahead = [k for k in chain if k not in done]
    if not ahead:
        return True, None, "all done"
    if p.tasks[ahead[0]].blocked is not None:
        return False, None, p.tasks[ahead[0]].blocked or "cannot be planned"
    running = [x for k in ahead if (x := _clock(p, done, k, times, links)) is not None]
    if not running:
        waits = any(x.a_key in done for k in ahead for x in links.get(k, ()))
        return True, None, "no time limit for the next coat" if waits else "no time limit"
    # The one that leaves least time once work goes on.
    key, closes = min(running, key=lambda x: x[1] - lead_s.get(x[0], 0))
    if closes - lead_s.get(key, 0) >= back_at:
        return True, closes, "recoat window still open when you return"
    if p.tasks[key].kind == "unmask":
        return False, closes, "masking must be removed before you return"
    if p.tasks[key].kind == "step":
        return False, closes, f"{p.tasks[key].label.split(', ', 1)[-1]} has to be done before you are back"
    return False, closes, "recoat window closes before you return: will need sanding"


def _clock(
    p: Problem,
    done: Collection[str],
    key: str,
    times: Mapping[str, Task],
    links: Mapping[str, Sequence[Link]],
) -> tuple[str, int] | None:
    """When a task that is left must have begun, by what is done; None: nothing presses it.

    What a plan cannot place has no time, so nothing runs from it.
    """
    ends = []
    if p.tasks[key].windows and all(c is not None for _, c in p.tasks[key].windows):
        ends.append(max(c for _, c in p.tasks[key].windows if c is not None))
    for link in links.get(key, ()):
        if link.a_key not in done or link.a_key not in times:
            continue
        before = times[link.a_key]
        # `lead_s` has the coat's own time in it already.
        own = link_windows(link, p.air_of(link), before.start_at, before.end_at, 0)
        if own and all(c is not None for _, c in own):
            ends.append(max(c for _, c in own if c is not None))
    return (key, min(ends)) if ends else None


def _left(
    p: Problem,
    part: str,
    chain: Sequence[str],
    done: Collection[str],
    times: Mapping[str, Task],
    links: Mapping[str, Sequence[Link]],
    leave_at: int,
    back_at: int,
    lead_s: Mapping[str, int],
) -> PartLeft:
    safe, closes, why = _window(p, chain, done, times, links, back_at, lead_s)
    own = [times[k] for k in chain if k in done]
    last = max(own, key=lambda t: (t.end_at, t.start_at)) if own else None
    cleaned = times.get(clean_key(last.key), last) if last is not None else None
    return PartLeft(
        part_id=part,
        done=len(own),
        of=len(chain),
        safe=safe,
        why=why,
        closes_at=closes,
        latest_start_at=None
        if last is None or cleaned is None or last.locked
        else leave_at - (cleaned.end_at - last.start_at),
    )


def _name(p: Problem, part_id: str) -> str:
    task = next(t for t in p.tasks.values() if t.part_id == part_id)
    return task.label.split(",")[0]
