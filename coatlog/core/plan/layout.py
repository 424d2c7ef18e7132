"""`lay_out`: one order of what is still to do, laid out in time, exactly.

For a fixed order it answers the earliest times under minimum and maximum waits, which depend on
when they start because temperature does, with painters, guns, machines and bays shared, pots that
are mixed when needed and die, opening hours and outdoor weather, on a grid of seconds.  It is a
fixed point from below: a start is only ever pushed later, and only as far as it must; a task that
would miss its window pushes the one before it.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass, field, replace

from ..run.ripening import reach_max, reach_min
from ..why import Why
from .plan import Binding, Conflict, Plan, PlannedBatch, Task
from .problem import Interval, Link, Problem, TaskKind, ToDo, link_windows

__all__ = ["bay_order", "blocked_tasks", "dispatched", "first_miss", "lay_out"]

MAX_PASSES = 300
HORIZON_S = 60 * 86400
_FAR = 2**60


@dataclass(slots=True)
class _Hand:
    free_at: int
    last: str = ""
    busy: list[tuple[int, int]] = field(default_factory=list)


@dataclass(slots=True)
class _Unit:
    """A gun or a machine: what it holds, of which batch, and the coat that used it last."""

    free_at: int
    holds: str = ""
    batch: int | None = None
    last: str = ""
    dirty: bool = False
    clean_s: int = 0


@dataclass(slots=True)
class _Live:
    """A pot that can be drawn from; `index` None: it stood there before the plan."""

    index: int | None
    left_ml: float
    use_by_at: int | None


@dataclass(slots=True)
class _Slot:
    """Where a task can go: its start, what is done before it and by whom."""

    start: int
    hand: int | None
    gun: _Unit | None
    machines: list[_Unit]
    clean_s: int
    mix_s: int
    setup_s: int
    mix_end: int | None
    fresh: bool
    open_until: int | None
    calm_until: int | None
    binding: Binding
    waits_key: str | None

    @property
    def front_s(self) -> int:
        """What the painter does directly before the start [s]."""
        return self.clean_s + self.setup_s + (self.mix_s if self.mix_end is None else 0)


@dataclass(slots=True)
class _Push:
    """A task cannot be placed: which one must move, to when; or nothing can be done."""

    victim: str | None
    to: int
    why: str
    keys: tuple[str, ...]


class _Walk:
    """One walk along the order with the current lower bounds."""

    def __init__(self, p: Problem, lower: dict[str, int], cleans: set[str], pushers: dict[str, str]) -> None:
        self.p, self.lower, self.cleans, self.pushers = p, lower, cleans, pushers
        self.links = p.links_to()
        self.hands = [_Hand(p.now) for _ in range(max(1, p.painters))]
        self.units: dict[str, list[_Unit]] = {}
        self.live: dict[tuple[str, str], _Live] = {
            k: _Live(None, left, use_by) for k, (_, left, use_by) in p.alive.items()
        }
        self.at: dict[str, Task] = {}
        self.extra: list[Task] = []
        self.placed: list[tuple[ToDo, _Slot, int]] = []
        self.batches: list[PlannedBatch] = []
        self.lasts: set[str] = set()
        self.out: dict[tuple[str, str], int] = {}
        self.left = _count(p, (k for k in p.tasks))
        self.leaves: dict[str, dict[str, int]] = {}
        for place, bay in p.bays.items():
            self.leaves[place] = dict.fromkeys(bay.inside, _FAR) | dict(bay.drying)

    # -- what it may use -------------------------------------------------------------------------

    def _units(self, name: str) -> list[_Unit]:
        if name not in self.units:
            count = self.p.units.get(name, 1)
            self.units[name] = [_Unit(self.p.now) for _ in range(max(1, count))]
        return self.units[name]

    def _gun(self, t: ToDo) -> _Unit | None:
        """The gun with which the coat can begin first: one that holds the material needs no set-up."""
        if not t.gun:
            return None
        held = _held(t)
        hand_at = min(h.free_at for h in self.hands)

        def ready(u: _Unit) -> tuple[int, bool]:
            change_s = 0 if u.holds == held else t.setup_s + (u.clean_s if u.dirty else 0)
            return max(u.free_at, hand_at) + change_s, u.holds != held

        return min(self._units(t.gun), key=ready)

    def _live_for(self, t: ToDo) -> _Live | None:
        live = self.live.get((t.job_id, t.sheet_id or ""))
        return live if live is not None and live.left_ml >= t.volume_ml - 1e-9 else None

    def _bay_from(self, t: ToDo) -> tuple[int, str | None]:
        """From when the bay takes this task's object, and the object it waits for."""
        bay = self.p.bays.get(t.place_id)
        if bay is None:
            return self.p.now, None
        leaves = self.leaves[t.place_id]
        if t.job_id in leaves:
            return self.p.now, None
        ends = sorted((at, who) for who, at in leaves.items())
        over = len(ends) - bay.holds
        if over < 0:
            return self.p.now, None
        return ends[over]

    # -- placing ---------------------------------------------------------------------------------

    def lock(self, t: ToDo) -> None:
        """A coat that is going on: it holds a painter and its gun until its likely end."""
        began = t.began_at if t.began_at is not None else self.p.now
        end = max(began + t.duration_s, self.p.now)
        i = self._first_hand()
        self._hold(self.hands[i], began, end, t.key)
        gun = self._gun(t)
        if gun is not None:
            self._load(gun, t, end, None)
        self._enter(t, end)
        self.at[t.key] = _task(
            t, i, began, end, None, None, "going", None, Why(kind="measured", ref="going on"), locked=True
        )
        if gun is not None and t.key in self.cleans:
            self._clean_after(t, i, gun, end)

    def place(self, t: ToDo) -> _Push | None:
        """Put one task; or say which earlier task must move, to when, and why."""
        if self.p.bays.get(t.place_id) is not None and self._bay_from(t)[0] >= _FAR:
            name = self.p.bays[t.place_id].name
            return _Push(None, 0, f"{t.label}: no room in {name}", (t.key,))
        windows, opener = self._windows(t)
        late: list[int] = []
        for opens, closes in windows:
            slot = self._slot(t, opens, opener)
            if slot is None:
                why = "no opening hours and weather long enough"
                return _Push(None, 0, f"{t.label}: {why}", (t.key,))
            if closes is None or slot.start <= closes:
                self._book(t, slot, opens, closes)
                return None
            late.append(slot.start)
        return self._miss(t, windows, opener, late)

    def could_start(self, t: ToDo) -> tuple[int, int, int]:
        """The earliest start as things stand, what is done before it [s], and when its window ends."""
        if self._bay_from(t)[0] >= _FAR:
            return _FAR, 0, _FAR
        windows, opener = self._windows(t)
        slot = self._slot(t, windows[0][0] if windows else self.p.now, opener)
        ends = [_FAR if c is None else c for _, c in windows]
        return (_FAR, 0, _FAR) if slot is None else (slot.start, slot.front_s, max(ends, default=self.p.now))

    def put_anyway(self, t: ToDo) -> None:
        """Count a task as done where it cannot be placed, so that what follows has a time."""
        slot = self._slot(t, self.p.now, None) if self._bay_from(t)[0] < _FAR else None
        if slot is not None:
            self._book(t, slot, self.p.now, None)

    def _windows(self, t: ToDo) -> tuple[tuple[Interval, ...], str | None]:
        """Intervals for the start, all waits together, and the task that opens them last."""
        windows: tuple[Interval, ...] = t.windows or ((self.p.now, None),)
        opener, latest = None, self.p.now
        for link in self.links.get(t.key, ()):
            before = self.at.get(link.a_key)
            if before is None:
                continue
            own = link_windows(link, self.p.air_of(link), before.start_at, before.end_at, t.duration_s)
            windows = _both(windows, own)
            if own and own[0][0] >= latest:
                opener, latest = link.a_key, own[0][0]
        return windows, opener

    def _slot(self, t: ToDo, opens: int, opener: str | None) -> _Slot | None:
        live = self._live_for(t)
        if t.sheet_id is not None and live is not None:
            slot = self._fit(t, opens, opener, fresh=False)
            if slot is None or live.use_by_at is None or slot.start + t.duration_s <= live.use_by_at:
                return slot
        return self._fit(t, opens, opener, fresh=t.sheet_id is not None)

    def _fit(self, t: ToDo, opens: int, opener: str | None, *, fresh: bool) -> _Slot | None:
        """Earliest start with painter, gun and machines free, the mix made, the shop open, it dry."""
        p = self.p
        i = self._first_hand() if t.hands else None
        hand = self.hands[i] if i is not None else None
        gun = self._gun(t)
        pot = p.pots.get(t.sheet_id or "")
        mix_s = pot.mix_s if pot is not None and fresh else 0
        stand_s = pot.induction_s if pot is not None and fresh else 0
        changed = gun is not None and gun.holds != _held(t)
        clean_s = gun.clean_s if gun is not None and changed and gun.dirty else 0
        setup_s = t.setup_s if changed or (gun is not None and fresh and not gun.holds) else 0
        front_s = clean_s + setup_s + (0 if stand_s else mix_s)
        machines = [min(self._units(name), key=lambda u: u.free_at) for name in t.uses]
        enter, who = self._bay_from(t)
        reasons: list[tuple[int, Binding, str | None]] = [
            (p.now + front_s, "mix" if front_s else "now", None),
            (opens, "link" if opens > p.now else "now", opener),
            (p.held.get(t.key, 0), "held", None),
        ]
        if t.key in self.pushers:
            reasons.append((self.lower[t.key], "later", self.pushers[t.key]))
        if who is not None:
            reasons.append((enter + front_s, "bay", None))
        if gun is not None and gun.last:
            reasons.append((gun.free_at + front_s, "gun", gun.last))
        reasons += [(u.free_at, "machine", u.last) for u in machines if u.last]
        if hand is not None and hand.last:
            reasons.append((hand.free_at + front_s, "painter", hand.last))
        if stand_s and hand is not None:
            reasons.append((self._first_mix(hand, mix_s, p.now) + stand_s, "mix", None))
        start = max(at for at, _, _ in reasons)
        _, binding, waits = next(r for r in _ranked(reasons) if r[0] == start)
        lead_s = front_s + (mix_s + stand_s if stand_s else 0)
        after_s = t.clean_s if t.key in self.cleans else 0
        found = self._open_and_calm(t, start, lead_s, after_s)
        if found is None:
            return None
        moved, open_until, calm_until, by = found
        if by is not None:
            # Where a task after it pushed it past today, that is what it waits for.
            if not (by == "hours" and binding == "later"):
                binding, waits = by, None
            start = moved
        mix_end = None
        while stand_s and hand is not None:
            mix_end = self._last_mix(hand, mix_s, start - stand_s)
            opened = next((a for a, b in p.hours if a <= start - front_s < b), p.now)
            if mix_end - mix_s >= max(opened, p.now):
                break
            # Between opening and then there is no time to mix: the coat waits for the first there is.
            later = self._first_mix(hand, mix_s, max(opened, p.now)) + stand_s
            found = self._open_and_calm(t, max(start + 1, later), lead_s, after_s)
            if found is None:
                return None
            start, open_until, calm_until, _ = found
            binding, waits = "mix", None
        return _Slot(
            start,
            i,
            gun,
            machines,
            clean_s,
            mix_s,
            setup_s,
            mix_end,
            fresh,
            open_until,
            calm_until,
            binding,
            waits,
        )

    def _open_and_calm(
        self, t: ToDo, start: int, lead_s: int, after_s: int
    ) -> tuple[int, int | None, int | None, Binding | None] | None:
        """The start moved to where the shop is open throughout and the weather holds."""
        p = self.p
        by: Binding | None = None
        calm = p.weather.get(t.place_id) if t.kind == "coat" else None
        open_until: int | None = None
        calm_until: int | None = None
        while True:
            again = start
            if p.hours and t.kind != "slot":
                span = _inside(p.hours, start, lead_s, t.duration_s + after_s)
                if span is None:
                    return None
                start, open_until = span[0], span[1] - t.duration_s - after_s
                by = "hours" if start > again else by
            if calm is not None:
                before = start
                span = _inside(calm, start, 0, t.duration_s + t.dry_s)
                if span is None:
                    return None
                start, calm_until = span[0], span[1] - t.duration_s - t.dry_s
                by = "weather" if start > before else by
            if start == again:
                return start, open_until, calm_until, by

    def _first_hand(self) -> int:
        return min(range(len(self.hands)), key=lambda i: (self.hands[i].free_at, i))

    def _first_mix(self, hand: _Hand, mix_s: int, from_at: int) -> int:
        """End of the first time the painter can mix, between tasks or after them."""
        at = from_at
        for a, b in sorted(hand.busy):
            if a - at >= mix_s:
                break
            at = max(at, b)
        return at + mix_s

    def _last_mix(self, hand: _Hand, mix_s: int, by_at: int) -> int:
        """End of the last time the painter can mix so that it is done by `by_at`."""
        end = by_at
        for a, b in sorted(hand.busy, reverse=True):
            if b <= end - mix_s:
                break
            end = min(end, a)
        return end

    # -- booking ---------------------------------------------------------------------------------

    def _book(self, t: ToDo, slot: _Slot, opens: int, closes: int | None) -> None:
        start, end = slot.start, slot.start + t.duration_s
        hand = self.hands[slot.hand] if slot.hand is not None else None
        index = self._draw(t, slot) if t.sheet_id is not None else None
        self._prepare(t, slot)
        if hand is not None:
            self._hold(hand, start - slot.front_s, end, t.key)
        for u in slot.machines:
            u.free_at, u.last = end, t.key
        if slot.gun is not None:
            self._load(slot.gun, t, end, index)
        self._enter(t, end)
        self.at[t.key] = _task(
            t,
            slot.hand or 0,
            start,
            end,
            opens,
            closes,
            slot.binding,
            slot.waits_key,
            self._why(t, slot),
        )
        self.placed.append((t, slot, end))
        if slot.gun is not None and t.key in self.cleans:
            self._clean_after(t, slot.hand or 0, slot.gun, end)

    def _prepare(self, t: ToDo, slot: _Slot) -> None:
        """Mixing, cleaning out and setting up, as tasks of their own before the coat."""
        at = slot.start - slot.front_s
        painter = slot.hand or 0
        if slot.mix_end is not None and slot.hand is not None:
            self._hold(self.hands[slot.hand], slot.mix_end - slot.mix_s, slot.mix_end, f"{t.key}/mix")
            self._side(t, "mix", f"mix {self._pot_name()}", painter, slot.mix_end - slot.mix_s, slot.mix_s)
        elif slot.mix_s:
            self._side(t, "mix", f"mix {self._pot_name()}", painter, at, slot.mix_s)
            at += slot.mix_s
        if slot.clean_s:
            self._side(t, "clean", "clean the gun", painter, at, slot.clean_s)
            at += slot.clean_s
        if slot.setup_s:
            self._side(t, "setup", "set up the gun", painter, at, slot.setup_s)

    def _pot_name(self) -> str:
        return self.batches[-1].key

    def _side(
        self, t: ToDo, kind: TaskKind, label: str, painter: int, at: int, takes_s: int, *, after: bool = False
    ) -> None:
        """What is done for a coat, before it or after.  A gun may be cleaned both times."""
        name = "clean-first" if kind == "clean" and not after else kind
        self.extra.append(
            Task(
                key=f"{t.key}/{name}",
                job_id=t.job_id,
                kind=kind,
                label=label,
                part_id=t.part_id,
                painter=painter,
                start_at=at,
                end_at=at + takes_s,
                opens_at=None,
                closes_at=None,
                binds=Why(kind="computed", ref=f"{'after' if after else 'for'} {t.label}"),
                slack_s=None,
                binding="link" if after else "later",
                waits_key=t.key,
            )
        )

    def _clean_after(self, t: ToDo, painter: int, gun: _Unit, end: int) -> None:
        """The gun is cleaned out at once: what it holds would set in it or be wanted no more."""
        takes_s = t.clean_s
        self._hold(self.hands[painter], end, end + takes_s, f"{t.key}/clean")
        self._side(t, "clean", "clean the gun", painter, end, takes_s, after=True)
        gun.free_at, gun.holds, gun.dirty, gun.batch = end + takes_s, "", False, None

    def _hold(self, hand: _Hand, from_at: int, to_at: int, key: str) -> None:
        hand.busy.append((from_at, to_at))
        if to_at >= hand.free_at:
            hand.free_at, hand.last = to_at, key

    def _load(self, gun: _Unit, t: ToDo, end: int, batch: int | None) -> None:
        """Remember which coat was the last of its batch or of its material in this gun."""
        if gun.dirty and (gun.holds != _held(t) or gun.batch != batch):
            self.lasts.add(gun.last)
        gun.holds, gun.batch, gun.last, gun.dirty = _held(t), batch, t.key, True
        gun.free_at, gun.clean_s = end, t.clean_s

    def to_clean(self) -> set[str]:
        """Coats after which their gun has to be cleaned out."""
        ends = {u.last for units in self.units.values() for u in units if u.dirty and u.clean_s}
        return (self.lasts | ends) - self.cleans

    def _enter(self, t: ToDo, end: int) -> None:
        """The object is in the bay until the last of its tasks there is done and dry to handle."""
        if t.place_id not in self.leaves:
            return
        key = (t.place_id, t.job_id)
        self.left[key] -= 1
        leaves = self.leaves[t.place_id]
        out = end
        if t.leaves is not None and t.part_id in self.p.airs:
            dry = reach_min(self.p.airs[t.part_id], t.leaves, end)
            out = end if dry is None else dry
        done = self.out[key] = max(self.out.get(key, 0), out)
        leaves[t.job_id] = done if self.left[key] <= 0 else _FAR

    def _draw(self, t: ToDo, slot: _Slot) -> int | None:
        """Draw from the live pot or mix another; answers the batch's index."""
        assert t.sheet_id is not None
        key = (t.job_id, t.sheet_id)
        if not slot.fresh:
            live = self.live[key]
            live.left_ml -= t.volume_ml
            if live.index is not None:
                b = self.batches[live.index]
                self.batches[live.index] = replace(
                    b, total_ml=b.total_ml + t.volume_ml, draws=(*b.draws, t.key)
                )
            return live.index
        pot = self.p.pots[t.sheet_id]
        ready = slot.mix_end if slot.mix_end is not None else slot.start - slot.front_s + slot.mix_s
        use_by = None
        if pot.pace is not None:
            use_by = reach_max(self.p.airs[t.part_id], pot.pace, ready, pot.use_frac)
        most = math.inf if pot.most_ml is None else pot.most_ml
        index = len(self.batches)
        self.live[key] = _Live(index, most - t.volume_ml, use_by)
        same = sum(b.sheet_id == t.sheet_id and b.job_id == t.job_id for b in self.batches)
        self.batches.append(
            PlannedBatch(
                key=f"{self.p.names.get(t.sheet_id, t.sheet_id)} {_letter(same)}",
                sheet_id=t.sheet_id,
                total_ml=t.volume_ml,
                mix_at=ready - slot.mix_s,
                use_by_at=use_by,
                draws=(t.key,),
                job_id=t.job_id,
            )
        )
        return index

    # -- what went wrong, and why a start is what it is ------------------------------------------

    def _miss(self, t: ToDo, windows: Sequence[Interval], opener: str | None, late: Sequence[int]) -> _Push:
        """Which task before it must move so that this one meets its window: the least that helps."""
        earliest = late[0] if late else None
        if earliest is None:
            slot = self._slot(t, max(self.p.now, *(w[0] for w in t.windows), 0), opener)
            earliest = None if slot is None else slot.start
        best: tuple[int, Link] | None = None
        for link in self.links.get(t.key, ()):
            before = self.at.get(link.a_key)
            if before is None or earliest is None:
                continue
            own = link_windows(link, self.p.air_of(link), before.start_at, before.end_at, t.duration_s)
            if any(c is None or c >= earliest for _, c in own):
                continue
            need = self._move(link, before, t, [*late, earliest])
            if need is not None and (best is None or need < best[0]):
                best = (need, link)
        ends = [c for _, c in windows if c is not None]
        ends += [c for _, c in t.windows if c is not None]
        told = f", which closes {_ago(max(ends), self.p.now)}" if ends else ""
        why = f"{t.label} misses its window{told}"
        if best is None:
            return _Push(None, 0, why, (t.key,))
        return _Push(best[1].a_key, best[0], why, (best[1].a_key, t.key))

    def _move(self, link: Link, before: Task, t: ToDo, starts: Sequence[int]) -> int | None:
        """The least later start of the task before, so that one of the windows holds a start."""
        air = self.p.air_of(link)
        lasts = before.end_at - before.start_at

        def meets(at: int) -> bool:
            own = link_windows(link, air, at, at + lasts, t.duration_s)
            return any(c is None or any(a <= s <= c or s < a for s in starts) for a, c in own)

        step = 1
        while not meets(before.start_at + step):
            step *= 2
            if step > HORIZON_S:
                return None
        low, high = before.start_at + step // 2, before.start_at + step
        while high - low > 1:
            mid = (low + high) // 2
            low, high = (low, mid) if meets(mid) else (mid, high)
        return high

    def _why(self, t: ToDo, slot: _Slot) -> Why:
        def name(key: str | None) -> str:
            if key is None:
                return "what is before it"
            if key in self.p.tasks:
                return self.p.tasks[key].label
            return self._side_name(key)

        k = slot.waits_key
        words: dict[str, str] = {
            "now": "nothing before it",
            "mix": "mixing and set-up come first",
            "link": f"waits for {name(k)}" if k else "waits for what is on it",
            "painter": f"painter busy: {name(k)}",
            "gun": f"gun busy: {name(k)}",
            "machine": f"machine busy: {name(k)}",
            "bay": f"{self.p.bays[t.place_id].name if t.place_id in self.p.bays else 'bay'} taken before",
            "hours": "shop closed before",
            "weather": "weather not fit before",
            "held": "put here by hand or by what was asked for",
            "later": f"so that {name(k)} meets its window",
        }
        return Why(kind="computed", ref=words[slot.binding], formula_id="plan.lay_out")

    def _side_name(self, key: str) -> str:
        for x in self.extra:
            if x.key == key:
                return f"{x.label} {x.binds.ref}"
        return "what is before it"


