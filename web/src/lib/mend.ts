/** What can be changed in an entry the server did not take: its numbers, its free words, its time. */
import type { Schemas } from "../api/client";
import { entered, field, unit } from "./format";
import { type Quantity, typed } from "./units";

type EntryIn = Schemas["EntryIn"];
type Body = Record<string, unknown>;
type Path = (string | number)[];
/** One value that can be typed: where it stands, and how it is told. */
export type Leaf = { entry: string; path: Path; key: string; quantity: Quantity | "percent" | "plain" | "words"; text: string };

/** What people write in their own words; every other text of a body is a choice or an id. */
const WORDS = ["text", "reason", "note", "how", "what", "lot", "expires_on", "opened_on", "painter", "gun", "spot", "why"];
const CHOICES: Record<string, string[]> = { how: ["coat_removed", "job_ended"], what: ["film_read", "corrected"], why: ["batch_closed"] };
const PLAIN = ["n", "coats", "value"];
const QUANTITIES: [RegExp, Quantity | "percent"][] = [
  [/(^|_)ml$/, "ml"],
  [/(^|_)g$/, "g"],
  [/(^|_)um$/, "um"],
  [/_degc$/, "degc"],
  [/_frac$/, "percent"],
  [/_m_s$/, "m_s"],
];

function quantityOf(key: string, kind: string, value: unknown): Leaf["quantity"] | null {
  if (WORDS.includes(key) || (kind === "corrected" && key === "now"))
    return typeof value === "string" && !CHOICES[key]?.includes(kind) ? "words" : null;
  if (typeof value !== "number") return null;
  return QUANTITIES.find(([end]) => end.test(key))?.[1] ?? (PLAIN.includes(key) ? "plain" : null);
}

export const unitOf = (q: Leaf["quantity"]): string => (q === "percent" ? "%" : q === "plain" || q === "words" ? "" : unit(q));

function shown(q: Leaf["quantity"], value: unknown): string {
  if (q === "words" || q === "plain") return String(value);
  return q === "percent" ? String(Math.round(Number(value) * 1000) / 10) : field(q, Number(value));
}

/** Every value of an entry that can be typed anew. */
export function leavesOf(entry: EntryIn): Leaf[] {
  const found: Leaf[] = [];
  function walk(value: unknown, path: Path, key: string): void {
    if (Array.isArray(value)) value.forEach((v, i) => walk(v, [...path, i], key));
    else if (value && typeof value === "object") for (const [k, v] of Object.entries(value)) walk(v, [...path, k], k);
    else {
      const quantity = quantityOf(key, entry.kind, value);
      if (quantity) found.push({ entry: entry.id, path, key, quantity, text: shown(quantity, value) });
    }
  }
  walk(entry.body, [], "");
  return found;
}

/** What was typed, as it is stored; null: it is no number of that unit. */
function read(leaf: Leaf, text: string): unknown {
  if (leaf.quantity === "words") return text.trim();
  const number =
    leaf.quantity === "plain" ? typed(text) : leaf.quantity === "percent" ? typed(text, "%") / 100 : entered(leaf.quantity, text);
  return Number.isNaN(number) ? null : number;
}

/** The entry with what was typed in place; a leaf that is no number comes back instead.  What nobody touched stays as exact as it was. */
export function mended(entry: EntryIn, leaves: readonly Leaf[], texts: readonly string[]): EntryIn | Leaf {
  const body = structuredClone(entry.body) as Body;
  for (const [i, leaf] of leaves.entries()) {
    if (leaf.entry !== entry.id || texts[i] === leaf.text) continue;
    const value = read(leaf, texts[i] ?? "");
    if (value === null) return leaf;
    let at: Body = body;
    for (const step of leaf.path.slice(0, -1)) at = at[step] as Body;
    at[leaf.path.at(-1)!] = value;
  }
  return { ...entry, body };
}
