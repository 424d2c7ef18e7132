/** Taps to entries. What is computed comes with the page; here facts are only put together. */
import { inReadersWords, type JobPage, type NextTask, type Schemas } from "../api/client";
import { crew } from "./crew.svelte";
import { bare, show, when } from "./format";
import { outbox } from "./outbox.svelte";
import { session } from "./session.svelte";
import { say } from "../words";

export const partName = (page: JobPage, id: string): string => page.facts.parts.find((p) => p.id === id)?.name ?? say.common.part;

export function taskLabel(page: JobPage, task: NextTask): string {
  if (task.kind === "unmask") return say.actions.unmasking(partName(page, task.part_id));
  if (task.kind === "then") return `${partName(page, task.part_id)}: ${stepWord(task.steps[0] ?? "")}`;
  const layer = page.facts.layers.find((l) => l.id === task.layer_id);
  const sheet = layer ? page.facts.sheets[layer.sheet_id] : undefined;
  return say.actions.coatOf(partName(page, task.part_id), sheet?.name ?? "", task.n, layer?.coats ?? "");
}

const lasts = (b: { use_by_at?: number | null }): number => b.use_by_at ?? Number.MAX_SAFE_INTEGER;

/** The batch a coat of this layer draws from: the live one of its material that lasts longest. */
export function batchFor(page: JobPage, layerId: string, now: number): string | null {
  const sheetId = page.facts.layers.find((l) => l.id === layerId)?.sheet_id;
  const live = page.state.batches
    .filter((b) => b.sheet_id === sheetId && b.mixed && b.closed_at === null && b.left_ml > 0)
    .filter((b) => b.gels_at === null || b.gels_at > now)
    .toSorted((a, b) => lasts(b) - lasts(a));
  return live[0]?.batch_id ?? null;
}

/** The mix a coat was taken from at a time gone by: the last one of its material that stood there then. */
export function batchAt(page: JobPage, layerId: string, at: number): string | null {
  const sheetId = page.facts.layers.find((l) => l.id === layerId)?.sheet_id;
  const since = (b: (typeof page.state.batches)[number]): number => b.hardener_in_at ?? b.poured[0]?.at ?? Number.MAX_SAFE_INTEGER;
  const stood = page.state.batches
    .filter((b) => b.sheet_id === sheetId && b.mixed && since(b) <= at && (b.closed_at === null || b.closed_at >= at))
    .toSorted((a, b) => since(b) - since(a));
  return stood[0]?.batch_id ?? null;
}

/** The coats that go on with this one by one tap: same set, same material, same number, none waiting. */
export function together(page: JobPage, task: NextTask, now: number): NextTask[] {
  const set = setOf(page, task.part_id);
  const sheet = sheetOf(page, task.layer_id);
  if (!set || task.kind !== "coat") return [task];
  return page.view.next.filter(
    (t) =>
      t.kind === "coat" &&
      setOf(page, t.part_id) === set &&
      sheetOf(page, t.layer_id) === sheet &&
      t.n === task.n &&
      (!t.opens_at || t.opens_at <= now || t.part_id === task.part_id),
  );
}
const setOf = (page: JobPage, partId: string): string => page.facts.parts.find((p) => p.id === partId)?.set_name ?? "";
const sheetOf = (page: JobPage, layerId: string | null | undefined): string =>
  page.facts.layers.find((l) => l.id === layerId)?.sheet_id ?? "";

/** What the tap is for: one part, or the whole set by its name. */
export function groupName(page: JobPage, partIds: string[]): string {
  const first = partIds[0] ?? "";
  return partIds.length > 1 ? `${setOf(page, first)}\u00a0×\u00a0${partIds.length}` : partName(page, first);
}

export function startCoats(page: JobPage, tasks: NextTask[], now: number): Promise<string[]> {
  const task = tasks[0]!;
  const batch = task.layer_id ? batchFor(page, task.layer_id, now) : null;
  return outbox.add(
    page.head.id,
    [
      {
        kind: "coat_started",
        body: {
          coats: tasks.map((t) => ({ coat_id: crypto.randomUUID(), part_id: t.part_id, layer_id: t.layer_id, n: t.n })),
          facts_id: page.facts.id,
          batch_ids: batch ? [batch] : [],
          place_id: page.facts.parts.find((p) => p.id === task.part_id)?.place_id,
          character: task.character || null,
          direction: task.direction || null,
          painter: crew.painter,
          gun: crew.gun,
          ...breathed(page, task),
        },
      },
    ],
    say.actions.coatStarted(
      groupName(
        page,
        tasks.map((t) => t.part_id),
      ),
      task.n,
    ),
  );
}

/** What was breathed through, and whether the painter must not meet it at all: for isocyanates alone. */
function breathed(page: JobPage, task: NextTask): Record<string, unknown> {
  if (!page.facts.sheets[sheetOf(page, task.layer_id)]?.properties.needs_air_fed_mask) return {};
  const away = Boolean(session.who?.sensitised) && !crew.painter;
  return { breathing: crew.breathing, sensitised: away };
}

export function endCoats(page: JobPage, coatIds: string[], label: string): Promise<string[]> {
  return outbox.add(page.head.id, [{ kind: "coat_done", body: { coat_ids: coatIds, draws: [] } }], say.actions.done(label));
}

