/** The shape of a catalogue: every key of the English one, texts with values as functions of them. */
import type { en } from "./en.ts";

type Shape<T> = {
  [K in keyof T]: T[K] extends (...args: infer A) => string ? (...args: A) => string : T[K] extends string ? string : Shape<T[K]>;
};
/** What a catalogue must hold: all that the English one holds. */
export type Words = Shape<typeof en>;