def lay_out(order: Sequence[str], p: Problem, *, passes: int = MAX_PASSES) -> Plan:
    """Earliest times of the tasks in this order.

    With fewer `passes` an order that needs many pushes is given up sooner, as if it could not be met.

    Raises KeyError when the order names a task the problem has not.  An order that cannot be met
    answers status infeasible and names the wait in conflict.
    """
    blocked = blocked_tasks(p)
    todo = [k for k in bay_order(order, p) if k not in blocked and p.tasks[k].began_at is None]
    running = [k for k in order if p.tasks[k].began_at is not None]
    lower = dict.fromkeys(todo, p.now)
    cleans: set[str] = set()
    pushers: dict[str, str] = {}
    pushed: dict[str, int] = {}
    missed: _Push | None = None
    for _ in range(passes):
        walk = _Walk(p, lower, cleans, pushers)
        for key in running:
            walk.lock(p.tasks[key])
        push = None
        for key in todo:
            push = walk.place(p.tasks[key])
            if push is not None:
                break
        if push is None:
            more = walk.to_clean()
            if not more:
                return _finish(order, walk, blocked)
            cleans |= more
            continue
        if push.victim is None or push.victim in running or push.to > p.now + HORIZON_S:
            # Pushed on until the known hours ended: the window is what cannot be met.
            told = missed if push.victim is None and missed is not None else push
            return _infeasible(order, p, told.why, told.keys)
        missed = missed or push
        pushed[push.victim] = pushed.get(push.victim, 0) + 1
        if pushed[push.victim] > 2 * len(todo) + 20:  # round and round: no start is late enough
            return _infeasible(order, p, push.why, push.keys)
        lower[push.victim] = max(lower[push.victim] + 1, push.to)
        cleans = set()  # another walk, other guns
        pushers[push.victim] = push.keys[-1]
    return _infeasible(order, p, "the waits push each other past one another", push.keys if push else ())


