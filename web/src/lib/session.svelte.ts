/** Who is signed in. */
import { api, inWords, reader, type Schemas } from "../api/client";

class Session {
  who = $state.raw<Schemas["SessionOut"] | null>(null);
  /** The server has said who, or that nobody is. */
  asked = $state(false);
  /** Why it has not. */
  problem = $state("");

  /** Ask the server who is signed in; only its own no signs out. */
  async look(): Promise<void> {
    const { data, error, response } = await api.GET("/api/session");
    this.problem = response.ok || response.status === 401 ? "" : inWords(error);
    if (this.problem) return;
    this.who = data ?? null;
    this.asked = true;
  }

  /** Sign in; answers the refusal in words, or nothing. */
  async signIn(username: string, password: string): Promise<string> {
    const { data, error } = await api.POST("/api/session", { body: { username, password } });
    if (!data) return inWords(error);
    this.who = data;
    return "";
  }

  /** A shop of one's own, signed in as its owner; answers the refusal in words, or nothing. */
  async found(shop: string, username: string, password: string): Promise<string> {
    const time_zone = Intl.DateTimeFormat().resolvedOptions().timeZone;
    const { data, error } = await api.POST("/api/shops", { body: { shop, time_zone, username, password } });
    if (!data) return inWords(error);
    this.who = data;
    return "";
  }

  async signOut(): Promise<void> {
    await api.DELETE("/api/session");
    this.who = null;
  }

  /** The server said 401: what waits on this device stays, the sign-in page comes up. */
  lost(): void {
    this.who = null;
  }

  get mayWrite(): boolean {
    return this.who !== null && this.who.role !== "viewer";
  }
}

export const session = new Session();
reader.units = () => session.who?.preferences.units ?? "metric";
