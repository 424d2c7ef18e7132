/** What the interface says: one catalogue for each language, every key typed.
 *
 * Nothing here is watched for changes: whoever changes the language draws the page anew.
 */
import { de } from "./de.ts";
import { en } from "./en.ts";
import type { Words } from "./shape.ts";

export const CATALOGUES: { en: Words; de: Words } = { en, de };
export type Language = keyof typeof CATALOGUES;
/** Each language by its own name. */
export const LANGUAGES: [Language, string][] = [
  ["en", "English"],
  ["de", "Deutsch"],
];

let spoken: Language = "en";
export const language = (): Language => spoken;
export function speak(wanted: Language): void {
  spoken = wanted;
}

export const say: Words = new Proxy({} as Words, {
  get: (_, area: keyof Words) => CATALOGUES[spoken][area],
});
