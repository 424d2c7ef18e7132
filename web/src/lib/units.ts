/** Reading and entry in the units a person likes.  What is stored and computed is always metric. */
export type System = "metric" | "us";
export type Quantity = "um" | "degc" | "k" | "ml" | "g" | "m2" | "m" | "tape" | "rim" | "m_s" | "mm" | "kpa" | "voc";

type Unit = { name: string; per: number; zero?: number; digits: number };

/** shown = stored / per + zero.  Factors are exact by definition of the units. */
const UNITS: Record<System, Record<Quantity, Unit>> = {
  metric: {
    um: { name: "µm", per: 1, digits: 0 },
    degc: { name: "°C", per: 1, digits: 1 },
    k: { name: "°C", per: 1, digits: 1 },
    ml: { name: "ml", per: 1, digits: 0 },
    g: { name: "g", per: 1, digits: 0 },
    m2: { name: "m²", per: 1, digits: 2 },
    m: { name: "m", per: 1, digits: 2 },
    tape: { name: "cm", per: 0.01, digits: 1 },
    rim: { name: "in", per: 0.0254, digits: 1 },
    m_s: { name: "m/s", per: 1, digits: 1 },
    mm: { name: "mm", per: 1, digits: 1 },
    kpa: { name: "kPa", per: 1, digits: 0 },
    voc: { name: "g/l", per: 1, digits: 0 },
  },
  us: {
    um: { name: "mil", per: 25.4, digits: 1 },
    degc: { name: "°F", per: 5 / 9, zero: 32, digits: 0 },
    k: { name: "°F", per: 5 / 9, digits: 1 },
    ml: { name: "fl oz", per: 29.5735295625, digits: 1 },
    g: { name: "oz", per: 28.349523125, digits: 1 },
    m2: { name: "ft²", per: 0.09290304, digits: 1 },
    m: { name: "ft", per: 0.3048, digits: 2 },
    tape: { name: "in", per: 0.0254, digits: 1 },
    rim: { name: "in", per: 0.0254, digits: 1 },
    m_s: { name: "mph", per: 0.44704, digits: 0 },
    mm: { name: "in", per: 25.4, digits: 2 },
    kpa: { name: "psi", per: 6.894757293168, digits: 0 },
    voc: { name: "lb/gal", per: 453.59237 / 3.785411784, digits: 2 },
  },
};

export const unitName = (q: Quantity, system: System): string => UNITS[system][q].name;
export const usualDigits = (q: Quantity, system: System): number => UNITS[system][q].digits;

export function toShown(q: Quantity, value: number, system: System): number {
  const u = UNITS[system][q];
  return value / u.per + (u.zero ?? 0);
}

export function toStored(q: Quantity, shown: number, system: System): number {
  const u = UNITS[system][q];
  return (shown - (u.zero ?? 0)) * u.per;
}

/** Round marks in the shown unit from 0 up to `most` (stored), about `wanted` of them; as stored values. */
export function marks(q: Quantity, most: number, wanted: number, system: System): number[] {
  const top = toShown(q, most, system);
  const power = 10 ** Math.floor(Math.log10(Math.max(top / wanted, 1e-6)));
  const step = [1, 2, 2.5, 5, 10].map((k) => k * power).find((k) => top / k <= wanted) ?? 10 * power;
  return Array.from({ length: Math.floor(top / step + 1e-9) + 1 }, (_, i) => toStored(q, i * step, system));
}

/** A number as people type it: comma or point, spaces between thousands; NaN when it is none.
 * A unit behind it must be the one asked for: "20 mil" into a field of µm is not a number. */
export function typed(text: string, unit = ""): number {
  let t = text.trim().replace(/[\u202f\u00a0 ]/g, "");
  const wanted = unit.replace(/ /g, "");
  if (wanted && t.endsWith(wanted)) t = t.slice(0, -wanted.length);
  if (!/^[+-]?(\d+([.,]\d*)?|[.,]\d+)$/.test(t)) return NaN;
  return Number(t.replace(",", "."));
}
