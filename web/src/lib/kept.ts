/** What the server said, kept on this device for when it cannot be reached.
 *
 * One person's at a time: another who signs in, and who signs out, leaves nothing of it behind.
 */
import { type DBSchema, type IDBPDatabase, openDB } from "idb";

/** `at`: when it was said, by the server's clock [s]. */
type Said = { url: string; text: string; at: number };

interface Answers extends DBSchema {
  answers: { key: string; value: Said; indexes: { at: number } };
  meta: { key: string; value: string };
}

/** Not kept: what is only good now, what is long gone by then, and what is the server's own business. */
const NOT = /^\/api\/(plan-asks|leave|devices|photos|lots|record)\b/;
const MOST = 700;
/** Cache of pictures: the service worker's. */
const PICTURES = "pictures";

class Kept {
  #db: Promise<IDBPDatabase<Answers>> | null = null;
  #by = "";
  #owned: Promise<void> = Promise.resolve();

  worth = (url: string): boolean => url.startsWith("/api/") && !NOT.test(url);

  /** Whose store it is from now on. */
  belongsTo(user: string): Promise<void> {
    this.#owned = this.#give(user);
    return this.#owned;
  }

  async #give(user: string): Promise<void> {
    try {
      const db = await this.#open();
      const was = await db.get("meta", "by");
      if (was !== undefined && was !== user) await this.forget();
      await db.put("meta", user, "by");
      this.#by = user;
    } catch {
      return; // a window that keeps nothing
    }
  }

  async keep(url: string, text: string, at: number): Promise<void> {
    if (!this.worth(url)) return;
    await this.#owned; // what is asked in the moment of signing in is theirs already
    if (!this.#by) return;
    try {
      const db = await this.#open();
      await db.put("answers", { url, text, at });
    } catch {
      return; // no room: it is shown all the same
    }
  }

  /** The server says that it would say the same now. */
  async still(url: string, at: number): Promise<void> {
    const said = await this.recall(url);
    if (said) await this.keep(url, said.text, at);
  }

  async recall(url: string): Promise<Said | null> {
    try {
      return (await (await this.#open()).get("answers", url)) ?? null;
    } catch {
      return null;
    }
  }

  /** Drop the oldest beyond what a phone should hold. */
  async prune(): Promise<void> {
    const db = await this.#open();
    const tx = db.transaction("answers", "readwrite");
    let over = (await tx.store.count()) - MOST;
    for (let at = await tx.store.index("at").openCursor(); at && over > 0; at = await at.continue(), over -= 1) await at.delete();
    await tx.done;
  }

  /** Nothing of what was said stays on this device, pictures neither. */
  async forget(): Promise<void> {
    this.#by = "";
    try {
      const db = await this.#open();
      await db.clear("answers");
      await db.delete("meta", "by");
      if ("caches" in globalThis) await caches.delete(PICTURES);
    } catch {
      return;
    }
  }

  #open(): Promise<IDBPDatabase<Answers>> {
    this.#db ??= openDB<Answers>("coatlog-said", 1, {
      upgrade(db) {
        db.createObjectStore("answers", { keyPath: "url" }).createIndex("at", "at");
        db.createObjectStore("meta");
      },
    });
    return this.#db;
  }
}

export const kept = new Kept();
