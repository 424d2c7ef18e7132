"""A walk along an order: each task put as early as what is before it lets it.

Painters, guns, machines and bays are shared, pots are mixed when needed and die, the shop is open
and the weather fit.  A task that would miss its window says which one before it has to move.
"""

from __future__ import annotations

import math
from collections.abc import Iterable, Iterator, Sequence
from dataclasses import replace
from itertools import islice

from ..run.recoat_windows import reach_max, reach_min
from ..run.task_key import clean_key, mix_key
from ..why import Why
from .plan import Binding, PlannedBatch, Task
from .problem import Interval, Link, Pot, Problem, TaskKind, ToDo, link_windows
from .rights import able
from .walk_state import Hand, Live, Mark, Placed, Push, Slot, Unit, Wants

__all__ = ["FAR", "Walk", "blocked_tasks", "count_tasks", "spelled"]

HORIZON_S = 60 * 86400
_NO_POT = Pot(mix_s=0, pace=None, use_frac=1.0)
FAR = 2**60
Presence = tuple[tuple[tuple[int, int], ...], int, int, Binding]  # intervals, before and after it [s], whose
#: what is done around a coat, as the thing somebody is busy with
_SIDE_WORK = {"setup": "gun set-up", "clean": "gun cleaning", "mix": "mixing"}


