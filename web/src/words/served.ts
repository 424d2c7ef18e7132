/** Sentences the server says, in the reader's language and units.
 *
 * The English sentence is its own code; what varies in it stands as {0}, {1}.  A catalogue holds one line for
 * each of them (./coat check sees to that); numbers with a unit are turned into the reader's own.
 */
import type { Language } from "./index.ts";
import { type Quantity, type System, toShown, unitName, usualDigits } from "../lib/units.ts";

type Pattern = { match: RegExp; said: string };
type Book = { whole: Map<string, string>; patterns: Pattern[]; known: Map<string, string> };
const LOADERS: Partial<Record<Language, () => Promise<{ default: Record<string, string> }>>> = {
  de: () => import("./served.de.json"),
};
const MARKS: Record<Language, string> = { en: ".", de: "," };
const books: Partial<Record<Language, Book>> = {};
const DEEPEST = 4;

/** The catalogue of a language, read once; English needs none. */
export async function openBook(language: Language): Promise<void> {
  const load = LOADERS[language];
  if (load && !books[language]) books[language] = made((await load()).default);
}

export function made(lines: Record<string, string>): Book {
  const whole = new Map<string, string>();
  const patterns: (Pattern & { letters: number })[] = [];
  for (const [english, said] of Object.entries(lines)) {
    if (!/\{\d+\}/.test(english)) whole.set(english, said);
    else {
      const literal = english.split(/\{\d+\}/);
      const plain = literal.map((x) => x.replace(/[.*+?^$()|[\]\\]/g, "\\$&"));
      // A number of minutes is a number: a name before it may have a colon of its own.
      const gap = (next: string): string => (/^ min\b/.test(next) ? "(\\d+)" : "(.*?)");
      const match = new RegExp(`^${plain.map((x, i) => (i ? gap(x) : "") + x).join("")}$`, "s");
      patterns.push({ match, said, letters: literal.join("").length });
    }
  }
  // The one that says most of itself is meant.
  return { whole, patterns: patterns.toSorted((a, b) => b.letters - a.letters), known: new Map() };
}

function found(book: Book, text: string, deep: number): string | null {
  const whole = book.whole.get(text);
  if (whole !== undefined) return whole;
  for (const { match, said } of book.patterns) {
    const values = match.exec(text);
    if (values) return said.replace(/\{(\d+)\}/g, (_, i: string) => inBook(book, values[Number(i) + 1] ?? "", deep + 1));
  }
  return null;
}

/** "Tailgate: what is said of it": a name, and a sentence that may have a colon of its own. */
function afterName(book: Book, text: string, deep: number): string | null {
  for (let i = text.indexOf(": "); i > 0; i = text.indexOf(": ", i + 2)) {
    const rest = found(book, text.slice(i + 2), deep + 1);
    if (rest !== null) return `${inBook(book, text.slice(0, i), deep + 1)}: ${rest}`;
  }
  return null;
}

/** A text by the book; what it does not know as a whole is looked up piece by piece, names stay. */
export function inBook(book: Book, text: string, deep = 0): string {
  if (deep > DEEPEST || !/[a-z]/i.test(text)) return text;
  const known = deep === 0 ? book.known.get(text) : undefined;
  if (known !== undefined) return known;
  let said = found(book, text, deep) ?? afterName(book, text, deep);
  for (const apart of [": ", " and ", ", "]) {
    if (said !== null || !text.includes(apart)) continue;
    const pieces = text.split(apart).map((x) => [x, found(book, x, deep + 1)] as const);
    const joined = apart === " and " ? (book.whole.get(apart) ?? apart) : apart;
    if (pieces.some(([, y]) => y !== null)) said = pieces.map(([x, y]) => y ?? x).join(joined);
  }
  if (deep === 0) book.known.set(text, said ?? text);
  return said ?? text;
}

