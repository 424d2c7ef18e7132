/** Entries on this device until the server has them.
 *
 * An entry is in IndexedDB before the tap is acknowledged; sent oldest first, under the name of who
 * was signed in at the tap and no other; one the server will not take is set aside and shown, never
 * lost. Sending twice is harmless: ids are made here. A picture waits beside the entry that shows it and holds
 * up no other.
 */
import { type DBSchema, type IDBPDatabase, openDB } from "idb";
import { api, inWords, type Schemas } from "../api/client";
import { serverClock } from "./clock.svelte";
import { network } from "./network.svelte";
import { isHere, type Picture, picturesFrom, picturesOf, upload, withIds } from "./photos";
import { session } from "./session.svelte";
import { say } from "../words";

type EntryIn = Schemas["EntryIn"];
type Fact = { kind: string; body: Record<string, unknown>; at?: number };
/** `by`: who was signed in at the tap; what older versions kept does not say. */
type Kept = { key?: number; entry: EntryIn; by?: string };
/** `culprit`: what was wrong is in this one, not in one it belongs together with; `taken`: its id is another entry's. */
export type Aside = { key?: number; entry: EntryIn; by?: string; why: string; culprit?: boolean; taken?: boolean };
type Answer = NonNullable<Awaited<ReturnType<Outbox["post"]>>["data"]>;

interface Box extends DBSchema {
  waiting: { key: number; value: Kept };
  aside: { key: number; value: Aside };
  meta: { key: string; value: string | number };
  photos: { key: string; value: Picture };
}

const RETRY_MS = 3000;
const SILENT_MS = 12000; // a phone that has walked out of reach hears nothing, not even that: it asks again
/** So long after a post began it is taken for lost, whatever became of it: sending twice is stored once. */
const LOST_MS = 20000;
const SET_RIGHT_S = 5;
const MOST_AT_ONCE = 100;
const MOST_SENT = 50;
/** No, as the server puts it about what was sent; anything else may be another matter next time. */
const FINAL = [400, 413, 422];
/** A server that answers everything else fails at this alone so often before it is set aside. */
const MOST_TRIES = 5;
/** The same act within so long is one tap of a gloved thumb, told twice. */
const REPEAT_MS = 1500;

class Outbox {
  /** How many of who is signed in wait here; of whom nobody is, of all. */
  waiting = $state(0);
  /** Whose entries wait here until they sign in again, and how many. */
  others = $state.raw<{ by: string; n: number }[]>([]);
  aside = $state.raw<Aside[]>([]);
  /** What waits, oldest first: the pages play it by the server's cues. */
  pending = $state.raw<EntryIn[]>([]);
  /** What the server has, but a page may not show yet: played until its number is reached. */
  sent = $state.raw<{ entry: EntryIn; seq: number }[]>([]);
  /** The last group of entries, for the 10 s in which it can be taken back. */
  last = $state.raw<{ ids: string[]; text: string; at: number } | null>(null);
  /** Rises when the server has taken something: whoever shows state asks again. */
  taken = $state(0);
  /** Why this device keeps nothing: its store is full, or a private window has none. */
  homeless = $state(false);
  /** What could not be written down: there until the page is closed. */
  #loose: Kept[] = [];
  #looseKey = -1;
  #db: Promise<IDBPDatabase<Box>> | null = null;
  #acted: { act: string; at_ms: number; ids: Promise<string[]> } = { act: "", at_ms: -1e9, ids: Promise.resolve([]) };
  #sending = false;
  #since_ms = 0;
  #tries = new Map<string, number>();
  #again = false;