class Walk:
    """One walk along the order with the current lower bounds."""

    def __init__(
        self,
        p: Problem,
        lower: dict[str, int],
        cleans: set[str],
        pushers: dict[str, str],
        *,
        foresees: bool = False,
    ) -> None:
        self.p, self.lower, self.cleans, self.pushers = p, lower, cleans, pushers
        #: an order is being made: which coat is the last of its pot in a gun is not known yet, so the
        #: gun is cleaned before the next pot
        self.foresees = foresees
        self.links = p.links_to()
        self.hands = [Hand(p.now) for _ in range(max(1, len(p.people) or p.painters))]
        self.rights: dict[frozenset[str], list[int]] = {}
        self.units: dict[str, list[Unit]] = {}
        self.live: dict[tuple[str, str], Live] = {
            k: Live(None, left, p.now, use_by) for k, (_, left, use_by) in p.alive.items()
        }
        #: by place: when films take dust, and when there is some
        self.wet = {place: list(spans) for place, spans in p.wet.items()}
        self.dusty = {place: list(spans) for place, spans in p.dusty.items()}
        self.at: dict[str, Placed] = {}
        self.extra: list[Task] = []
        self.batches: list[PlannedBatch] = []
        self.lasts: set[str] = set()
        self.needless: set[str] = set()
        self.out: dict[tuple[str, str], int] = {}
        self.left = count_tasks(p, (k for k in p.tasks))
        self.leaves: dict[str, dict[str, int]] = {}
        for place, bay in p.bays.items():
            self.leaves[place] = dict.fromkeys(bay.inside, FAR) | dict(bay.drying)

    # -- going back ------------------------------------------------------------------------------

    def mark(self) -> Mark:
        """Where the walk stands; what only grows is kept as its length."""
        return Mark(
            [(h.free_at, h.last, len(h.busy)) for h in self.hands],
            {name: [u.copy() for u in units] for name, units in self.units.items()},
            dict(self.live),
            list(self.batches),
            set(self.lasts),
            set(self.needless),
            dict(self.out),
            dict(self.left),
            {place: dict(who) for place, who in self.leaves.items()},
            {x: (len(self.wet.get(x, ())), len(self.dusty.get(x, ()))) for x in (*self.wet, *self.dusty)},
            len(self.at),
            len(self.extra),
        )

    def back_to(self, m: Mark) -> None:
        """Stand where the mark was made."""
        for hand, (free_at, last, busy) in zip(self.hands, m.hands, strict=True):
            hand.free_at, hand.last = free_at, last
            del hand.busy[busy:]
        while len(self.at) > m.done:
            self.at.popitem()
        del self.extra[m.extra :]
        self._restore(m)
        for spans, i in ((self.wet, 0), (self.dusty, 1)):
            for place, own in spans.items():
                del own[m.airs.get(place, (0, 0))[i] :]

    def follow(self, other: Walk, m: Mark) -> None:
        """Stand where another walk stood at its mark."""
        for hand, his, (free_at, last, busy) in zip(self.hands, other.hands, m.hands, strict=True):
            hand.free_at, hand.last, hand.busy = free_at, last, his.busy[:busy]
        self.at = dict(islice(other.at.items(), m.done))
        self.extra = other.extra[: m.extra]
        self._restore(m)
        self.wet = {k: own[: m.airs.get(k, (0, 0))[0]] for k, own in other.wet.items()}
        self.dusty = {k: own[: m.airs.get(k, (0, 0))[1]] for k, own in other.dusty.items()}

    def _restore(self, m: Mark) -> None:
        self.units = {name: [u.copy() for u in units] for name, units in m.units.items()}
        self.live = dict(m.live)
        self.batches, self.lasts, self.needless = list(m.batches), set(m.lasts), set(m.needless)
        self.out, self.left = dict(m.out), dict(m.left)
        self.leaves = {place: dict(who) for place, who in m.leaves.items()}

    # -- what it may use -------------------------------------------------------------------------

    def _units(self, name: str) -> list[Unit]:
        if name not in self.units:
            count = self.p.units.get(name, 1)
            self.units[name] = [Unit(f"{name} {i}", self.p.now) for i in range(max(1, count))]
        return self.units[name]

    def _gun(self, t: ToDo, fresh: bool) -> Unit | None:
        """The gun with which the coat can begin first: one that holds the material needs no set-up."""
        if not t.gun:
            return None
        hand_at = min(h.free_at for h in self.hands)

        def ready(u: Unit) -> tuple[int, bool]:
            changed = self._changed(u, t, fresh)
            change_s = t.setup_s + (u.clean_s if u.dirty else 0) if changed else 0
            return max(u.free_at, hand_at) + change_s, changed

        return min(self._units(t.gun), key=ready)

    def _changed(self, gun: Unit, t: ToDo, fresh: bool) -> bool:
        """Whether a gun has to be set up for a coat."""
        if not self.foresees or gun.holds != _held(t):
            return gun.holds != _held(t)
        live = self.live.get((t.job_id, t.sheet_id or ""))
        return fresh or live is None or gun.was[1] != live.index

    def _live_for(self, t: ToDo) -> Live | None:
        if t.mixes > 1:
            return None  # it is mixed for as it goes
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
        may = self.p.at_it.get(t.key) or self._free_first(t.needs) or self._free_first()
        i, *others = may[: max(1, t.hands)]
        for k in (i, *others):
            self._hold(self.hands[k], began, end, t.key)
        gun = self._gun(t, fresh=False)
        if gun is not None:
            self._load(gun, t, began, end, None)
        self._enter(t, end)
        self.at[t.key] = Placed(t, began, end, i, None)
        if gun is not None and t.key in self.cleans:
            self._clean_after(t, i, gun, end)

    def place(self, t: ToDo) -> Push | None:
        """Put one task; or say which earlier task must move, to when, and why."""
        if self.p.bays.get(t.place_id) is not None and self._bay_from(t)[0] >= FAR:
            name = self.p.bays[t.place_id].name
            return Push(None, 0, f"{t.label}: {name} is full", (t.key,))
        windows, opener = self._windows(t)
        late: list[int] = []
        for opens, closes in windows:
            slot = self._slot(t, opens, opener)
            if slot is None:
                why = "no long enough slot within opening hours and weather"
                return Push(None, 0, f"{t.label}: {why}", (t.key,))
            if closes is None or slot.start <= closes:
                self._book(t, slot, opens, closes)
                return None
            late.append(slot.start)
        return self._miss(t, windows, opener, late)

    def could_start(self, t: ToDo) -> tuple[int, int, int]:
        """The earliest start as things stand, what is done before it [s], and when its window ends."""
        if self._bay_from(t)[0] >= FAR:
            return FAR, 0, FAR
        windows, opener = self._windows(t)
        slot = self._slot(t, windows[0][0] if windows else self.p.now, opener)
        ends = [FAR if c is None else c for _, c in windows]
        return (FAR, 0, FAR) if slot is None else (slot.start, slot.front_s, max(ends, default=self.p.now))

    def put_anyway(self, t: ToDo) -> None:
        """Count a task as done where it cannot be placed, so that what follows has a time."""
        slot = self._slot(t, self.p.now, None) if self._bay_from(t)[0] < FAR else None
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

    def _slot(self, t: ToDo, opens: int, opener: str | None) -> Slot | None:
        live = self._live_for(t)
        if t.sheet_id is not None and live is not None:
            slot = self._fit(t, opens, opener, fresh=False)
            if slot is None or live.use_by_at is None or slot.start + t.duration_s <= live.use_by_at:
                return slot
        return self._fit(t, opens, opener, fresh=t.sheet_id is not None)

    def _fit(self, t: ToDo, opens: int, opener: str | None, *, fresh: bool) -> Slot | None:
        """Earliest start with painter, gun and machines free, the mix made, the shop open, it dry."""
        best: Slot | None = None
        for wants in self._ways(t, fresh):
            slot = self._fit_by(t, wants, opens, opener, fresh=fresh)
            if slot is not None and (best is None or slot.start < best.start):
                best = slot
                if slot.binding not in ("painter", "away", "hours", "mix"):
                    break  # no other hands would begin sooner
        return best if best is None else self._by_who_was_busy_last(t, best)

    def _by_who_was_busy_last(self, t: ToDo, slot: Slot) -> Slot:
        """The same start by whoever of those free was busy last: so that others are free sooner for others.

        Whoever did the task before on a part goes on with it, more often than not.
        """
        if slot.hand is None or slot.others or self.p.pots.get(t.sheet_id or "", _NO_POT).induction_s:
            return slot
        from_at, to_at = slot.start - slot.front_s, slot.start + (0 if t.by_itself else t.duration_s)
        to_at += t.clean_s if t.key in self.cleans else 0
        helps = slot.mixer if slot.mixer != slot.hand else None
        for i in reversed(self._free_first(t.needs)):
            if i == slot.hand:
                return slot
            there = not self.p.people or any(a <= from_at and to_at <= b for a, b in self.p.people[i].hours)
            if i != helps and there and self.hands[i].free_at <= from_at:
                slot.mixer = slot.mixer if helps is not None else i
                slot.hand = i
                return slot
        return slot

    def _ways(self, t: ToDo, fresh: bool) -> Iterator[Wants]:
        """Who can do a task, each way: who is free first before the others, mixing for it or helped."""
        if not t.hands:
            yield self._wants(t, fresh, [])
            return
        able = self._free_first(t.needs)
        seen: set[tuple[int, tuple[tuple[int, int], ...]]] = set()
        for i in able if self.p.people else able[:1]:
            alike = (self.hands[i].free_at, self.p.people[i].hours if self.p.people else ())
            if alike in seen:
                continue
            seen.add(alike)
            wants = self._wants(t, fresh, [i, *(k for k in able if k != i)])
            yield wants
            if wants.mix_s and not wants.stand_s:
                busy = {i, *wants.others}
                mixers = self._free_first(t.needs - {"coat", "structure"})
                helper = next((k for k in mixers if k not in busy), None)
                if helper is not None:
                    yield wants.helped(helper)

    def _fit_by(self, t: ToDo, wants: Wants, opens: int, opener: str | None, *, fresh: bool) -> Slot | None:
        """The same by these hands."""
        start, binding, waits = self._earliest(t, wants, opens, opener, fresh=fresh)
        after_s = t.clean_s if t.key in self.cleans else 0
        found = self._open_and_calm(t, start, wants, after_s)
        if found is None:
            return None
        moved, open_until, calm_until, by = found
        if by is not None:
            # Where a task after it pushed it past today, that is what it waits for.
            if not (by == "hours" and binding == "later"):
                binding, waits = by, None
            start = moved
        mix_end, mixer = None, wants.i
        if wants.stand_s and wants.hand is not None:
            stood = self._mixed_to_stand(t, wants, start, after_s)
            if stood is None:
                return None
            mix_end, then = stood
            if then is not None:
                start, open_until, calm_until = then
                binding, waits = "mix", None
        elif wants.helper is not None:
            mix_end, mixer = start - wants.front_s, wants.helper
        return Slot(
            start,
            wants.i,
            wants.others,
            wants.gun,
            wants.machines,
            wants.clean_s,
            wants.mix_s,
            wants.setup_s,
            mix_end,
            fresh,
            open_until,
            calm_until,
            binding,
            waits,
            mixer,
        )

    def _wants(self, t: ToDo, fresh: bool, free: Sequence[int]) -> Wants:
        """Who and what a task takes, and how long what comes before it lasts [s]; `free`: by whom."""
        i = free[0] if free else None
        gun = self._gun(t, fresh)
        pot = self.p.pots.get(t.sheet_id or "")
        changed = gun is not None and self._changed(gun, t, fresh)
        return Wants(
            i=i,
            hand=self.hands[i] if i is not None else None,
            others=tuple(free[1 : t.hands]),
            gun=gun,
            machines=[min(self._units(name), key=lambda u: u.free_at) for name in t.uses],
            mix_s=pot.mix_s if pot is not None and fresh else 0,
            stand_s=pot.induction_s if pot is not None and fresh else 0,
            clean_s=gun.clean_s if gun is not None and changed and gun.dirty else 0,
            setup_s=t.setup_s if changed or (gun is not None and fresh and not gun.holds) else 0,
        )

    def _earliest(
        self, t: ToDo, wants: Wants, opens: int, opener: str | None, *, fresh: bool
    ) -> tuple[int, Binding, str | None]:
        """When all a task takes is free and what it waits for is over, and which of them says so."""
        p, front_s = self.p, wants.front_s
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
        if t.sheet_id is not None and not fresh:
            reasons.append((self.live[t.job_id, t.sheet_id].ready_at, "mix", None))
        if wants.gun is not None and wants.gun.last:
            reasons.append((wants.gun.free_at + front_s, "gun", wants.gun.last))
        reasons += [(u.free_at, "machine", u.last) for u in wants.machines if u.last]
        hand = wants.hand
        if hand is not None and hand.last:
            reasons.append((hand.free_at + front_s, "painter", hand.last))
        reasons += [(h.free_at, "painter", h.last) for i in wants.others if (h := self.hands[i]).last]
        if wants.helper is not None:
            ready = max(p.now, self.hands[wants.helper].free_at) + wants.mix_s + front_s
            reasons.append((ready, "mix", None))
        if wants.stand_s and hand is not None:
            mixed = self._first_mix(hand, wants.mix_s, p.now) + wants.stand_s
            reasons.append((mixed, "mix", None))
        return _says_most(reasons)

    def _mixed_to_stand(
        self, t: ToDo, wants: Wants, start: int, after_s: int
    ) -> tuple[int, tuple[int, int | None, int | None] | None] | None:
        """When a pot that has to stand is mixed, and the later start where there is no time for it before.

        None: the shop does not open again.
        """
        hand, p, then = wants.hand, self.p, None
        assert hand is not None
        while True:
            mix_end = self._last_mix(hand, wants.mix_s, start - wants.stand_s)
            there = p.people[wants.i].hours if p.people and wants.i is not None else p.hours
            opened = next((a for a, b in there if a <= start - wants.front_s < b), p.now)
            in_time = mix_end - wants.mix_s >= max(opened, p.now)
            if in_time and (mix_end == start - wants.stand_s or self._lasts(t, mix_end, start)):
                return mix_end, then
            # Between opening and then there is no time to mix, or only so early that the pot dies over other
            # work: the coat waits for the first there is.
            after = mix_end if in_time else max(opened, p.now)
            later = self._first_mix(hand, wants.mix_s, after) + wants.stand_s
            found = self._open_and_calm(t, max(start + 1, later), wants, after_s)
            if found is None:
                return None
            start, open_until, calm_until, _ = found
            then = (start, open_until, calm_until)

    def _lasts(self, t: ToDo, mixed_at: int, start: int) -> bool:
        """Whether a pot mixed by then lives until a coat that begins then is on."""
        use_by = self._use_by(t, mixed_at)
        first = _of_mix(t, 0) / t.volume_ml if t.mixes > 1 else 1.0
        return use_by is None or start + first * t.duration_s <= use_by

    def _use_by(self, t: ToDo, mixed_at: int) -> int | None:
        pot = self.p.pots[t.sheet_id or ""]
        if pot.pace is None:
            return None
        return reach_max(self.p.airs[t.part_id].of_air(), pot.pace, mixed_at, pot.use_frac)

    def _open_and_calm(
        self, t: ToDo, start: int, wants: Wants, after_s: int
    ) -> tuple[int, int | None, int | None, Binding | None] | None:
        """The start moved to where the shop is open throughout, who does it is there, the weather holds."""
        p, lead_s = self.p, wants.lead_s
        there = self._there(t, wants, after_s) if p.people else []
        there += self._held_elsewhere(t, wants, after_s) if p.free else []
        by: Binding | None = None
        calm = p.weather.get(t.place_id) if t.kind == "coat" else None
        open_until: int | None = None
        calm_until: int | None = None
        mixed_air = (t.dusts or t.settles is not None) and t.place_id not in p.weather
        while True:
            again = start
            if p.hours and t.kind != "slot":
                # What goes on by itself is begun while somebody is there, and ends when it ends.
                takes_s = 0 if t.by_itself else t.duration_s + after_s
                span = _inside(p.hours, start, lead_s, takes_s)
                if span is None:
                    return None
                start, open_until = span[0], span[1] - takes_s
                by = "hours" if start > again else by
            for spans, before_s, takes_s, whose in there:
                moved = start
                span = _inside(spans, start, before_s, takes_s)
                if span is None:
                    return None
                start = span[0]
                open_until = span[1] - takes_s if open_until is None else min(open_until, span[1] - takes_s)
                by = whose if start > moved else by
            if mixed_air:
                before = start
                start = self._clear_air(t, start)
                by = "air" if start > before else by
            if calm is not None:
                before = start
                span = _inside(calm, start, 0, t.duration_s + t.dry_s)
                if span is None:
                    return None
                start, calm_until = span[0], span[1] - t.duration_s - t.dry_s
                by = "weather" if start > before else by
            if start == again:
                return start, open_until, calm_until, by

    def _there(self, t: ToDo, wants: Wants, after_s: int) -> list[Presence]:
        """When those who do a task are there, and how long before its start and after it they have to be."""
        people, takes_s = self.p.people, 0 if t.by_itself else t.duration_s
        out: list[Presence] = []
        if wants.i is not None:
            out.append((people[wants.i].hours, wants.own_s, takes_s + after_s, "away"))
        out += [(people[i].hours, 0, takes_s, "away") for i in wants.others]
        if wants.helper is not None:
            out.append((people[wants.helper].hours, wants.front_s + wants.mix_s, -wants.front_s, "away"))
        return out

    def _held_elsewhere(self, t: ToDo, wants: Wants, after_s: int) -> list[Presence]:
        """The same of the gun and the machines it takes: when another job does not hold them."""
        free = self.p.free
        out: list[Presence] = [(free[x], 0, t.duration_s, "machine") for x in t.uses if x in free]
        if t.gun in free:
            out.append((free[t.gun], wants.front_s, t.duration_s + after_s, "gun"))
        return out

    def _free_first(self, needs: frozenset[str] = frozenset()) -> list[int]:
        """The painters who may, who is free first before the others."""
        if not self.p.people:
            return sorted(range(len(self.hands)), key=lambda i: (self.hands[i].free_at, i))
        if needs not in self.rights:
            self.rights[needs] = able(self.p.people, needs)
        return sorted(self.rights[needs], key=lambda i: (self.hands[i].free_at, i))

    def _first_mix(self, hand: Hand, mix_s: int, from_at: int) -> int:
        """End of the first time the painter can mix, between tasks or after them."""
        at = from_at
        for a, b in sorted(hand.busy):
            if a - at >= mix_s:
                break
            at = max(at, b)
        return at + mix_s

    def _last_mix(self, hand: Hand, mix_s: int, by_at: int) -> int:
        """End of the last time the painter can mix so that it is done by `by_at`."""
        end = by_at
        for a, b in sorted(hand.busy, reverse=True):
            if b <= end - mix_s:
                break
            end = min(end, a)
        return end

    # -- booking ---------------------------------------------------------------------------------

    def _book(self, t: ToDo, slot: Slot, opens: int, closes: int | None) -> None:
        start, end = slot.start, slot.start + t.duration_s
        hand = self.hands[slot.hand] if slot.hand is not None else None
        index = self._draw(t, slot) if t.sheet_id is not None else None
        self._prepare(t, slot)
        if hand is not None:
            self._hold(hand, start - slot.front_s, end, t.key)
        for k in slot.others:
            self._hold(self.hands[k], start, end, t.key)
        for u in slot.machines:
            u.free_at, u.last = end, t.key
        if slot.gun is not None:
            self._load(slot.gun, t, start - slot.front_s, end, index)
        self._enter(t, end)
        self.at[t.key] = Placed(t, start, end, slot.hand or 0, slot, opens, closes)
        if slot.gun is not None and t.key in self.cleans:
            self._clean_after(t, slot.hand or 0, slot.gun, end)

    def _prepare(self, t: ToDo, slot: Slot) -> None:
        """Mixing, cleaning out and setting up, as tasks of their own before the coat."""
        at = slot.start - slot.front_s
        painter = slot.hand or 0
        if slot.mix_end is not None and slot.mixer is not None:
            from_at = slot.mix_end - slot.mix_s
            self._hold(self.hands[slot.mixer], from_at, slot.mix_end, mix_key(t.key))
            self._side(t, "mix", f"mix {self._pot_name(t)}", slot.mixer, from_at, slot.mix_s)
        elif slot.mix_s:
            self._side(t, "mix", f"mix {self._pot_name(t)}", painter, at, slot.mix_s)
            at += slot.mix_s
        if slot.clean_s:
            self._side(t, "clean", "clean the gun", painter, at, slot.clean_s)
            at += slot.clean_s
        if slot.setup_s:
            self._side(t, "setup", "set up the gun", painter, at, slot.setup_s)

    def _pot_name(self, t: ToDo) -> str:
        return self.batches[-t.mixes].key

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

    def _clean_after(self, t: ToDo, painter: int, gun: Unit, end: int) -> None:
        """The gun is cleaned out at once: what it holds would set in it or be wanted no more."""
        takes_s = t.clean_s
        self._hold(self.hands[painter], end, end + takes_s, clean_key(t.key))
        self._side(t, "clean", "clean the gun", painter, end, takes_s, after=True)
        gun.free_at, gun.holds, gun.dirty, gun.batch = end + takes_s, "", False, None

    def _hold(self, hand: Hand, from_at: int, to_at: int, key: str) -> None:
        hand.busy.append((from_at, to_at))
        if to_at >= hand.free_at:
            hand.free_at, hand.last = to_at, key

    def _load(self, gun: Unit, t: ToDo, start: int, end: int, batch: int | None) -> None:
        """Remember which coat was the last of its batch or of its material in this gun."""
        same = gun.was == (_held(t), batch) and not self._lent(gun, t.gun, start)
        if gun.dirty and not same:
            self.lasts.add(gun.last)
        if gun.last in self.cleans and not gun.dirty and same:
            self.needless.add(gun.last)
        gun.was = (_held(t), batch)
        gun.holds, gun.batch, gun.last, gun.dirty = _held(t), batch, t.key, True
        gun.free_at, gun.clean_s = end, t.clean_s

    def _lent(self, gun: Unit, name: str, start: int) -> bool:
        """Whether another job has the gun, or may have it, between its last coat and this start."""
        if self.p.lend_s is not None and start - gun.free_at > self.p.lend_s:
            return True
        spans = self.p.free.get(name)
        return spans is not None and not any(a <= gun.free_at and start <= b for a, b in spans)

    def to_clean(self) -> set[str]:
        """Coats after which their gun has to be cleaned out."""
        ends = {u.last for units in self.units.values() for u in units if u.dirty and u.clean_s}
        return (self.lasts | ends) - self.cleans

    def _enter(self, t: ToDo, end: int) -> None:
        """The object is in the bay until the last of its tasks there is done and dry to handle."""
        self._fill_air(t, end)
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
        leaves[t.job_id] = done if self.left[key] <= 0 else FAR

    def _fill_air(self, t: ToDo, end: int) -> None:
        """What a task leaves in the air of its place: dust while it lasts, or a film that takes it."""
        start = end - t.duration_s if t.began_at is None else t.began_at
        if t.dusts and t.place_id not in self.p.weather:
            self.dusty.setdefault(t.place_id, []).append((start, end))
        span = self.p.wet_span(t, start, end)
        if span is not None:
            self.wet.setdefault(t.place_id, []).append(span)

    def _clear_air(self, t: ToDo, start: int) -> int:
        """The start moved past what it must not meet in the same air: dust by a wet film."""
        while True:
            span = (
                (start, start + t.duration_s) if t.dusts else self.p.wet_span(t, start, start + t.duration_s)
            )
            against = self.wet if t.dusts else self.dusty
            if span is None:
                return start
            met = [b for a, b in against.get(t.place_id, ()) if a < span[1] and span[0] < b]
            if not met:
                return start
            start = max(met)

    def _draw(self, t: ToDo, slot: Slot) -> int | None:
        """Draw from the live pot or mix another; answers the batch's index."""
        assert t.sheet_id is not None
        key = (t.job_id, t.sheet_id)
        if not slot.fresh:
            live = self.live[key]
            self.live[key] = Live(live.index, live.left_ml - t.volume_ml, live.ready_at, live.use_by_at)
            if live.index is not None:
                b = self.batches[live.index]
                self.batches[live.index] = replace(
                    b, total_ml=b.total_ml + t.volume_ml, draws=(*b.draws, t.key)
                )
            return live.index
        pot = self.p.pots[t.sheet_id]
        ready = slot.mix_end if slot.mix_end is not None else slot.start - slot.front_s + slot.mix_s
        use_by = self._use_by(t, ready)
        most = math.inf if pot.most_ml is None else pot.most_ml
        index = len(self.batches)
        same = sum(b.sheet_id == t.sheet_id and b.job_id == t.job_id for b in self.batches)
        for k in range(t.mixes):
            # The next one is mixed when the one before is nearly rolled out.
            used_ml = k * (t.mix_ml or t.volume_ml / t.mixes)
            at = ready if k == 0 else slot.start + round(used_ml / t.volume_ml * t.duration_s)
            if k:
                use_by = self._use_by(t, at)
            self.batches.append(
                PlannedBatch(
                    key=f"{self.p.names.get(t.sheet_id, t.sheet_id)} {_letter(same + k)}",
                    sheet_id=t.sheet_id,
                    total_ml=_of_mix(t, k),
                    mix_at=at - slot.mix_s,
                    use_by_at=use_by,
                    draws=(t.key,),
                    job_id=t.job_id,
                )
            )
        left_ml = most - t.volume_ml if t.mixes == 1 else 0.0
        self.live[key] = Live(len(self.batches) - 1, left_ml, ready + pot.induction_s, use_by)
        return index

    # -- what went wrong, and why a start is what it is ------------------------------------------

    def _miss(self, t: ToDo, windows: Sequence[Interval], opener: str | None, late: Sequence[int]) -> Push:
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
        why = self._missed(t, opener, told)
        if best is None:
            return Push(None, 0, why, (t.key,))
        return Push(best[1].a_key, best[0], why, (best[1].a_key, t.key), earliest or 0)

    def _missed(self, t: ToDo, opener: str | None, told: str) -> str:
        """What closes before a task can begin: the key it goes on, or the window of the coat below."""
        keys = [x for x in self.links.get(t.key, ()) if x.gate == "key" and x.a_key in self.at]
        lasts = max((c for x in keys for _, c in x.windows if isinstance(c, int)), default=None)
        if keys and lasts is not None and not any(x.gate == "recoat" for x in self.links.get(t.key, ())):
            return f"{t.label} comes later than the key under it lasts, {spelled(lasts)} (assumed)"
        if opener is not None and opener in self.p.tasks:
            return f"{t.label} misses its recoat window after {self.p.tasks[opener].label}{told}"
        return f"{t.label} misses its recoat window{told}"

    def _move(self, link: Link, before: Placed, t: ToDo, starts: Sequence[int]) -> int | None:
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

    def task(self, done: Placed, slack_s: int | None) -> Task:
        """The plan's task, with what binds its start."""
        t, slot = done.todo, done.slot
        return Task(
            key=t.key,
            job_id=t.job_id,
            kind=t.kind,
            label=t.label,
            part_id=t.part_id,
            painter=done.hand,
            start_at=done.start_at,
            end_at=done.end_at,
            opens_at=done.opens_at,
            closes_at=done.closes_at,
            binds=Why(kind="measured", ref="in progress") if slot is None else self._why(t, slot),
            slack_s=slack_s,
            locked=slot is None,
            binding="going" if slot is None else slot.binding,
            waits_key=None if slot is None else slot.waits_key,
            character=t.character,
            direction=t.direction,
            step=t.step,
            others=() if slot is None else slot.others,
            hands=t.hands,
        )

    def _why(self, t: ToDo, slot: Slot) -> Why:
        """What a start waits for, in words."""
        words = {
            "now": "nothing, it can start now",
            "mix": "mixing and set-up",
            "hours": "the shop opens then",
            "weather": "weather",
            "air": "no dust beside wet paint",
            "held": "moved by hand",
        }
        said = words.get(slot.binding)
        return Why(kind="computed", ref=said or self._waits_for(t, slot), formula_id="plan.lay_out")

    def _waits_for(self, t: ToDo, slot: Slot) -> str:
        if slot.binding == "bay":
            bay = self.p.bays.get(t.place_id)
            return f"{bay.name if bay else 'the bay'} is taken until then"
        if slot.binding == "away":
            return f"{self._name_of(slot.hand)} is there then"
        k = slot.waits_key
        if slot.binding == "link" and not k:
            return "waits for the layer below to dry"
        name = "the task before it"
        if k is not None:
            name = self.p.tasks[k].label if k in self.p.tasks else self._side_name(k)
        words = {
            "link": f"waits for {name}",
            "painter": f"painter on {name}",
            "gun": f"gun busy: {name}",
            "machine": f"machine busy: {name}",
            "later": f"so that {name} meets its recoat window",
        }
        return words[slot.binding]

    def _name_of(self, i: int | None) -> str:
        return self.p.people[i].name if self.p.people and i is not None else "who does it"

    def _side_name(self, key: str) -> str:
        for x in self.extra:
            if x.key == key:
                return f"{_SIDE_WORK.get(x.kind, x.label)} {x.binds.ref}"
        return "the task before it"


