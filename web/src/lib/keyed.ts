/** Rows named by what they are about, never by their place.
 *
 * A list that gets shorter must not turn the button under a thumb into another deed, nor move what is
 * being typed to another row.  Rows of one name are told apart by which of them they are.
 */
export function keyed<T>(rows: readonly T[], name: (row: T) => string): { key: string; row: T }[] {
  const seen = new Map<string, number>();
  return rows.map((row) => {
    const base = name(row);
    const n = seen.get(base) ?? 0;
    seen.set(base, n + 1);
    return { key: `${base} ${n}`, row };
  });
}
