/** Time to pixels in pieces, with tears where the scale changes. Numbers in, numbers out. */

export type Piece = { from: number; to: number; x0: number; x1: number };
export type TimeScale = {
  pieces: Piece[];
  x: (at: number) => number;
  at: (x: number) => number;
  tears: number[];
  from: number;
  to: number;
};

/** A scale over pieces given as [from, to, share of the width]; pieces without length are left out. */
export function pieceScale(parts: [number, number, number][], width: number): TimeScale {
  const real = parts.filter(([from, to, share]) => to > from && share > 0);
  const total = real.reduce((sum, [, , share]) => sum + share, 0) || 1;
  const pieces: Piece[] = [];
  let x = 0;
  for (const [from, to, share] of real) {
    const w = (width * share) / total;
    pieces.push({ from, to, x0: x, x1: x + w });
    x += w;
  }
  const first = pieces[0] ?? { from: 0, to: 1, x0: 0, x1: width };
  const last = pieces[pieces.length - 1] ?? first;
  const at = (t: number): number => {
    if (t <= first.from) return first.x0;
    const p = pieces.find((q) => t <= q.to) ?? last;
    if (t >= last.to) return last.x1;
    return p.x0 + ((t - p.from) / (p.to - p.from)) * (p.x1 - p.x0);
  };
  const back = (px: number): number => {
    const p = pieces.find((q) => px <= q.x1) ?? last;
    const share = Math.min(1, Math.max(0, (px - p.x0) / Math.max(1, p.x1 - p.x0)));
    return p.from + share * (p.to - p.from);
  };
  return { pieces, x: at, at: back, tears: pieces.slice(1).map((p) => p.x0), from: first.from, to: last.to };
}

/** Earlier | today | tonight and days, around what is planned; zoomed, the middle shows less time around `focus`. */
export function stripScale(now: number, from: number, planEnd: number, to: number, width: number, zoom = 1, focus = now): TimeScale {
  const wide = [Math.max(from, now - 2.6 * 3600), Math.max(now + 2.5 * 3600, Math.min(planEnd + 1200, now + 9 * 3600))] as const;
  const near = Math.max(from, focus - (focus - wide[0]) / zoom);
  const far = focus + (wide[1] - focus) / zoom;
  return pieceScale(
    [
      [from, near, from < near - 600 ? 0.1 : 0],
      [near, far, 0.7],
      [far, Math.max(to, far + 3600), 0.2],
    ],
    width,
  );
}

/** Whole hours (or whole steps of them) inside a piece that is wide enough to say them. */
export function ticks(scale: TimeScale): number[] {
  const out: number[] = [];
  for (const p of scale.pieces) {
    const perHour = ((p.x1 - p.x0) / (p.to - p.from)) * 3600;
    const step = perHour > 52 ? 1 : perHour > 26 ? 2 : perHour > 13 ? 4 : perHour > 3.2 ? 24 : 72;
    const stride = step * 3600;
    for (let t = Math.ceil(p.from / stride) * stride; t < p.to; t += stride) {
      if (scale.x(t) - p.x0 > 22 && p.x1 - scale.x(t) > 26) out.push(t);
    }
  }
  return out;
}

/** Rough width of a word at a size in the figure's face. */
export const wordWidth = (text: string, size: number): number => text.length * size * 0.5;

export type Label = { x: number; y: number; text: string; anchor: "start" | "end" | "middle"; rank: number };
type Box = { x0: number; x1: number; y0: number; y1: number };

/** Keep labels, most important first, that overlap none kept before and stay inside the width. */
export function placeLabels(labels: Label[], size: number, width: number, taken: Box[] = []): Label[] {
  const boxes = [...taken];
  const kept: Label[] = [];
  for (const label of [...labels].sort((a, b) => a.rank - b.rank)) {
    const w = wordWidth(label.text, size);
    const x0 = label.anchor === "end" ? label.x - w : label.anchor === "middle" ? label.x - w / 2 : label.x;
    const box = { x0: x0 - 3, x1: x0 + w + 3, y0: label.y - size, y1: label.y + 3 };
    if (box.x0 < -2 || box.x1 > width + 2) continue;
    if (boxes.some((b) => box.x0 < b.x1 && box.x1 > b.x0 && box.y0 < b.y1 && box.y1 > b.y0)) continue;
    boxes.push(box);
    kept.push(label);
  }
  return kept;
}
