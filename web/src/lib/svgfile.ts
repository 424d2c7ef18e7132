/** The strip as one SVG file: its drawings under one another with the looks they have on screen. */

const LOOKS = [
  "fill",
  "stroke",
  "stroke-width",
  "stroke-dasharray",
  "opacity",
  "font-size",
  "font-weight",
  "font-stretch",
  "text-anchor",
  "paint-order",
];

function copied(node: SVGElement): SVGElement {
  const copy = node.cloneNode(true) as SVGElement;
  const from = [node, ...node.querySelectorAll<SVGElement>("*")];
  const to = [copy, ...copy.querySelectorAll<SVGElement>("*")];
  from.forEach((el, i) => {
    const style = getComputedStyle(el);
    for (const name of LOOKS) {
      const value = style.getPropertyValue(name);
      if ((value && value !== "none") || el.hasAttribute(name))
        to[i]!.setAttribute(name, value.replace(/url\("[^"]*#/g, 'url("#').replace(/"/g, ""));
    }
    to[i]!.removeAttribute("class");
  });
  return copy;
}

/** An SVG document of a figure's drawings, with what stands beside each of them as text. */
export function stripSvg(figure: HTMLElement, title: string): string {
  const svgs = [...figure.querySelectorAll<SVGSVGElement>("svg")].filter((s) => s.clientHeight > 24 && s.clientWidth > 200);
  const patterns = document.querySelector<SVGSVGElement>("svg.patterns defs");
  const style = getComputedStyle(document.documentElement);
  const [ink, ground] = [style.getPropertyValue("--ink").trim(), style.getPropertyValue("--ground").trim()];
  const width = figure.clientWidth;
  let y = 40;
  const rows: string[] = [];
  const left = figure.getBoundingClientRect().left;
  for (const svg of svgs) {
    const x = svg.getBoundingClientRect().left - left;
    const head = svg.parentElement?.querySelector<HTMLElement>(".lanehead, p");
    const words = head ? [...head.children].map((c) => c.textContent?.replace(/\s+/g, " ").trim() ?? "").filter(Boolean) : [];
    const text = words.map(
      (w, i) =>
        `<text x="24" y="${18 + i * 16}" font-size="${i ? 12 : 15}" font-weight="${i ? 450 : 780}" fill="${ink}">${escaped(w)}</text>`,
    );
    rows.push(
      `<g transform="translate(0 ${y})">${x > 50 ? text.join("") : ""}<g transform="translate(${x} 0)">${new XMLSerializer().serializeToString(copied(svg))}</g></g>`,
    );
    y += Math.max(svg.clientHeight, x > 50 ? words.length * 16 + 6 : 0) + 4;
  }
  const defs = patterns ? new XMLSerializer().serializeToString(copied(patterns as unknown as SVGElement)) : "";
  return `<svg xmlns="http://www.w3.org/2000/svg" width="${width}" height="${y + 8}" viewBox="0 0 ${width} ${y + 8}" font-family="Archivo, sans-serif">${defs}<rect width="100%" height="100%" fill="${ground}"/><text x="24" y="26" font-size="20" font-weight="800" fill="${ink}">${escaped(title)}</text>${rows.join("")}</svg>`;
}

const escaped = (text: string): string => text.replace(/&/g, "&amp;").replace(/</g, "&lt;").replace(/>/g, "&gt;");

export function saveSvg(figure: HTMLElement, title: string): void {
  const url = URL.createObjectURL(new Blob([stripSvg(figure, title)], { type: "image/svg+xml" }));
  const a = document.createElement("a");
  a.href = url;
  a.download = `${title
    .toLowerCase()
    .replace(/[^a-z0-9]+/g, "-")
    .replace(/^-|-$/g, "")}.svg`;
  a.click();
  URL.revokeObjectURL(url);
}