def first_miss(order: Sequence[str], p: Problem) -> str | None:
    """The first task of an order that misses its window when nothing before it is moved; None: none."""
    blocked = blocked_tasks(p)
    walk = _Walk(p, dict.fromkeys(p.tasks, p.now), set(), {})
    for key in order:
        if p.tasks[key].began_at is not None:
            walk.lock(p.tasks[key])
    for key in bay_order(order, p):
        if key in blocked or p.tasks[key].began_at is not None:
            continue
        if walk.place(p.tasks[key]) is not None:
            return key
    return None


def dispatched(
    p: Problem, rank: Callable[[str], tuple[int, ...]], *, grain_s: int = 1, urgent_s: int = 0
) -> tuple[str, ...]:
    """An order made as one works: always the task that can begin first, of several the lowest rank.

    What has less than `urgent_s` left of its window goes before all else.  Starts within the same
    `grain_s` count as the same, and of those what needs no gun changed and no mix comes first.
    """
    blocked = blocked_tasks(p)
    walk = _Walk(p, dict.fromkeys(p.tasks, p.now), set(), {})
    before: dict[str, int] = dict.fromkeys(p.tasks, 0)
    after: dict[str, list[str]] = {}
    for x in p.links:
        before[x.b_key] += 1
        after.setdefault(x.a_key, []).append(x.b_key)
    ready = {k for k, n in before.items() if n == 0 and k not in blocked}
    out: list[str] = []

    def done(key: str) -> None:
        out.append(key)
        ready.discard(key)
        for k in after.get(key, ()):
            before[k] -= 1
            if before[k] == 0 and k not in blocked:
                ready.add(k)

    for key in [k for k in p.tasks if p.tasks[k].began_at is not None]:
        walk.lock(p.tasks[key])
        done(key)
    while ready:
        best: tuple[tuple[int, ...], str] | None = None
        for k in sorted(ready):
            start, front_s, ends = walk.could_start(p.tasks[k])
            urgent = ends - start < urgent_s
            mark = (0 if urgent else 1, ends if urgent else start // grain_s,
                    front_s if grain_s > 1 else 0, *rank(k), start)  # fmt: skip
            if best is None or mark < best[0]:
                best = (mark, k)
        assert best is not None
        if walk.place(p.tasks[best[1]]) is not None:
            walk.put_anyway(p.tasks[best[1]])
        done(best[1])
    return (*out, *(k for k in p.tasks if k in blocked))