/** How the hand goes: "light, from the left". */
export const manner = (task: NextTask | undefined): string =>
  [task?.character, task?.direction]
    .filter((x): x is string => Boolean(x))
    .map(inReadersWords)
    .join(", ");

export type Going = { film: JobPage["state"]["parts"][number]["films"][number]; partId: string };
/** Coats going on, those of one tap together. */
export function going(page: JobPage): Going[] {
  const all = page.state.parts.flatMap((p) => p.films.map((film) => ({ film, partId: p.part_id }))).filter((x) => x.film.done_at === null);
  const first = all[0];
  if (!first) return [];
  const set = setOf(page, first.partId);
  return all.filter((x) => x === first || (set && setOf(page, x.partId) === set && x.film.started_at === first.film.started_at));
}

export function pauseCoat(page: JobPage, coatId: string, paused: boolean): Promise<string[]> {
  const kind = paused ? "coat_resumed" : "coat_paused";
  return outbox.add(page.head.id, [{ kind, body: { coat_id: coatId, why: "" } }], paused ? say.actions.resumed : say.actions.paused);
}

const DONE: Record<string, string> = {
  abrade: say.actions.sanded,
  wipe: say.actions.wiped,
  wash: say.actions.washed,
  dry: say.actions.dried,
  mask: say.actions.masked,
  "wipe off": say.actions.wipedOff,
};
/** A step in the words of having done it: "wiped off". */
/** A step as it is said before it is done. */
export const stepWord = (step: string): string =>
  step === "abrade" ? say.actions.sand : ((say.stepWords as Record<string, string>)[step] ?? inReadersWords(step));
export const doneWord = (step: string): string => DONE[step] ?? say.actions.done(step);

export const sentence = (text: string): string => text.slice(0, 1).toUpperCase() + text.slice(1);

export function stepDone(page: JobPage, part_ids: string[], step: string): Promise<string[]> {
  const on = part_ids.length > 1 ? say.log.parts(part_ids.length) : partName(page, part_ids[0] ?? "");
  return outbox.add(page.head.id, [{ kind: "step_done", body: { part_ids, step } }], `${on} ${doneWord(step)}`);
}

/** A check of the step list, seen right or not right, for all parts that are worked alike. */
export function stepChecked(
  page: JobPage,
  partIds: string[],
  work: Schemas["Work"],
  held: boolean,
  grit: number | null = work.grit ?? null,
): Promise<string[]> {
  const body = { part_ids: partIds, step: work.log || "other", check_id: work.key, grit: grit ? `P${grit}` : null };
  return outbox.add(
    page.head.id,
    [{ kind: held ? "step_done" : "step_failed", body }],
    `${work.name}: ${held ? say.common.pass : say.common.fail}`,
  );
}

/** By when a task must be begun so that it is on in its window: the one number every screen counts down to. */
export const actBy = (task: NextTask | undefined): number | null => task?.latest_start_at ?? task?.closes_at ?? null;

/** A step that opens a window anew, in the words of having done it, as far as the coat under it can be sanded. */
export const fixedWord = (step: string, mend: string): string =>
  step === "abrade" ? (mend === "wet_sand" ? say.actions.wetSanded : say.common.sanded) : sentence(doneWord(step));

/** The coat on top comes off again: its window is missed and nothing opens it. */
export function takeOff(page: JobPage, coatId: string, mend: keyof typeof say.took): Promise<string[]> {
  const how = mend === "peel" ? "peeled" : mend === "sand" || mend === "wet_sand" ? "sanded" : "stripped";
  return outbox.add(page.head.id, [{ kind: "coat_removed", body: { coat_ids: [coatId], how } }], say.took[mend]);
}

/** What would ruin a coat begun now, by the steps on the log; "": nothing that is known. */
export function ruinedBy(page: JobPage, tasks: NextTask[], now: number): string {
  for (const t of tasks) {
    const on = page.state.parts.find((p) => p.part_id === t.part_id)?.surface;
    if (on?.acid) return say.phone.overAcid;
    if (on?.logged && on.soiled) return say.phone.overSoil;
    if (on?.wet_until_at && on.wet_until_at > now) return say.phone.overWater(when(on.wet_until_at, now));
  }
  return "";
}

export function tapeOff(page: JobPage, partId: string, result: string): Promise<string[]> {
  const text = say.actions.maskingRemoved(partName(page, partId));
  return outbox.add(page.head.id, [{ kind: "unmasked", body: { part_ids: [partId], result } }], text);
}

export function combRead(page: JobPage, partId: string, coatId: string, low: number, high: number): Promise<string[]> {
  const body = { part_id: partId, coat_id: coatId, what: "wet_comb", low_um: low, high_um: high };
  return outbox.add(page.head.id, [{ kind: "film_read", body }], say.actions.wftReading(bare("um", low), show("um", high)));
}

/** The cue of the server for a tap: which clocks it starts. */
export function cueText(page: JobPage, taskKey: string): string {
  const cue = page.state.cues.find((c) => c.task_key === taskKey && c.on_kind === "coat_done");
  const opens = cue?.starts.find((s) => s.opens_s !== null)?.opens_s;
  if (!cue) return "";
  if (cue.next?.kind === "then")
    return say.actions.then(stepWord(cue.next.steps[0] ?? ""), opens ? say.actions.inMin(Math.round(opens / 60)) : "");
  return opens ? say.actions.startsTheMinFlashOff(Math.round(opens / 60)) : say.actions.lastCoatOnThisPart;
}
