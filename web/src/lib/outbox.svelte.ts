/** Entries on this device until the server has them.
 *
 * An entry is in IndexedDB before the tap is acknowledged; sent oldest first; one the server will
 * not take is set aside and shown, never lost. Sending twice is harmless: ids are made here.
 */
import { type DBSchema, type IDBPDatabase, openDB } from "idb";
import { api, inWords, type Schemas } from "../api/client";
import { serverClock } from "./clock.svelte";
import { session } from "./session.svelte";
import { say } from "../words";

type EntryIn = Schemas["EntryIn"];
type Fact = { kind: string; body: Record<string, unknown>; at?: number };
type Kept = { key?: number; entry: EntryIn };
type Aside = { key?: number; entry: EntryIn; why: string };

interface Box extends DBSchema {
  waiting: { key: number; value: Kept };
  aside: { key: number; value: Aside };
  meta: { key: string; value: string | number };
}

const RETRY_MS = 3000;
const SET_RIGHT_S = 5;
/** The same act within so long is one tap of a gloved thumb, told twice. */
const REPEAT_MS = 1500;

class Outbox {
  waiting = $state(0);
  aside = $state.raw<Aside[]>([]);
  /** What waits, oldest first: the pages play it by the server's cues. */
  pending = $state.raw<EntryIn[]>([]);
  /** What the server has, but a page may not show yet: played until its number is reached. */
  sent = $state.raw<{ entry: EntryIn; seq: number }[]>([]);
  /** The last group of entries, for the 10 s in which it can be taken back. */
  last = $state.raw<{ ids: string[]; text: string; at: number } | null>(null);
  /** Rises when the server has taken something: whoever shows state asks again. */
  taken = $state(0);
  #db: Promise<IDBPDatabase<Box>> | null = null;
  #acted: { act: string; at_ms: number; ids: Promise<string[]> } = { act: "", at_ms: -1e9, ids: Promise.resolve([]) };
  #sending = false;
  #again = false;

  start(): void {
    void this.#count().then(() => this.send());
    setInterval(() => void this.send(), RETRY_MS);
    addEventListener("online", () => void this.send());
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
    const db = await this.#open();
    const group = facts.length > 1 ? crypto.randomUUID() : null;
    const tx = db.transaction(["waiting", "meta"], "readwrite");
    let device = await tx.objectStore("meta").get("device");
    let n = Number((await tx.objectStore("meta").get("n")) ?? 0);
    if (!device) device = crypto.randomUUID();
    await tx.objectStore("meta").put(device, "device");
    // A clock set right by a second or two must not put this tap before the one before it.
    const before = Number((await tx.objectStore("meta").get("at")) ?? 0);
    const at = before > serverClock.now && before - serverClock.now <= SET_RIGHT_S ? before : serverClock.now;
    const ids: string[] = [];
    for (const fact of facts) {
      n += 1;
      const id = crypto.randomUUID();
      ids.push(id);
      const entry: EntryIn = {
        id,
        job_id: jobId,
        kind: fact.kind,
        v: 1,
        at: fact.at ?? at,
        at_from: fact.at === undefined ? "tap" : "typed",
        device_id: String(device),
        n,
        group_id: group,
        body: fact.body,
      };
      await tx.objectStore("waiting").add({ entry });
    }
    await tx.objectStore("meta").put(n, "n");
    await tx.objectStore("meta").put(at, "at");
    await tx.done;
    await this.#count();
    if (undoText) this.last = { ids, text: undoText, at: serverClock.now };
    await this.send();
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
    if (this.#sending) {
      this.#again = true; // something came in while the last post was under way
      return;
    }
    if (!session.who) return;
    this.#sending = true;
    this.#again = false;
    try {
      const db = await this.#open();
      const all = await db.getAll("waiting");
      const keys = await db.getAllKeys("waiting");
      if (all.length === 0) return;
      let entries = all.slice(0, 100).map((k) => k.entry);
      let { data, error, response } = await this.#post(entries);
      if (response.status === 422 && entries.length > 1) {
        // One of them cannot even be read: send the oldest alone, so that it alone is set aside.
        entries = entries.slice(0, 1);
        ({ data, error, response } = await this.#post(entries));
        this.#again = true;
      }
      if (response.status === 401) session.lost();
      if (response.status === 422)
        data = [{ id: entries[0]!.id, result: "refused", why: inWords(error), field: "", seq: null, stored: null }];
      if (!data) return;
      const fresh: { entry: EntryIn; seq: number }[] = [];
      const tx = db.transaction(["waiting", "aside"], "readwrite");
      for (const [i, outcome] of data.entries()) {
        const at = entries.findIndex((e) => e.id === outcome.id);
        const key = keys[at];
        if (at < 0 || key === undefined) continue;
        await tx.objectStore("waiting").delete(key);
        if (outcome.seq != null) fresh.push({ entry: entries[at]!, seq: outcome.seq });
        const bad = outcome.result === "refused" || outcome.result === "differs";
        if (bad) await tx.objectStore("aside").add({ entry: entries[at]!, why: outcome.why ?? `entry ${i + 1}` });
      }
      await tx.done;
      this.sent = [...this.sent, ...fresh].slice(-20);
      this.taken += 1;
    } catch {
      // No network: everything stays where it is and is sent again.
    } finally {
      this.#sending = false;
      await this.#count();
      if (this.#again) void this.send();
    }
  }

  #post(entries: EntryIn[]) {
    return api.POST("/api/entries", { body: { sent_at: serverClock.now, entries } });
  }

  async forget(key: number): Promise<void> {
    const db = await this.#open();
    await db.delete("aside", key);
    await this.#count();
  }

  async #count(): Promise<void> {
    const db = await this.#open();
    const waiting = await db.getAll("waiting");
    this.waiting = waiting.length;
    if (waiting.length || this.pending.length) this.pending = waiting.map((k) => k.entry);
    const values = await db.getAll("aside");
    const keys = await db.getAllKeys("aside");
    this.aside = values.map((v, i) => ({ ...v, key: keys[i] }));
  }

  #open(): Promise<IDBPDatabase<Box>> {
    this.#db ??= openDB<Box>("coatlog", 1, {
      upgrade(db) {
        db.createObjectStore("waiting", { autoIncrement: true });
        db.createObjectStore("aside", { autoIncrement: true });
        db.createObjectStore("meta");
      },
    });
    return this.#db;
  }
}

export const outbox = new Outbox();
