/** The step list of a job as it came with its page: which of its steps are due. */
import type { JobPage, Schemas } from "../api/client";

export type Group = Schemas["PartWork"];
export type Line = Schemas["WorkLine"];

/** The steps not passed yet before the next coat of a part, or after its last one; null: nothing is known of it. */
export function stepsDue(page: JobPage, partId: string): { group: Group; lines: Line[] } | null {
  const group = page.works.find((g) => g.part_ids.includes(partId));
  const part = page.state.parts.find((p) => p.part_id === partId);
  if (!group || !part) return null;
  const task = page.view.next.find((t) => t.part_id === partId && t.kind === "coat");
  if (task) return { group, lines: group.steps.filter((s) => task.before.includes(s.work.key)) };
  const last = group.steps.findLastIndex((s) => s.work.step === "coat");
  const done = part.films.length > 0 && part.due_layer_id === null && part.films.at(-1)!.done_at !== null;
  if (!done || page.facts.choices?.steps !== "planned") return { group, lines: [] };
  return { group, lines: group.steps.slice(last + 1).filter((s) => !s.held && !(s.work.step === "unmask" && part.unmasked_at !== null)) };
}
