/** Who is signed in. */
import { api, inWords, reader, type Schemas } from "../api/client";
import { serverClock } from "./clock.svelte";
import { kept } from "./kept";
import { language } from "../words";

/** Set while the server has not heard that somebody signed out here. */
const OUT = "coatlog.signed-out";

class Session {
  who = $state.raw<Schemas["SessionOut"] | null>(null);
  /** The server has said who, or that nobody is. */
  asked = $state(false);
  /** Why it has not. */
  problem = $state("");

  /** Ask the server who is signed in; only its own no signs out. */
  async look(): Promise<void> {
    if (localStorage.getItem(OUT)) return this.#outAgain();
    const { data, error, response } = await api.GET("/api/session");
    this.problem = response.ok || response.status === 401 ? "" : inWords(error);
    if (this.problem) return;
    this.#is(data ?? null);
    this.asked = true;
  }

  /** Sign in; answers the refusal in words, or nothing. */
  async signIn(username: string, password: string): Promise<string> {
    const { data, error } = await api.POST("/api/session", { body: { username, password } });
    if (!data) return inWords(error);
    this.#is(data);
    return "";
  }

  /** Sign in by a code another screen of one's own shows; answers the refusal in words, or nothing. */
  async pair(code: string): Promise<string> {
    const { data, error } = await api.POST("/api/session/code", { body: { code } });
    if (!data) return inWords(error);
    this.#is(data);
    return "";
  }

  /** A shop of one's own, signed in as its owner; answers the refusal in words, or nothing. */
  async found(shop: string, username: string, password: string): Promise<string> {
    const time_zone = Intl.DateTimeFormat().resolvedOptions().timeZone;
    const { data, error } = await api.POST("/api/shops", { body: { shop, time_zone, username, password, language: language() } });
    if (!data) return inWords(error);
    this.#is(data);
    return "";
  }

  /** Out, and nothing of what the server said stays; without network it is told as soon as it answers. */
  async signOut(): Promise<void> {
    localStorage.setItem(OUT, "yes");
    this.#is(null);
    await this.#outAgain();
  }

  /** The server said 401: what waits on this device stays, the sign-in page comes up. */
  lost(): void {
    this.#is(null);
  }

  async #outAgain(): Promise<void> {
    const { response } = await api.DELETE("/api/session");
    if (response.ok || response.status === 401) localStorage.removeItem(OUT);
    this.asked = true;
  }

  #is(who: Schemas["SessionOut"] | null): void {
    this.who = who;
    if (who) localStorage.removeItem(OUT);
    void (who ? this.#kept(who) : kept.forget());
  }

  /** A page opened without network is theirs still. */
  async #kept(who: Schemas["SessionOut"]): Promise<void> {
    await kept.belongsTo(who.user);
    await kept.keep("/api/session", JSON.stringify(who), serverClock.now);
  }

  /** Where something new may be put. */
  get places(): Schemas["PlaceOut"][] {
    return this.who?.places.filter((p) => !p.retired) ?? [];
  }

  get mayWrite(): boolean {
    return this.who !== null && this.who.role !== "viewer";
  }
}

export const session = new Session();
reader.units = () => session.who?.preferences.units ?? "metric";