def blocked_tasks(p: Problem) -> dict[str, str]:
    """Tasks that cannot be planned, and all that come after them: key -> reason, or nothing."""
    out = {k: f"{t.label}: {t.blocked}" for k, t in p.tasks.items() if t.blocked is not None}
    for link in p.links:  # links run from the substrate up, so one walk reaches every follower
        if link.a_key in out:
            out.setdefault(link.b_key, "")
    return out


def bay_order(order: Sequence[str], p: Problem) -> tuple[str, ...]:
    """The order with the tasks put back whose object finds no room in its bay yet."""
    if not any(p.bays.values()):
        return tuple(order)
    left = _count(p, order)
    inside = {place: {*bay.inside, *(who for who, _ in bay.drying)} for place, bay in p.bays.items()}
    busy = {place: set(bay.inside) & {j for q, j in left if q == place} for place, bay in p.bays.items()}
    before = {x.b_key: x.a_key for x in p.links}
    waiting, out = list(order), []
    while waiting:
        held: set[str] = set()
        for i, key in enumerate(waiting):
            t = p.tasks[key]
            bay = p.bays.get(t.place_id)
            room = bay is None or t.job_id in inside[t.place_id] or len(busy[t.place_id]) < bay.holds
            if not room or before.get(key) in held:
                held.add(key)
                continue
            waiting.pop(i)
            out.append(key)
            if bay is not None:
                inside[t.place_id].add(t.job_id)
                left[t.place_id, t.job_id] -= 1
                busy[t.place_id].add(t.job_id)
                if left[t.place_id, t.job_id] <= 0:
                    busy[t.place_id].discard(t.job_id)
            break
        else:
            return (*out, *waiting)
    return tuple(out)


