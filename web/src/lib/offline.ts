/** Taps the server has not seen yet, played by the cues it sent with the last state.
 *
 * No rule is written here: a cue says which clocks a tap starts and which task comes next. What is
 * played is marked as a planned value and gone as soon as the server's own state is back.
 */
import type { Film, JobPage, MixPage, NextTask, Schemas, Span, Why } from "../api/client";
import { say } from "../words/index.ts";

type Entry = Schemas["EntryIn"];
type Batch = Schemas["Batch"];
type Ref = { coat_id: string; part_id: string; layer_id: string; n: number };

const fromPlan = (): Why => ({ kind: "assumed", ref: say.common.plannedValueNotSentYet, formula_id: null, inputs: {} });
const key = (r: Ref): string => `${r.part_id}/${r.layer_id}/${r.n}`;
const span = (state: Span["state"], from_at: number, to_at: number | null, word: Span["word"]): Span => ({
  state,
  from_at,
  to_at,
  word,
  why: fromPlan(),
});

/** The page as it will be once what was sent shows and what waits has arrived. */
export function played(page: JobPage, sent: { entry: Entry; seq: number }[], waiting: Entry[]): JobPage {
  const struck = new Set(waiting.filter((e) => e.kind === "strike").map((e) => e.body.target_id));
  const unseen = sent.filter((s) => s.seq > page.seq).map((s) => s.entry);
  const mine = [...unseen, ...waiting.filter((e) => !struck.has(e.id))].filter(
    (e) =>
      e.job_id === page.head.id && ["coat_started", "coat_done", "batch_mixed", "step_done", "step_failed", "unmasked"].includes(e.kind),
  );
  if (mine.length === 0) return page;
  const out = structuredClone(page);
  const tasks = new Map<string, NextTask>(out.view.next.map((t) => [t.task_key, t]));
  for (const e of mine) {
    if (e.kind === "coat_started") for (const ref of e.body.coats as Ref[]) begin(out, ref, e.at, tasks.get(key(ref)));
    else if (e.kind === "batch_mixed") mixed(out, e);
    else if (e.kind === "unmasked") untaped(out, e);
    else if (e.kind !== "coat_done") ticked(out, e);
    else for (const id of e.body.coat_ids as string[]) end(out, id, e.at, tasks);
  }
  return out;
}

/** A step just ticked or failed: its check says so, and what waited for it waits no longer; the rest is the server's to say. */
function ticked(page: JobPage, e: Entry): void {
  const body = e.body as { part_ids: string[]; step: string; check_id?: string | null };
  const held = e.kind === "step_done";
  const key = body.check_id;
  if (!key) {
    if (held)
      page.view.next = page.view.next.filter(
        (t) => !(t.kind === "then" && body.part_ids.includes(t.part_id) && t.steps.includes(body.step)),
      );
    return;
  }
  page.works = page.works.flatMap((group) => {
    const mine = group.part_ids.filter((id) => body.part_ids.includes(id));
    if (!mine.length) return [group];
    const cut = (ids: string[], mark: boolean): JobPage["works"][number][] =>
      ids.length
        ? [
            {
              ...group,
              part_ids: ids,
              names: ids.map((id) => group.names[group.part_ids.indexOf(id)] ?? ""),
              steps: group.steps.map((s) => (mark && s.work.key === key ? { ...s, held } : s)),
            },
          ]
        : [];
    return [
      ...cut(mine, true),
      ...cut(
        group.part_ids.filter((id) => !mine.includes(id)),
        false,
      ),
    ];
  });
  if (!held) return;
  const name = page.works.flatMap((g) => g.steps).find((s) => s.work.key === key)?.work.name;
  page.view.next = page.view.next.map((t) =>
    body.part_ids.includes(t.part_id) ? { ...t, before: t.before.filter((k) => k !== key), must: t.must.filter((m) => m !== name) } : t,
  );
}

function untaped(page: JobPage, e: Entry): void {
  const ids = e.body.part_ids as string[];
  for (const p of page.state.parts) if (ids.includes(p.part_id)) p.unmasked_at ??= e.at;
  page.view.next = page.view.next.filter((t) => !(t.kind === "unmask" && ids.includes(t.part_id)));
}

/** A batch just mixed is there to draw from; how long it lives was told with the page, for the air it was told in. */
function mixed(page: JobPage, e: Entry): void {
  const body = e.body as { batch_id: string; sheet_id: string; parts: { ml?: number }[]; hardener_in_at?: number | null };
  const known = page.state.batches.find((b) => b.batch_id === body.batch_id);
  const total = body.parts.reduce((s, p) => s + (p.ml ?? 0), 0);
  if (known?.mixed) return;
  const pot = page.pots[body.sheet_id];
  const from = body.hardener_in_at ?? null;
  const batch: Batch = {
    batch_id: body.batch_id,
    sheet_id: body.sheet_id,
    poured: known?.poured ?? [],
    mixed: true,
    total_ml: total,
    left_ml: total,
    left_told: false,
    hardener_in_at: from,
    use_by_at: pot && from !== null ? from + pot.use_by_s : null,
    gels_at: pot && from !== null ? from + pot.gels_s : null,
    closed_at: null,
    coat_ids: [],
  };
  page.state.batches = [...page.state.batches.filter((b) => b !== known), batch];
  if (batch.use_by_at) page.view.pots = [...page.view.pots, batch];
}