  start(): void {
    void this.#remember()
      .then(() => this.#count())
      .then(() => this.send());
    setInterval(() => void this.send(), RETRY_MS);
    addEventListener("online", () => void this.send());
    network.onBack = () => {
      this.taken += 1;
      void this.send();
    };
    // Asked once: a browser short of room then takes from others first.
    void navigator.storage?.persist?.().catch(() => false);
  }

  /** Pictures kept here until the server has them, or why one cannot be; entries may name them by the ids at once. */
  async keep(files: FileList | null | undefined): Promise<{ ids: string[]; refusal: string }> {
    const { pictures, refusal } = await picturesFrom(files);
    const ids: string[] = [];
    if (refusal) return { ids, refusal };
    for (const picture of pictures) {
      try {
        await (await this.#open()).put("photos", picture);
        ids.push(picture.id);
      } catch {
        const got = await upload(picture); // no room here: straight to the server, while it can be reached
        if (!("id" in got)) return { ids, refusal: "why" in got ? got.why : say.photos.noRoom };
        ids.push(got.id);
      }
    }
    return { ids, refusal: "" };
  }

  /** A picture not sent yet. */
  async photo(id: string): Promise<Blob | null> {
    return (await (await this.#open()).get("photos", id))?.blob ?? null;
  }

  /** What was sent before this page was opened, for pages that are older than that. */
  async #remember(): Promise<void> {
    try {
      const sent = await (await this.#open()).get("meta", "sent");
      if (sent) this.sent = JSON.parse(String(sent)) as typeof this.sent;
    } catch {
      return; // a window that keeps nothing
    }
  }

  /** Write entries down, then send. More than one belong together and are stored whole or not at all. */
  add(jobId: string | null, facts: Fact[], undoText = ""): Promise<string[]> {
    // A second tap while the first is under way says the same again: it is the same act.
    const act = JSON.stringify([jobId, facts], (key, value: unknown) => (key === "coat_id" || key === "batch_id" ? "" : value));
    const now_ms = performance.now();
    if (act === this.#acted.act && now_ms - this.#acted.at_ms < REPEAT_MS) return this.#acted.ids;
    // What a form still holds is a live thing; what is kept is what it said at the tap.
    const ids = this.#write(jobId, $state.snapshot(facts) as Fact[], undoText);
    this.#acted = { act, at_ms: now_ms, ids };
    return ids;
  }

  async #write(jobId: string | null, facts: Fact[], undoText: string): Promise<string[]> {
    const made = facts.map((fact) => ({ fact, id: crypto.randomUUID() }));
    const group = facts.length > 1 ? crypto.randomUUID() : null;
    const by = session.who?.user;
    const entryOf = ({ fact, id }: (typeof made)[number], at: number, device: string, n: number): EntryIn => ({
      id,
      job_id: jobId,
      kind: fact.kind,
      v: 1,
      at: fact.at ?? at,
      at_from: fact.at === undefined ? "tap" : "typed",
      device_id: device,
      n,
      group_id: group,
      body: fact.body,
    });
    try {
      const db = await this.#open();
      const tx = db.transaction(["waiting", "meta"], "readwrite");
      const meta = tx.objectStore("meta");
      const device = String((await meta.get("device")) ?? crypto.randomUUID());
      let n = Number((await meta.get("n")) ?? 0);
      // A clock set right by a second or two must not put this tap before the one before it.
      const before = Number((await meta.get("at")) ?? 0);
      const at = before > serverClock.now && before - serverClock.now <= SET_RIGHT_S ? before : serverClock.now;
      for (const one of made) await tx.objectStore("waiting").add({ entry: entryOf(one, at, device, ++n), by });
      await meta.put(device, "device");
      await meta.put(n, "n");
      await meta.put(at, "at");
      await tx.done;
      this.homeless = false;
    } catch {
      // No room, or no store at all: it waits in the page itself, which says so.
      this.homeless = true;
      for (const [n, one] of made.entries())
        this.#loose.push({ key: this.#looseKey--, entry: entryOf(one, serverClock.now, "unkept", n + 1), by });
    }
    await this.#count();
    const ids = made.map((one) => one.id);
    if (undoText) this.last = { ids, text: undoText, at: serverClock.now };
    void this.send();
    return ids;
  }

  /** Undo is a strike; the entry itself stays in the log. */
  async undo(jobId: string | null): Promise<void> {
    const last = this.last;
    if (!last) return;
    this.last = null;
    await this.add(
      jobId,
      last.ids.map((id) => ({ kind: "strike", body: { target_id: id, reason: say.outbox.undoneAtOnce } })),
    );
  }

  async send(): Promise<void> {
    if (this.#sending && performance.now() - this.#since_ms < LOST_MS) {
      this.#again = true; // something came in while the last post was under way
      return;
    }
    if (!session.who) return this.#count();
    this.#sending = true;
    const since_ms = (this.#since_ms = performance.now());
    this.#again = false;
    try {
      const all = await this.#own("waiting");
      const sendable = withoutPictures(all);
      if (sendable.length === 0) return void (await this.#sendPictures(all));
      let some = together(sendable, MOST_AT_ONCE);
      let { data, error, response } = await this.post(some);
      if (!response.ok && ![401, 409].includes(response.status) && some.length > together(sendable, 1).length) {
        // One of them cannot even be read: send the oldest alone, so that it alone is set aside.
        some = together(sendable, 1);
        ({ data, error, response } = await this.post(some));
        this.#again = true;
      }
      if (response.status === 401) session.lost();
      // Another window has signed somebody else in; or the token for writing has gone.
      if ([403, 409].includes(response.status)) await session.look();
      if (!data && (FINAL.includes(response.status) || (response.status === 500 && (await this.#hopeless(some[0]!.entry)))))
        data = some.map(({ entry }) => ({
          id: entry.id,
          result: "refused",
          why: inWords(error),
          field: "",
          with_another: false,
          seq: null,
          stored: null,
        }));
      if (!data) {
        this.#again = false;
        return;
      }
      await this.#settle(some, data);
      if (all.length > some.length) this.#again = true;
    } catch {
      // No network: everything stays where it is and is sent again.
    } finally {
      if (since_ms === this.#since_ms) this.#sending = false; // else another post has taken its place
      await this.#count();
      if (this.#again) void this.send();
    }
  }

  /** The pictures of the oldest entry that shows some; then it goes like any other. */
  async #sendPictures(all: Kept[]): Promise<void> {
    const first = all[0];
    if (!first) return;
    const group = all.filter((k) => k === first || (first.entry.group_id && k.entry.group_id === first.entry.group_id));
    const db = await this.#open();
    const ids: Record<string, string> = {};
    for (const here of new Set(group.flatMap((k) => picturesOf(k.entry)))) {
      const picture = await db.get("photos", here);
      const got = picture ? await upload(picture) : { why: say.outbox.pictureGone };
      if ("silent" in got) return;
      if ("why" in got) return this.#put(group, got.why);
      ids[here] = got.id;
    }
    const tx = db.transaction(["waiting", "photos"], "readwrite");
    for (const k of group) if (k.key !== undefined) await tx.objectStore("waiting").put({ ...k, entry: withIds(k.entry, ids) }, k.key);
    for (const here of Object.keys(ids)) await tx.objectStore("photos").delete(here);
    await tx.done;
    this.#again = true;
  }

  /** Set aside, with why. */
  async #put(some: Kept[], why: string): Promise<void> {
    const db = await this.#open();
    const tx = db.transaction(["waiting", "aside"], "readwrite");
    for (const k of some) {
      if (k.key !== undefined) await tx.objectStore("waiting").delete(k.key);
      await tx.objectStore("aside").add({ entry: k.entry, by: k.by, why });
    }
    await tx.done;
    this.#again = true;
  }

  async #settle(some: Kept[], outcomes: Answer): Promise<void> {
    const fresh: { entry: EntryIn; seq: number }[] = [];
    const bad: Aside[] = [];
    const gone: number[] = [];
    for (const outcome of outcomes) {
      const kept = some.find((k) => k.entry.id === outcome.id);
      if (kept?.key === undefined) continue;
      gone.push(kept.key);
      this.#tries.delete(outcome.id);
      if (outcome.seq != null) fresh.push({ entry: kept.entry, seq: outcome.seq });
      if (outcome.result === "refused" || outcome.result === "differs")
        bad.push({
          entry: kept.entry,
          by: kept.by,
          why: outcome.why ?? "",
          culprit: !outcome.with_another,
          taken: outcome.result === "differs",
        });
    }
    this.#loose = this.#loose.filter((k) => !gone.includes(k.key!));
    if (!this.#loose.length) this.homeless = false;
    this.sent = [...this.sent, ...fresh].slice(-MOST_SENT);
    try {
      const db = await this.#open();
      const tx = db.transaction(["waiting", "aside", "meta"], "readwrite");
      await tx.objectStore("meta").put(JSON.stringify(this.sent), "sent");
      for (const key of gone) if (key > 0) await tx.objectStore("waiting").delete(key);
      for (const one of bad) await tx.objectStore("aside").add(one);
      await tx.done;
    } catch {
      if (bad.length) this.aside = [...this.aside, ...bad]; // nowhere to keep it: it is shown
    }
    this.taken += 1;
  }

  /** Whether the server fails at this entry again and again while it answers everything else. */
  async #hopeless(entry: EntryIn): Promise<boolean> {
    const { response } = await api.GET("/api/session");
    if (!response.ok) return false;
    const tries = (this.#tries.get(entry.id) ?? 0) + 1;
    this.#tries.set(entry.id, tries);
    return tries >= MOST_TRIES;
  }

  post(some: Kept[]) {
    const entries = some.map((k) => k.entry);
    const body = { sent_at: serverClock.now, by: session.who?.user, entries };
    // Sent twice is stored once.
    return api.POST("/api/entries", { body, signal: AbortSignal.timeout(SILENT_MS) });
  }

  async forget(some: readonly Aside[]): Promise<void> {
    const db = await this.#open();
    const tx = db.transaction(["aside", "photos"], "readwrite");
    for (const { key } of some) if (key !== undefined) await tx.objectStore("aside").delete(key);
    for (const here of some.flatMap((a) => picturesOf(a.entry))) await tx.objectStore("photos").delete(here);
    await tx.done;
    await this.#count();
  }

  /** What was set aside goes into the queue again, as it was tapped or as it was put right. */
  async again(some: readonly Aside[], mended: readonly EntryIn[] = []): Promise<void> {
    const db = await this.#open();
    const tx = db.transaction(["waiting", "aside"], "readwrite");
    for (const [i, aside] of some.entries()) {
      const entry = mended[i] ?? aside.entry;
      if (aside.key !== undefined) await tx.objectStore("aside").delete(aside.key);
      const id = aside.taken && mended.length ? crypto.randomUUID() : entry.id;
      await tx.objectStore("waiting").add({ entry: { ...entry, id }, by: aside.by });
    }
    await tx.done;
    await this.#count();
    await this.send();
  }

  /** What is kept, with its key, oldest first; only what is for who is signed in to send or put away. */
  async #own<Name extends "waiting" | "aside">(name: Name): Promise<Box[Name]["value"][]> {
    const me = session.who?.user;
    return (await this.#all(name)).filter((k) => k.by === undefined || k.by === me);
  }

  async #all<Name extends "waiting" | "aside">(name: Name): Promise<Box[Name]["value"][]> {
    const loose = name === "waiting" ? this.#loose : [];
    try {
      const db = await this.#open();
      const tx = db.transaction(name);
      const [values, keys] = await Promise.all([tx.store.getAll(), tx.store.getAllKeys()]);
      return [...values.map((v, i) => ({ ...v, key: keys[i] })), ...loose];
    } catch {
      return [...loose];
    }
  }

  async #count(): Promise<void> {
    const waiting = await this.#own("waiting");
    const all = await this.#all("waiting");
    this.waiting = session.who ? waiting.length : all.length;
    if (waiting.length || this.pending.length) this.pending = waiting.map((k) => k.entry);
    const names = new Set(all.map((k) => k.by).filter((by) => by !== undefined && by !== session.who?.user));
    this.others = [...names].map((by) => ({ by: String(by), n: all.filter((k) => k.by === by).length }));
    this.aside = await this.#own("aside");
  }

  #open(): Promise<IDBPDatabase<Box>> {
    this.#db ??= openDB<Box>("coatlog", 2, {
      upgrade(db, was) {
        if (was < 1) {
          db.createObjectStore("waiting", { autoIncrement: true });
          db.createObjectStore("aside", { autoIncrement: true });
          db.createObjectStore("meta");
        }
        db.createObjectStore("photos", { keyPath: "id" });
      },
      blocking: (_now, _next, event) => (event.target as IDBDatabase).close(),
    });
    this.#db.catch(() => (this.#db = null));
    return this.#db;
  }
}

/** The oldest, up to so many, and never half a group: its entries are stored whole or not at all. */
function together(all: Kept[], most: number): Kept[] {
  let n = Math.min(most, all.length);
  const group = all[n - 1]!.entry.group_id;
  while (group && n < all.length && all[n]!.entry.group_id === group) n += 1;
  return all.slice(0, n);
}

/** Those that can go at once: an entry that shows a picture waits for it, and its group with it. */
function withoutPictures(all: Kept[]): Kept[] {
  const waits = all.filter((k) => picturesOf(k.entry).some(isHere));
  return all.filter((k) => !waits.some((w) => w === k || (w.entry.group_id && w.entry.group_id === k.entry.group_id)));
}

export const outbox = new Outbox();
