/** Numbers and times as the reader says them: "58 min", "1 h 28 min", "1 610 g", "0.54 l", 16:20 or 4:20 pm. */
import { session } from "./session.svelte";
import { marks, type Quantity, type System, toShown, toStored, typed, unitName, usualDigits } from "./units";
import { language, say } from "../words";

export const system = (): System => session.who?.preferences.units ?? "metric";
export const unit = (q: Quantity): string => unitName(q, system());

/** A stored number in the reader's unit, without the unit. */
export function bare(q: Quantity, value: number, digits?: number): string {
  return spaced(toShown(q, value, system()), digits ?? usualDigits(q, system()));
}
/** A stored number in the reader's unit. */
export const show = (q: Quantity, value: number, digits?: number): string => `${bare(q, value, digits)} ${unit(q)}`;
/** Round marks of a ruler in the reader's unit, as stored values. */
export const rulerMarks = (q: Quantity, most: number, wanted: number): number[] => marks(q, most, wanted, system());
/** For a field: short, no thousands, empty for nothing. */
export function field(q: Quantity, value: number | null | undefined, digits?: number): string {
  if (value === null || value === undefined) return "";
  const shown = toShown(q, value, system());
  return String(Number(shown.toFixed(digits ?? Math.max(2, usualDigits(q, system()))))).replace(".", mark());
}
/** What was typed, as it is stored; NaN when it is no number of that unit. */
export const entered = (q: Quantity, text: string): number => toStored(q, typed(text, unit(q)), system());

/** How dates and numbers are written: the browser's own way with the language that is spoken here. */
export function locale(): string {
  return navigator.languages.find((l) => l.split("-")[0] === language()) ?? language();
}
/** The decimal mark of the language. */
const mark = (): string => new Intl.NumberFormat(locale()).formatToParts(1.5).find((p) => p.type === "decimal")?.value ?? ".";

function zoned(options: Intl.DateTimeFormatOptions): Intl.DateTimeFormat {
  return new Intl.DateTimeFormat(locale(), { timeZone: session.who?.time_zone ?? "UTC", ...options });
}
const twelve = (): boolean => session.who?.preferences.clock === "12";

export function clockTime(at: number): string {
  return zoned(
    twelve() ? { hour: "numeric", minute: "2-digit", hour12: true } : { hour: "2-digit", minute: "2-digit", hourCycle: "h23" },
  ).format(at * 1000);
}
/** For a record: day, time and the zone they are told in. */
export function stamp(at: number): string {
  const zone = zoned({ timeZoneName: "short" })
    .formatToParts(at * 1000)
    .find((p) => p.type === "timeZoneName")?.value;
  return `${date(at)}, ${clockTime(at)} ${zone ?? ""}`.trim();
}

export function dayName(at: number): string {
  return zoned({ weekday: "short", day: "numeric", month: "short" })
    .format(at * 1000)
    .replace(",", "");
}

export function date(at: number): string {
  return zoned({ day: "numeric", month: "short", year: "numeric" }).format(at * 1000);
}

function dayKey(at: number): string {
  return zoned({ year: "numeric", month: "2-digit", day: "2-digit" }).format(at * 1000);
}

/** The days of the week from Monday on, short, in the reader's language. */
export function weekdays(): string[] {
  const named = new Intl.DateTimeFormat(locale(), { weekday: "short", timeZone: "UTC" });
  return [0, 1, 2, 3, 4, 5, 6].map((day) => named.format(Date.UTC(2024, 0, 1 + day))); // a Monday
}

/** Time today, day and time within a week, date beyond. */
export function when(at: number, now: number): string {
  if (dayKey(at) === dayKey(now)) return clockTime(at);
  if (Math.abs(at - now) < 6 * 86400) return `${zoned({ weekday: "short" }).format(at * 1000)} ${clockTime(at)}`;
  if (Math.abs(at - now) > 200 * 86400) return date(at);
  return `${zoned({ day: "numeric", month: "short" }).format(at * 1000)} ${clockTime(at)}`;
}