def blocked_tasks(p: Problem) -> dict[str, str]:
    """Tasks that cannot be planned, and all that come after them: key -> reason, or nothing."""
    out = {
        k: f"{t.label}: {t.blocked}" if t.blocked else "" for k, t in p.tasks.items() if t.blocked is not None
    }
    longest_s = max((b - a for a, b in p.hours), default=0)
    for k, t in p.tasks.items():
        takes_s = t.duration_s + (p.pots[t.sheet_id].mix_s if t.sheet_id in p.pots else 0)
        if longest_s and k not in out and t.began_at is None and not t.by_itself and takes_s > longest_s:
            out[k] = _toospelled(t, takes_s, longest_s)
    for link in p.links:  # links run from the substrate up, so one walk reaches every follower
        if link.a_key in out:
            out.setdefault(link.b_key, "")
    return out


def _toospelled(t: ToDo, takes_s: int, longest_s: int) -> str:
    """Why a task fits no day, and what would."""
    n, takes, open_for = math.ceil(takes_s / longest_s), spelled(takes_s), spelled(longest_s)
    return (
        f"{t.label}: it takes {takes} in one go, and the shop is open {open_for} at most. "
        f"Put {n * max(1, t.hands)} people on it, cut it into {n} sections, or work longer that day"
    )