def _count(p: Problem, keys: Iterable[str]) -> dict[tuple[str, str], int]:
    """How many tasks of each object are to be done in each bay."""
    out: dict[tuple[str, str], int] = {}
    blocked = blocked_tasks(p)
    for k in keys:
        t = p.tasks[k]
        if t.place_id in p.bays and k not in blocked:
            out[t.place_id, t.job_id] = out.get((t.place_id, t.job_id), 0) + 1
    return out


def _held(t: ToDo) -> str:
    return f"{t.job_id}:{t.sheet_id}"


def _letter(n: int) -> str:
    return chr(65 + n) if n < 26 else f"{chr(64 + n // 26)}{chr(65 + n % 26)}"


def _ranked(
    reasons: Sequence[tuple[int, Binding, str | None]],
) -> list[tuple[int, Binding, str | None]]:
    """Of several reasons for the same second, the one that says most comes first."""
    rank = ("link", "later", "held", "bay", "painter", "gun", "machine", "mix", "now")
    return sorted(reasons, key=lambda r: rank.index(r[1]))


def _both(a: Sequence[Interval], b: Sequence[Interval]) -> tuple[Interval, ...]:
    """Intervals in both lists."""
    out = []
    for a0, a1 in a:
        for b0, b1 in b:
            low = max(a0, b0)
            high = b1 if a1 is None else a1 if b1 is None else min(a1, b1)
            if high is None or high >= low:
                out.append((low, high))
    return tuple(sorted(out, key=lambda x: x[0]))