export function duration(seconds: number): string {
  const s = Math.max(0, Math.round(seconds));
  if (s < 60) return say.format.s(s);
  const minutes = Math.round(s / 60);
  if (minutes < 120) return say.format.min(minutes);
  const hours = Math.floor(minutes / 60);
  if (hours < 48) return minutes % 60 ? say.format.hMin(hours, minutes % 60) : say.format.h(hours);
  const days = Math.round(hours / 24);
  if (days < 60) return say.format.days(days);
  if (days < 700) return say.format.months(Math.round(days / 30.4));
  return say.format.years(number(days / 365.25, 1));
}
/** A plain number with at most so many digits, no zeros at its end. */
const number = (value: number, digits: number): string => new Intl.NumberFormat(locale(), { maximumFractionDigits: digits }).format(value);

/** Minutes and seconds under an hour, in words from there on: "58 min 12 s", "1 h 11 min". Never like a time of day. */
export function stopwatch(seconds: number): string {
  const s = Math.max(0, Math.round(seconds));
  return s >= 3600 ? duration(s) : s < 60 ? say.format.s(s) : say.format.minS(Math.floor(s / 60), s % 60);
}

/** Minutes and seconds as a clock on a wall shows them: "4:05". */
export function countdown(seconds: number): string {
  const s = Math.max(0, Math.round(seconds));
  return s >= 3600 ? duration(s) : `${Math.floor(s / 60)}:${String(s % 60).padStart(2, "0")}`;
}

export function spaced(value: number, digits = 0): string {
  const [whole, rest] = value.toFixed(digits).split(".");
  const grouped = (whole ?? "").replace(/\B(?=(\d{3})+(?!\d))/g, "\u202f");
  return rest ? `${grouped}${mark()}${rest}` : grouped;
}

export function volume(ml: number): string {
  if (system() === "us") return ml >= 3785.411784 ? `${spaced(ml / 3785.411784, 2)} gal` : show("ml", ml);
  return ml >= 1000 ? `${spaced(ml / 1000, 2)} l` : `${Math.round(ml)} ml`;
}

export const um = (value: number): string => show("um", value);
export const temp = (value: number): string => show("degc", value);
export const kelvin = (value: number): string => show("k", value);
/** A spot of a few square centimetres is told in them. */
export const area = (value: number): string =>
  system() === "metric" && value > 0 && value < 0.01 ? `${spaced(value * 1e4, value < 1e-3 ? 1 : 0)} cm²` : show("m2", value);
export const percent = (frac: number): string => `${Math.round(frac * 100)} %`;
export const money = (value: number): string => `${spaced(value, 2)} ${session.who?.currency ?? ""}`.trim();

const span = (q: Quantity, pair: readonly number[] | undefined, digits: number): string =>
  !pair?.length
    ? ""
    : pair[0] === pair[1]
      ? show(q, pair[0]!, digits)
      : say.format.to(bare(q, pair[0]!, digits), show(q, pair[1]!, digits));
/** How a gun or can is set: "coarse, wide gun: 275 to 415 kPa". */
export function setup(x: {
  name: string;
  nozzle_mm?: number | null;
  air_kpa?: readonly number[];
  distance_mm?: readonly number[];
}): string {
  const far = span("mm", x.distance_mm, system() === "us" ? 1 : 0);
  const told = [x.nozzle_mm ? say.format.mmNozzle(x.nozzle_mm) : "", span("kpa", x.air_kpa, 0), far ? say.format.away(far) : ""].filter(
    Boolean,
  );
  return `${x.name}: ${told.join(", ")}`;
}

/** A value and the limit it is held against, with as many digits as it takes to tell them apart. */
export function apart(q: Quantity | "percent", value: number, limit: number): [string, string] {
  const usual = q === "percent" ? 0 : usualDigits(q, system());
  const text = (x: number, digits: number): string => (q === "percent" ? `${spaced(x * 100, digits)} %` : show(q, x, digits));
  for (let digits = usual; digits < usual + 4; digits += 1) {
    const pair: [string, string] = [text(value, digits), text(limit, digits)];
    if (pair[0] !== pair[1] || value === limit) return [pair[0], text(limit, usual)];
  }
  return [text(value, usual + 4), text(limit, usual)];
}
