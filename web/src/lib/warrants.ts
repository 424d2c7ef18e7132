/** Who vouches for a system, in words: the ground, each join, and what it must withstand. */
import type { Schemas } from "../api/client";
import { surveyWords } from "./survey.svelte";
import { say } from "../words";

type Warrant = Schemas["Warrant"];

/** One line for a warrant of a stack whose materials are called so, from the ground up. */
export function vouched(w: Warrant, names: string[], ground: string): string {
  const upper = names[w.position] ?? "";
  const what =
    w.about === "ground"
      ? say.warrants.on(upper, ground)
      : w.about === "join"
        ? say.warrants.on(upper, names[w.position - 1] ?? "")
        : say.warrants.against(upper, surveyWords.exposure(w.about));
  const sheets = (w.by ?? []).map((s) => s.sheet);
  const source = w.by?.[0]?.source?.ref ?? "";
  return `${what}: ${say.warrants[w.standing](sheets.join(say.common.and))}${source && !sheets.includes(source) ? ` (${source})` : ""}`;
}
