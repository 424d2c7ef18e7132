/** Paper is white: what is printed is drawn in daylight. */
export function printed(): void {
  const root = document.documentElement;
  const was = root.dataset.theme;
  root.dataset.theme = "light";
  window.print();
  if (was) root.dataset.theme = was;
  else delete root.dataset.theme;
}

/** Margins with a line at the foot of each page and its number, as long as the view stands that asked for it. */
export function pages(foot: string): () => void {
  const sheet = new CSSStyleSheet();
  const told = foot.replaceAll("\\", "\\\\").replaceAll('"', '\\"').replaceAll("\n", " ");
  sheet.replaceSync(`@page {
    margin: 14mm 14mm 18mm;
    @bottom-left { content: "${told}"; font-size: 8pt; }
    @bottom-right { content: counter(page) " / " counter(pages); font-size: 9pt; }
  }`);
  document.adoptedStyleSheets = [...document.adoptedStyleSheets, sheet];
  return () => (document.adoptedStyleSheets = document.adoptedStyleSheets.filter((s) => s !== sheet));
}
