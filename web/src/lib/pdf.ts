/** A page of the record as a PDF file: read off the page as it stands, so that words and units are the reader's.
 *
 * The same page gives the same bytes: the file is dated by the newest entry, and what tells the time of reading is
 * left out (`data-now`).  What is only for the screen is left out too.
 */
import type { Content, TableCell, TDocumentDefinitions } from "pdfmake/interfaces";
import bold from "../assets/archivo-paper-700.ttf?url";
import regular from "../assets/archivo-paper-400.ttf?url";

type Run = { text: string; bold?: boolean; color?: string };
type Options = { title: string; foot: string; at: number; size: "A4" | "LETTER"; said: (done: number, of: number) => void };

const MUTE = "#555555";
const INCH_PT = 72;
const PHOTO_PT = 230;
const SIDE_PX = 900;
const SCREEN_ONLY = ".btn, button, select, input, form, script, style, .noprint, [data-now]";
/** What the lettering has no sign for, as it is written without. */
const WRITTEN: [RegExp, string][] = [
  [/\u202f/g, "\u00a0"],
  [/≥/g, ">= "],
  [/≤/g, "<= "],
  [/→/g, "-"],
  [/\u2212/g, "-"],
];
/** Letters outside Latin, which the lettering lacks. */
const BEYOND = /[^\u0000-\u024f\u1e00-\u1eff\u2000-\u206f\u20a0-\u20bf\u2122]/;

export class CannotWrite extends Error {
  override name = "CannotWrite";
}

const written = (text: string): string => WRITTEN.reduce((t, [from, to]) => t.replace(from, to), text);

/** Text of an element with what is bold and what is grey. */
function runs(from: Node, style: Omit<Run, "text"> = {}): Run[] {
  const out: Run[] = [];
  for (const node of from.childNodes) {
    if (node instanceof Text) {
      const text = written((node.textContent ?? "").replace(/[ \n\t]+/g, " "));
      if (BEYOND.test(text)) throw new CannotWrite(text);
      if (text) out.push({ text, ...style });
    } else if (node instanceof HTMLBRElement) out.push({ text: "\n" });
    else if (node instanceof HTMLElement && !node.matches(SCREEN_ONLY))
      out.push(
        ...runs(node, {
          bold: style.bold || node.matches("b, strong, dd, .shop, .num"),
          color: node.matches(".mute") ? MUTE : style.color,
        }),
      );
  }
  return out;
}
const told = (from: Node): Run[] => {
  const all = runs(from);
  return all.some((r) => r.text.trim()) ? all : [];
};

/** A picture as it is on the page, with its pin where it has one. */
async function picture(img: HTMLImageElement): Promise<Content> {
  img.loading = "eager"; // one further down has not been asked for yet
  await img.decode().catch(() => undefined);
  if (!img.naturalWidth) return { text: img.alt, color: MUTE };
  const scale = Math.min(1, SIDE_PX / Math.max(img.naturalWidth, img.naturalHeight));
  const canvas = document.createElement("canvas");
  [canvas.width, canvas.height] = [Math.round(img.naturalWidth * scale), Math.round(img.naturalHeight * scale)];
  const pen = canvas.getContext("2d")!;
  pen.drawImage(img, 0, 0, canvas.width, canvas.height);
  const pin = img.parentElement?.querySelector<SVGElement>(":scope > svg");
  if (pin) {
    const [x, y] = [parseFloat(pin.style.left) / 100, parseFloat(pin.style.top) / 100];
    for (const [color, width] of [
      ["#ffffff", 9],
      ["#000000", 4],
    ] as const) {
      [pen.strokeStyle, pen.lineWidth] = [color, width];
      const arm = canvas.width / 24;
      pen.beginPath();
      pen.moveTo(canvas.width * x - arm, canvas.height * y);
      pen.lineTo(canvas.width * x + arm, canvas.height * y);
      pen.moveTo(canvas.width * x, canvas.height * y - arm);
      pen.lineTo(canvas.width * x, canvas.height * y + arm);
      pen.stroke();
    }
  }
  return { image: canvas.toDataURL("image/jpeg", 0.85), fit: [PHOTO_PT, PHOTO_PT], margin: [0, 2, 0, 4] };
}

class Reader {
  #done = 0;
  constructor(
    readonly of: number,
    readonly said: Options["said"],
  ) {}

  async stack(from: Element): Promise<Content[]> {
    const out: Content[] = [];
    for (const node of from.children) if (node instanceof HTMLElement && !node.matches(SCREEN_ONLY)) out.push(...(await this.block(node)));
    return out;
  }

