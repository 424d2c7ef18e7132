/** What opens on the page takes the focus, and Escape closes it: for a form or a panel that was just asked for. */
export const opened =
  (close: () => void) =>
  (node: HTMLElement): (() => void) => {
    node.querySelector<HTMLElement>("input, select, textarea, button")?.focus();
    const key = (event: KeyboardEvent): void => {
      if (event.key === "Escape") close();
    };
    node.addEventListener("keydown", key);
    return () => node.removeEventListener("keydown", key);
  };
