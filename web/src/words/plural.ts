/** Counted things, by the plural rules of a language. */
export type Value = string | number;

/** For a language: "1 coat", "3 coats"; `one` and `other` are its two forms. */
export const countIn =
  (language: string) =>
  (n: number, one: string, other: string): string =>
    `${n} ${new Intl.PluralRules(language).select(n) === "one" ? one : other}`;