def count_tasks(p: Problem, keys: Iterable[str]) -> dict[tuple[str, str], int]:
    """How many tasks of each object are to be done in each bay."""
    out: dict[tuple[str, str], int] = {}
    blocked = blocked_tasks(p)
    for k in keys:
        t = p.tasks[k]
        if t.place_id in p.bays and k not in blocked:
            out[t.place_id, t.job_id] = out.get((t.place_id, t.job_id), 0) + 1
    return out


def _of_mix(t: ToDo, k: int) -> float:
    """How much the k-th mix of a coat holds [ml]: the last one what is still wanted."""
    if t.mixes == 1:
        return t.volume_ml
    each_ml = t.mix_ml or t.volume_ml / t.mixes
    return min(each_ml, t.volume_ml - k * each_ml)


def _held(t: ToDo) -> str:
    return f"{t.job_id}:{t.sheet_id}"


def _letter(n: int) -> str:
    return chr(65 + n) if n < 26 else f"{chr(64 + n // 26)}{chr(65 + n % 26)}"


#: of several reasons for the same second, the one that says most comes first
_SAYS: dict[str, int] = {
    binding: -i
    for i, binding in enumerate(("link", "later", "held", "bay", "painter", "gun", "machine", "mix", "now"))
}


def _says_most(reasons: Sequence[tuple[int, Binding, str | None]]) -> tuple[int, Binding, str | None]:
    """The reason that holds longest."""
    best = reasons[0]
    for r in reasons:
        if r[0] > best[0] or (r[0] == best[0] and _SAYS[r[1]] > _SAYS[best[1]]):
            best = r
    return best


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
    long = spelled(abs(at - now))
    return f"in {long}" if at >= now else f"{long} ago"


def spelled(lasts_s: int) -> str:
    """Hours and minutes in words."""
    hours, minutes = divmod(round(lasts_s / 60), 60)
    return f"{hours} h {minutes} min" if hours and minutes else f"{hours} h" if hours else f"{minutes} min"