/** The cup with what was poured here and is not with the server yet; the first pour decides the rest, as it does there. */
export function playedMix(mix: MixPage, jobId: string, waiting: Entry[]): MixPage {
  const mine = waiting.filter((e) => e.job_id === jobId && e.body.sheet_id === mix.sheet.id);
  const done = new Set(mine.filter((e) => e.kind === "batch_mixed").map((e) => e.body.batch_id));
  const pours = mine.filter((e) => e.kind === "pour" && !done.has(e.body.batch_id));
  const open = mix.poured && !done.has(mix.poured.batch_id) ? mix.poured : null;
  if (!pours.length) return open === mix.poured ? mix : { ...mix, poured: null, next_role: mix.cup.pours[0]?.role ?? null };
  const first = pours[0]!;
  const batch: Batch = open ?? {
    batch_id: String(first.body.batch_id),
    sheet_id: mix.sheet.id,
    poured: [],
    mixed: false,
    total_ml: 0,
    left_ml: 0,
    left_told: false,
    hardener_in_at: null,
    use_by_at: null,
    gels_at: null,
    closed_at: null,
    coat_ids: [],
  };
  const planned = mix.cup.pours.find((p) => p.role === first.body.component);
  const cup = open || !planned ? mix.cup : scaledCup(mix.cup, Number(first.body.ml) / planned.ml);
  const here = pours
    .filter((e) => e.body.batch_id === batch.batch_id && !batch.poured.some((p) => p.entry_id === e.id))
    .map((e) => {
      const pour = cup.pours.find((p) => p.role === e.body.component);
      const ml = Number(e.body.ml);
      return { role: String(e.body.component), ml, g: pour ? (ml * pour.g) / pour.ml : ml, at: e.at, entry_id: e.id, can: null };
    });
  const poured = [...batch.poured, ...here];
  const next_role = cup.pours.find((p) => !poured.some((q) => q.role === p.role))?.role ?? null;
  return { ...mix, cup, poured: { ...batch, poured }, next_role };
}

/** The same mix, more or less of it: every part by the same factor. */
export function scaledCup(cup: MixPage["cup"], factor: number): MixPage["cup"] {
  const pours = cup.pours.map((p) => ({
    ...p,
    ml: p.ml * factor,
    g: p.g * factor,
    mark_ml: p.mark_ml * factor,
    scale_g: p.scale_g * factor,
  }));
  return { ...cup, pours, total_ml: cup.total_ml * factor, total_g: cup.total_g * factor };
}

function begin(page: JobPage, ref: Ref, at: number, task: NextTask | undefined): void {
  const part = page.state.parts.find((p) => p.part_id === ref.part_id);
  const layer = page.facts.layers.find((l) => l.id === ref.layer_id);
  if (!part || !layer || part.films.some((f) => f.coat_id === ref.coat_id)) return;
  const um = task?.dry_um ?? null;
  const film: Film = {
    coat_id: ref.coat_id,
    slot: key(ref),
    layer_id: ref.layer_id,
    sheet_id: layer.sheet_id,
    n: ref.n,
    started_at: at,
    done_at: null,
    paused: false,
    aim_wet_um: task?.wet_um ?? null,
    wet_um: null,
    dry_um: um === null ? null : { low: um, likely: um, high: um },
    dry_from: "plan",
    takes_s: task?.duration_s ?? 0,
    waits_x: 1,
    spans: [span("wet", at, null, "wet")],
  };
  part.films.push(film);
  page.view.next = page.view.next.filter((t) => t.part_id !== ref.part_id);
}

function end(page: JobPage, coatId: string, at: number, tasks: Map<string, NextTask>): void {
  const part = page.state.parts.find((p) => p.films.some((f) => f.coat_id === coatId));
  const film = part?.films.find((f) => f.coat_id === coatId);
  if (!part || !film || film.done_at !== null) return;
  film.done_at = at;
  const cue = page.state.cues.find((c) => c.task_key === film.slot && c.on_kind === "coat_done");
  const start = cue?.starts[0];
  const opens = start?.opens_s == null ? null : at + start.opens_s;
  const closes = start?.closes_s == null ? null : film.started_at + start.closes_s;
  film.spans = [span("wet", film.started_at, at, "wet"), span("flash", at, opens, "flash")];
  if (opens !== null) film.spans.push(span("open", opens, closes, "open"));
  const before = tasks.get(film.slot);
  const next = cue?.next;
  // To mix and put on the next one takes about as long as this one took.
  const lead_s = before?.closes_at && before.latest_start_at ? before.closes_at - before.latest_start_at : null;
  if (!cue?.next_key || !next) return;
  page.view.next.push({
    task_key: cue.next_key,
    kind: next.kind,
    part_id: part.part_id,
    layer_id: next.layer_id,
    n: next.n,
    opens_at: opens,
    closes_at: closes,
    latest_start_at: closes === null || lead_s === null ? null : closes - lead_s,
    duration_s: before?.duration_s ?? 0,
    wet_um: null,
    dry_um: null,
    volume_ml: null,
    waits_for: say.offline.theCoatBeforePlanned,
    steps: next.steps,
    before: [],
    must: [],
    character: "",
    direction: "",
    why: fromPlan(),
  });
}