  async block(node: HTMLElement): Promise<Content[]> {
    if (node instanceof HTMLTableElement) return [await this.table(node)];
    if (node instanceof HTMLImageElement) {
      const made = await picture(node);
      this.said((this.#done += 1), this.of);
      return [made];
    }
    if (node.matches("h1, h2")) return [{ text: told(node), fontSize: 20, bold: true, margin: [0, 0, 0, 4] }];
    if (node.matches("h3")) return [{ text: told(node), fontSize: 12.5, bold: true, margin: [0, 10, 0, 3], headlineLevel: 1 } as Content];
    if (node.matches("dl")) return [this.pairs(node)];
    if (node.matches(".sign")) return [this.signatures(node)];
    if (node.querySelector("img, table, p, h3, ul, dl")) {
      const inside = await this.stack(node);
      return node.matches(".pair, li, figure") ? [{ stack: inside, unbreakable: true }] : inside;
    }
    const text = told(node);
    return text.length ? [{ text, margin: [0, 0, 0, 3] }] : [];
  }

  async table(table: HTMLTableElement): Promise<Content> {
    const rows = [...table.rows];
    const wide = Math.max(1, ...rows.map((r) => [...r.cells].reduce((n, c) => n + c.colSpan, 0)));
    const body: TableCell[][] = [];
    for (const row of rows) {
      const cells: TableCell[] = [];
      for (const cell of row.cells) {
        const nested = cell.querySelector("p, img, li, table");
        cells.push({
          ...(nested ? { stack: await this.stack(cell) } : { text: runs(cell) }),
          bold: cell.tagName === "TH",
          colSpan: cell.colSpan,
        } as TableCell);
        for (let n = 1; n < cell.colSpan; n += 1) cells.push({ text: "" });
      }
      while (cells.length < wide) cells.push({ text: "" });
      body.push(cells);
    }
    const heads = table.tHead?.rows.length ?? 0;
    return {
      table: { headerRows: heads, dontBreakRows: true, widths: Array<string>(wide).fill("auto"), body },
      layout: { hLineWidth: (i) => (i ? 0.5 : 0), vLineWidth: () => 0, paddingLeft: () => 0, paddingRight: () => 8 },
      fontSize: wide > 6 ? 7.5 : 8.5,
      margin: [0, 0, 0, 4],
    };
  }

  pairs(list: HTMLElement): Content {
    const body: TableCell[][] = [];
    for (const term of list.querySelectorAll("dt")) {
      const said = term.nextElementSibling;
      body.push([
        { text: told(term), color: MUTE },
        { text: said ? told(said) : "", bold: true },
      ]);
    }
    return { table: { widths: [150, "*"], body }, layout: "noBorders", margin: [0, 0, 0, 4] };
  }

  /** A line to write on above each of the words. */
  signatures(from: HTMLElement): Content {
    return {
      columns: [...from.querySelectorAll("p")].map((p) => ({
        stack: [{ canvas: [{ type: "line", x1: 0, y1: 0, x2: 230, y2: 0, lineWidth: 1 }] }, { text: told(p), margin: [0, 3, 0, 0] }],
      })),
      columnGap: 24,
      margin: [0, 56, 0, 10],
      unbreakable: true,
    } as Content;
  }
}

const base64 = async (url: string): Promise<string> => {
  const bytes = new Uint8Array(await (await fetch(url)).arrayBuffer());
  let text = "";
  for (let at = 0; at < bytes.length; at += 0x8000) text += String.fromCharCode(...bytes.subarray(at, at + 0x8000));
  return btoa(text);
};

/** The file.  Raises CannotWrite with the words that have letters the lettering lacks. */
export async function pdfOf(page: HTMLElement, options: Options): Promise<Blob> {
  const of = page.querySelectorAll("img").length;
  options.said(0, of);
  const content = await new Reader(of, options.said).stack(page);
  const maker = (await import("pdfmake/build/pdfmake.min.js")).default;
  maker.addVirtualFileSystem({ "400.ttf": await base64(regular), "700.ttf": await base64(bold) });
  maker.addFonts({ Archivo: { normal: "400.ttf", bold: "700.ttf", italics: "400.ttf", bolditalics: "700.ttf" } });
  const foot = written(options.foot);
  if (BEYOND.test(foot)) throw new CannotWrite(foot);
  const doc: TDocumentDefinitions = {
    pageSize: options.size,
    pageMargins: [0.55 * INCH_PT, 0.55 * INCH_PT, 0.55 * INCH_PT, 0.75 * INCH_PT],
    content,
    defaultStyle: { font: "Archivo", fontSize: 9 },
    footer: (n, pages) => ({
      columns: [
        { text: foot, fontSize: 8 },
        { text: `${n} / ${pages}`, alignment: "right", fontSize: 9 },
      ],
      margin: [0.55 * INCH_PT, 18, 0.55 * INCH_PT, 0],
    }),
    // A heading does not stand alone at the foot of a page.
    pageBreakBefore: (node, around) => node.headlineLevel === 1 && around.getFollowingNodesOnPage().length === 0,
    info: { title: options.title, creator: "Coat Log", producer: "Coat Log", creationDate: new Date(options.at * 1000) },
  };
  return maker.createPdf(doc).getBlob();
}