def _inside(
    spans: Sequence[tuple[int, int]], start: int, lead_s: int, takes_s: int
) -> tuple[int, int] | None:
    """First start from which the lead before it and the task lie in one span, and that span's end."""
    for a, b in spans:
        moved = max(start, a + lead_s)
        if moved + takes_s <= b:
            return moved, b
    return None


def _ago(at: int, now: int) -> str:
    minutes = round((at - now) / 60)
    return f"in {minutes} min" if minutes >= 0 else f"{-minutes} min ago"


def _task(
    t: ToDo,
    painter: int,
    start: int,
    end: int,
    opens: int | None,
    closes: int | None,
    binding: Binding,
    waits: str | None,
    why: Why,
    *,
    locked: bool = False,
) -> Task:
    return Task(
        key=t.key,
        job_id=t.job_id,
        kind=t.kind,
        label=t.label,
        part_id=t.part_id,
        painter=painter,
        start_at=start,
        end_at=end,
        opens_at=opens,
        closes_at=closes,
        binds=why,
        slack_s=None,
        locked=locked,
        binding=binding,
        waits_key=waits,
        character=t.character,
        direction=t.direction,
    )


def _finish(order: Sequence[str], walk: _Walk, blocked: dict[str, str]) -> Plan:
    p = walk.p
    slack = _slack(walk)
    placed = [replace(t, slack_s=slack.get(t.key)) for t in walk.at.values()]
    tasks = tuple(sorted([*placed, *walk.extra], key=lambda t: (t.start_at, t.end_at, t.key)))
    return Plan(
        job_id=p.job_id,
        made_at=p.now,
        status="infeasible" if blocked else "feasible",
        tasks=tasks,
        batches=tuple(_stirred(b, p, walk) for b in walk.batches),
        order=tuple(order),
        finish_at=max((t.end_at for t in placed), default=None),
        bound_s=0,
        conflicts=tuple(Conflict(keys=(k,), why=why) for k, why in blocked.items() if why),
    )


