/** The step list of a job, read anew when its log grows; the last answer asked for is the one that counts. */
import { api, type JobPage, type Schemas } from "../api/client";
import { Answer } from "./answer.svelte";

export type Group = Schemas["PartWork"];
export type Line = Schemas["WorkOut"];

export class Works {
  #answer = new Answer<Group[]>();

  get groups(): Group[] {
    return this.#answer.data ?? [];
  }
  get refusal(): string {
    return this.#answer.problem;
  }
  /** Nothing is known of the list yet: what is next cannot be said. */
  get unknown(): boolean {
    return this.#answer.data === null;
  }

  async ask(page: JobPage): Promise<void> {
    await this.#answer.ask(() => api.GET("/api/jobs/{job_id}/work", { params: { path: { job_id: page.head.id } } }));
  }

  /** The steps not seen right yet before the next coat of a part, or after its last one. */
  due(page: JobPage, partId: string): { group: Group; lines: Line[] } | null {
    const group = this.groups.find((g) => g.part_ids.includes(partId));
    const part = page.state.parts.find((p) => p.part_id === partId);
    if (!group || !part) return null;
    const task = page.view.next.find((t) => t.part_id === partId && t.kind === "coat");
    if (task) return { group, lines: group.steps.filter((s) => task.before.includes(s.work.key)) };
    const last = group.steps.findLastIndex((s) => s.work.step === "coat");
    const done = part.films.length > 0 && part.due_layer_id === null && part.films.at(-1)!.done_at !== null;
    if (!done || page.facts.choices?.steps !== "planned") return { group, lines: [] };
    return { group, lines: group.steps.slice(last + 1).filter((s) => !s.held && !(s.work.step === "unmask" && part.unmasked_at !== null)) };
  }
}
