/** What a job's clocks will call out: when, until when it matters, and what it is.  Nothing is measured here.
 *
 * A tap played without network moves them too: they are read off what is due next and off the mixes.
 */
import type { JobPage, Schemas } from "../api/client";
import { stepWord } from "./actions";
import { when } from "./format";
import { say } from "../words";

export type Kind = "opens" | "closes" | "wipe" | "tape" | "pot" | "gels" | "weather";
export type Alarm = {
  key: string;
  jobId: string;
  kind: Kind;
  /** What it counts down to [s]. */
  at: number;
  /** From when to when it rings [s]. */
  from_at: number;
  until_at: number;
  /** What is lost when nobody comes: it rings again until it is heard. */
  pressing: boolean;
  what: string;
  how: string;
};
/** What a page of a job and a line of the list both say. */
export type Watched = {
  head: Schemas["JobHead"];
  facts: Schemas["Facts"];
  state: Schemas["JobState"];
  next: Schemas["NextTask"][];
  air?: JobPage["air"];
  ribbon?: JobPage["ribbon"];
};

const CLOSES_AHEAD_S = 120;
const POT_AHEAD_S = 300;
const WEATHER_AHEAD_S = 1200;
/** An opening is news for so long. */
const NEWS_S = 600;

export function alarmsOf(job: Watched, now: number): Alarm[] {
  const running = new Set(job.state.parts.filter((p) => p.films.at(-1)?.done_at === null).map((p) => p.part_id));
  const tasks = job.next.filter((t) => !running.has(t.part_id)).flatMap((t) => ofTask(job, t, now));
  return [...tasks, ...ofPots(job, now), ...ofWeather(job, running.size > 0, now)].filter((a) => a.until_at > now);
}

function ofTask(job: Watched, task: Schemas["NextTask"], now: number): Alarm[] {
  const part = job.facts.parts.find((p) => p.id === task.part_id)?.name ?? "";
  const layer = job.facts.layers.find((l) => l.id === task.layer_id);
  const sheet = layer ? (job.facts.sheets[layer.sheet_id]?.name ?? "") : "";
  const kind: Kind = task.kind === "unmask" ? "tape" : task.kind === "then" ? "wipe" : "opens";
  const what =
    kind === "tape"
      ? say.alarm.tape(part)
      : kind === "wipe"
        ? say.alarm.then(part, stepWord(task.steps[0] ?? ""))
        : say.alarm.coat(part, sheet, task.n);
  const base = { jobId: job.head.id, what };
  const out: Alarm[] = [];
  const closes = task.closes_at ?? null;
  if (task.opens_at) {
    // Wiped off while it helps; that something has opened is news for a while.
    const until_at = kind === "wipe" && closes ? closes : Math.min(closes ?? Infinity, task.opens_at + NEWS_S);
    const how = closes ? say.alarm.nowUntil(when(closes, now)) : say.alarm.now;
    // Wiped off in time or not at all: it presses from the first second.
    const key = `${job.head.id} ${task.task_key} opens ${task.opens_at}`;
    out.push({ ...base, key, kind, at: task.opens_at, from_at: task.opens_at, until_at, pressing: kind === "wipe", how });
  }
  if (closes) {
    const by = task.latest_start_at ?? closes;
    const how = say.alarm.startByCloses(when(by, now), when(closes, now));
    const from_at = Math.max(by - CLOSES_AHEAD_S, task.opens_at ?? 0);
    const key = `${job.head.id} ${task.task_key} closes ${closes}`;
    if (kind !== "wipe")
      out.push({ ...base, key, kind: kind === "tape" ? kind : "closes", at: by, from_at, until_at: closes, pressing: true, how });
  }
  return out;
}

function ofPots(job: Watched, now: number): Alarm[] {
  return job.state.batches
    .filter((b) => b.mixed && b.closed_at === null && b.left_ml > 0 && b.use_by_at)
    .flatMap((b) => {
      const name = job.facts.sheets[b.sheet_id]?.name ?? "";
      const base = { jobId: job.head.id, pressing: true };
      const use = b.use_by_at!;
      const gels = b.gels_at ?? use;
      return [
        {
          ...base,
          key: `${job.head.id} ${b.batch_id} pot ${use}`,
          kind: "pot" as const,
          at: use,
          from_at: use - POT_AHEAD_S,
          until_at: gels,
          what: say.alarm.mix(name),
          how: say.alarm.useBy(when(use, now)),
        },
        {
          ...base,
          key: `${job.head.id} ${b.batch_id} gels ${gels}`,
          kind: "gels" as const,
          at: gels,
          from_at: gels,
          until_at: gels + NEWS_S,
          what: say.alarm.mix(name),
          how: say.alarm.gels,
        },
      ];
    });
}

/** The air turns while a coat is going on, or within the next hour of one: by the forecast or the usual day. */
function ofWeather(job: Watched, coating: boolean, now: number): Alarm[] {
  const soon = coating || job.next.some((t) => t.kind === "coat" && (t.opens_at ?? now) <= now + 3600);
  if (!job.ribbon || !job.air || !soon || job.air.margin.value < job.air.least_margin_k) return [];
  const turns = job.ribbon.find((p) => p.at > now && p.margin_k < job.air!.least_margin_k);
  if (!turns) return [];
  return [
    {
      key: `${job.head.id} weather ${Math.round(turns.at / 3600)}`,
      jobId: job.head.id,
      kind: "weather",
      at: turns.at,
      from_at: turns.at - WEATHER_AHEAD_S,
      until_at: turns.at + NEWS_S,
      pressing: coating,
      what: say.alarm.air(job.head.place),
      how: say.alarm.turns(when(turns.at, now), turns.assumed ? say.common.assumed : ""),
    },
  ];
}