const QUANTITIES: Record<string, Quantity> = { "°C": "degc", µm: "um", ml: "ml", mm: "mm", "m²": "m2", "m/s": "m_s", "g/l": "voc" };
const NUMBER = String.raw`-?\d+(?:[.,]\d+)?`;
const MEASURED = new RegExp(`(${NUMBER})(?:( to | bis |–)(${NUMBER}))?[ \u2009\u00a0]?(°C|µm|ml|mm|m²|m/s|g/l)(?![\\p{L}\\d/])`, "gu");
/** A difference of temperatures: above or below something, or a doubt. */
const DIFFERENCE = /^ (above|below|über dem|unter dem|over)/;

/** Numbers with units as the reader counts and writes them; a difference of temperatures is no temperature. */
export function inUnits(text: string, system: System, mark = "."): string {
  if ((system === "metric" && mark === ".") || !/\d/.test(text)) return text;
  return text.replace(MEASURED, (...found: unknown[]) => {
    const [whole, low, to, high, unit, at, sentence] = found as [string, string, string?, string?, string?, number?, string?];
    const before = sentence!.slice(0, at);
    const isApart = unit === "°C" && (DIFFERENCE.test(sentence!.slice(at! + whole.length)) || /[±+] ?$/.test(before));
    const q: Quantity = isApart ? "k" : QUANTITIES[unit!]!;
    const shown = (x: string): string => {
      const value = toShown(q, Number(x.replace(",", ".")), system);
      return (system === "metric" ? x : String(Number(value.toFixed(usualDigits(q, system))))).replace(/[.,]/, mark);
    };
    return `${shown(low)}${to && high ? `${to}${shown(high)}` : ""} ${unitName(q, system)}`;
  });
}

/** A sentence of the server for this reader. */
export function served(text: string, language: Language, system: System): string {
  const book = books[language];
  return inUnits(book ? inBook(book, text) : text, system, MARKS[language]);
}

/** What is read by people in an answer of the server; everything else is names, codes and what was typed. */
const READ = new Set(
  (
    "what why instead detail check if_failed cautions tools hazards waits_for label method_name must must_after says how ask wins " +
    "reason text prep_words ends_because warnings doubts breaks misses missing asks need_why said too_small words share fails_first ended " +
    "title_of ref notes source ready_gate claim_text expected families"
  ).split(" "),
);
/** Lists of words by their code. */
const WORDS = new Set(["families", "fact_words", "right_words"]);
/** Where a name is the server's own, by what stands beside it. */
const USUAL = "usual: ";
const NAMED = ["check", "says", "how", "group", "wins", "needs_s"];

/** An answer with its sentences in the reader's words; a data sheet stays as its document says. */
export function worded(value: unknown, say: (text: string) => string, key = ""): unknown {
  if (typeof value === "string") return READ.has(key) ? say(value) : value;
  if (Array.isArray(value)) return value.map((x) => worded(x, say, key));
  if (value === null || typeof value !== "object") return value;
  const object = value as Record<string, unknown>;
  if ("material_id" in object && "components" in object) return value;
  // A usual thing, and the parts of it: they may be called as the parts of a job are, so they are told apart.
  if ("survives" in object) key = USUAL;
  const usual = (name: string): string => (say(USUAL + name).startsWith(USUAL) ? name : say(USUAL + name));
  if (key === USUAL && "name" in object)
    return Object.fromEntries(
      Object.entries(object).map(([k, x]) => [k, k === "name" ? usual(String(x)) : k === "parts" ? worded(x, say, USUAL) : x]),
    );
  const isUsed = "hazards" in object && "dwell_s" in object;
  const isNamed = NAMED.some((k) => k in object) || Object.keys(object).every((k) => k === "id" || k === "name");
  const isCheck = "held" in object && "who" in object;
  return Object.fromEntries(
    Object.entries(object).map(([k, x]) => {
      if (isUsed && k === "steps" && Array.isArray(x)) return [k, x.map((y) => say(String(y)))];
      if (WORDS.has(key) && typeof x === "string") return [k, say(x)];
      if (((k === "name" && isNamed) || (k === "step" && isCheck)) && typeof x === "string") return [k, say(x)];
      return [k, worded(x, say, k)];
    }),
  );
}
