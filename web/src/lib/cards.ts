/** A table that turns into cards on a phone: each cell carries the name of its column (see styles/tokens.css). */
export function cards(table: HTMLTableElement): () => void {
  function label(): void {
    const heads = [...table.querySelectorAll("thead th")].map((th) => th.textContent?.trim() ?? "");
    for (const row of table.tBodies[0]?.rows ?? [])
      for (const [i, cell] of [...row.cells].entries()) {
        const head = heads[i] ?? "";
        if (cell.dataset.th !== head) cell.dataset.th = head;
      }
  }
  label();
  const watch = new MutationObserver(label);
  watch.observe(table, { childList: true, subtree: true });
  return () => watch.disconnect();
}
