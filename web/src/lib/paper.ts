/** Paper is white: what is printed is drawn in daylight. */
export function printed(): void {
  const root = document.documentElement;
  const was = root.dataset.theme;
  root.dataset.theme = "light";
  window.print();
  if (was) root.dataset.theme = was;
  else delete root.dataset.theme;
}