def _stirred(b: PlannedBatch, p: Problem, walk: _Walk) -> PlannedBatch:
    """When the pot is stirred anew: every so often, from the mix until its last coat is on."""
    every = p.pots[b.sheet_id].stir_every_s
    if not every:
        return b
    last = max(walk.at[k].end_at for k in b.draws)
    first = b.mix_at + p.pots[b.sheet_id].mix_s
    return replace(b, stir_at=tuple(range(first + every, last, every)))


def _slack(walk: _Walk) -> dict[str, int]:
    """How much later each task may begin with all windows, hours, weather and deadlines still met.

    What follows a task, on it and with its painter, gun and machines, moves with it.
    """
    p = walk.p
    after: dict[str, list[Link]] = {}
    for x in p.links:
        after.setdefault(x.a_key, []).append(x)
    latest: dict[str, int] = {}
    hand_next: dict[int, int] = {}
    unit_next: dict[int, int] = {}
    out: dict[str, int] = {}
    for t, slot, end in reversed(walk.placed):
        start, takes_s = slot.start, end - slot.start
        ends = [x for x in (walk.at[t.key].closes_at, slot.open_until, slot.calm_until) if x is not None]
        if t.job_id in p.due:
            ends.append(p.due[t.job_id] - takes_s)
        after_s = t.clean_s if t.key in walk.cleans else 0
        if slot.hand is not None and slot.hand in hand_next:
            ends.append(hand_next[slot.hand] - takes_s - after_s)
        units = [u for u in (slot.gun, *slot.machines) if u is not None]
        ends += [unit_next[id(u)] - takes_s for u in units if id(u) in unit_next]
        for link in after.get(t.key, ()):
            if link.b_key in latest:
                ends.append(_latest_before(walk, link, start, takes_s, latest[link.b_key]))
        last = min(ends, default=_FAR)
        latest[t.key] = last
        if last < _FAR // 2:
            out[t.key] = last - start
        if slot.hand is not None:
            hand_next[slot.hand] = last - slot.front_s
        for u in units:
            unit_next[id(u)] = last - slot.front_s
    return out


def _latest_before(walk: _Walk, link: Link, start: int, takes_s: int, by_at: int) -> int:
    """The latest start after which the task a link leads to may still begin by `by_at`."""
    if by_at >= _FAR // 2:
        return _FAR
    air = walk.p.air_of(link)

    def holds(at: int) -> bool:
        own = link_windows(link, air, at, at + takes_s, walk.p.tasks[link.b_key].duration_s)
        return any(a <= by_at for a, _ in own)

    low, high = start, by_at
    if not holds(low):
        return start
    while high - low > 1:
        mid = (low + high) // 2
        low, high = (mid, high) if holds(mid) else (low, mid)
    return low


def _infeasible(order: Sequence[str], p: Problem, why: str, keys: Sequence[str]) -> Plan:
    return Plan(
        job_id=p.job_id,
        made_at=p.now,
        status="infeasible",
        tasks=(),
        batches=(),
        order=tuple(order),
        finish_at=None,
        bound_s=0,
        conflicts=(Conflict(keys=tuple(keys), why=why),),
    )
