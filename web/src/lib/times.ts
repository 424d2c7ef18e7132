/** Times as they are typed: "18:45" is the next one to come, "2026-11-27 08:00" that day, in the shop's zone. */
import { session } from "./session.svelte";

function offsetS(at: number, zone: string): number {
  const parts = new Intl.DateTimeFormat("en-CA", {
    timeZone: zone,
    hourCycle: "h23",
    year: "numeric",
    month: "2-digit",
    day: "2-digit",
    hour: "2-digit",
    minute: "2-digit",
    second: "2-digit",
  }).formatToParts(at * 1000);
  const n = (type: string): number => Number(parts.find((p) => p.type === type)?.value);
  return Date.UTC(n("year"), n("month") - 1, n("day"), n("hour"), n("minute"), n("second")) / 1000 - at;
}

/** Epoch seconds of a typed time; null for nothing, NaN for what is no time. */
export function timeTyped(text: string, now: number, zone = session.who?.time_zone ?? "UTC"): number | null {
  const clean = text.trim();
  if (!clean) return null;
  const hit = /^(?:(\d{4})-(\d{2})-(\d{2})[ T]+)?([01]?\d|2[0-3]):([0-5]\d)$/.exec(clean);
  if (!hit) return NaN;
  const wall = new Date((now + offsetS(now, zone)) * 1000);
  const day = hit[1]
    ? Date.UTC(Number(hit[1]), Number(hit[2]) - 1, Number(hit[3]))
    : Date.UTC(wall.getUTCFullYear(), wall.getUTCMonth(), wall.getUTCDate());
  if (Number.isNaN(day)) return NaN;
  const local = day / 1000 + Number(hit[4]) * 3600 + Number(hit[5]) * 60;
  // Twice, as the offset at the answer may differ from the one now.
  let at = local - offsetS(local - offsetS(now, zone), zone);
  if (!hit[1] && at <= now) at += 86400;
  return at;
}

/** For a picker of day and time: in the shop's zone. */
export function timeField(at: number | null | undefined, zone = session.who?.time_zone ?? "UTC"): string {
  if (at === null || at === undefined) return "";
  return new Date((at + offsetS(at, zone)) * 1000).toISOString().slice(0, 16);
}
