/** A job being written down: object, survey, and two stacks of which one is chosen.
 *
 * Fields hold what was typed, in the reader's units; `body` turns it into what the server takes, or
 * says which field is wrong.
 */
import { api, inWords, type Schemas, type Sheet } from "../api/client";
import { entered, field, unit } from "./format";
import { session } from "./session.svelte";
import { type Quantity, typed } from "./units";
import { say } from "../words";

export type PartRow = {
  /** Names the row on this page, before the part has an id of its own. */
  key: number;
  id: string | null;
  name: string;
  area: string;
  substrate: string;
  condition: string;
  count: string;
  as_set: boolean;
  shape: string;
  measures: Record<string, string>;
  damage: string;
  set_name: string;
  shape_text: string;
  faces: Record<Facing, string>;
  faces_assumed: boolean;
  bare: string;
  hole: string;
  /** What it must survive and what it is or hides, in words of the survey. */
  survive: string[];
  features: string[];
  dark: boolean;
};
export type Marks = "survive" | "features";
/** `steps`: what somebody said is done before it; kept as it came. */
export type LayerRow = { sheet_id: string; coats: string; um: string; steps?: string[] | null };
export type Facing = "up" | "side" | "down" | "inside";
export type Side = "a" | "b";
export const FACINGS: Facing[] = ["up", "side", "down", "inside"];
const noFaces = (): Record<Facing, string> => ({ up: "", side: "", down: "", inside: "" });
/** Whether a feature may stand beside "none of these": where it is, what is under it, what is broken. */
const besideNone = (id: string, draft: Draft): boolean => draft.survey?.features.find((f) => f.id === id)?.group !== "is or hides";
let rows = 0;
const row = (known: Partial<PartRow>): PartRow => ({
  key: ++rows,
  id: null,
  name: "",
  area: "",
  substrate: "sound_paint",
  condition: "",
  count: "1",
  as_set: false,
  shape: "",
  measures: {},
  damage: "",
  set_name: "",
  shape_text: "",
  faces: noFaces(),
  faces_assumed: false,
  bare: "",
  hole: "",
  survive: [],
  features: [],
  dark: false,
  ...known,
});

export class Draft {
  title = $state("");
  asset = $state("");
  kind = $state("road");
  mark = $state("");
  paint_code = $state("");
  customer = $state("");
  place = $state(session.who?.places[0]?.id ?? "");
  parts = $state<PartRow[]>([]);
  /** What the finish is to be, in words of the survey. */
  wanted = $state<string[]>([]);
  /** How long it must last and how soon it must be in use, seconds as text; empty: not asked. */
  life = $state("");
  within = $state("");
  /** How the surface is prepared, as the server names it; empty: as it is found. */
  prep = $state<Record<Side, string>>({ a: "", b: "" });
  /** Whether the steps of the list stand in the plan, or the coats alone. */
  planSteps = $state(true);
  /** Where painters differ: the way taken here, by question. */
  ways = $state<Record<string, string>>({});
  a = $state<LayerRow[]>([]);
  b = $state<LayerRow[]>([]);
  chosen = $state<Side>("a");
  rejectedWhy = $state("");
  /** How often the shop has answered a question from here: what was judged before is judged again. */
  answers = $state(0);
  reasons = $state<Record<string, string>>({});
  shelf = $state.raw<Schemas["SheetOut"][]>([]);
  survey = $state.raw<Schemas["SurveyOut"] | null>(null);
  /** A job taken over is there; until then nobody should type into what will be replaced. */
  loaded = $state(false);

  /** Why the words and sheets this form is made of, or the job it takes over, have not come. */
  problem = $state("");
  #over: { jobId: string; copy: boolean } | null = null;

  constructor() {
    this.addPart();
    void this.fetch();
  }

  /** What the form is made of; asked again for what has not come. */
  async fetch(): Promise<void> {
    this.problem = "";
    await Promise.all([
      this.shelf.length || api.GET("/api/shelf").then(({ data, error }) => this.#came(error, data, (x) => (this.shelf = x))),
      this.survey || api.GET("/api/survey").then(({ data, error }) => this.#came(error, data, (x) => (this.survey = x))),
      !this.#over || this.loaded || this.load(this.#over.jobId, this.#over.copy),
    ]);
  }
  #came<T>(error: unknown, data: T | undefined, take: (data: T) => void): void {
    if (data !== undefined) take(data);
    else this.problem = inWords(error);
  }

  /** Take over a job as it stands.  A copy gets parts of its own. */
  async load(jobId: string, copy: boolean): Promise<void> {
    this.#over = { jobId, copy };
    const { data, error } = await api.GET("/api/jobs/{job_id}/draft", { params: { path: { job_id: jobId } } });
    if (!data) return void (this.problem = inWords(error));
    this.title = data.title;
    this.asset = data.asset;
    this.kind = data.asset_kind;
    this.mark = data.mark;
    this.paint_code = data.paint_code;
    this.customer = data.customer;
    this.place = data.place_id;
    this.prep = { a: data.choices?.prep ?? "", b: "" };
    this.wanted = (data.choices?.wanted ?? "").split(" ").filter(Boolean);
    this.life = data.choices?.life_s ?? "";
    this.within = data.choices?.ready_s ?? "";
    this.planSteps = data.choices?.steps === "planned";
    this.ways = Object.fromEntries(Object.entries(data.choices ?? {}).flatMap(([k, v]) => (k.startsWith("way.") ? [[k.slice(4), v]] : [])));
    this.parts = data.parts.map((p) => {
      const faces = noFaces();
      for (const f of p.faces ?? []) faces[f.facing] = field("m2", f.area_m2, 3);
      return row({
        id: copy ? null : (p.id ?? null),
        name: p.name,
        area: field("m2", p.area_m2, 4),
        substrate: p.substrate,
        condition: p.condition,
        count: String(p.count),
        damage: copy ? "" : p.damage,
        set_name: p.set_name,
        shape_text: p.shape_text,
        faces,
        bare: field("mm", p.bare_mm),
        hole: field("mm", p.hole_mm),
        survive: [...(p.must_survive ?? [])],
        features: [...(p.features ?? [])],
        dark: p.dark ?? false,
      });
    });
    this.a = data.layers.map((l) => ({ sheet_id: l.sheet_id, coats: String(l.coats), um: field("um", l.target_um), steps: l.steps }));
    this.b = [];
    this.chosen = "a";
    this.loaded = true;
  }

  addPart(): void {
    const last = this.parts.at(-1);
    this.parts.push(
      row({
        substrate: last?.substrate ?? "sound_paint",
        condition: last?.condition ?? "",
        survive: [...(last?.survive ?? [])],
        features: [...(last?.features ?? [])],
        dark: last?.dark ?? false,
      }),
    );
  }

  /** What all parts have, and what only some have. */
  common(what: Marks): { all: string[]; some: string[] } {
    const any = this.parts.flatMap((p) => p[what]).filter((id, i, list) => list.indexOf(id) === i);
    const all = any.filter((id) => this.parts.every((p) => p[what].includes(id)));
    return { all, some: any.filter((id) => !all.includes(id)) };
  }
  /** Features that are met on such a thing, and any that are marked. */
  featuresAsked(marks: { all: string[]; some: string[] }): Schemas["FeatureOut"][] {
    const marked = [...marks.all, ...marks.some];
    return (this.survey?.features ?? []).filter((x) => x.kind === "any" || x.kind === this.kind || marked.includes(x.id));
  }
  /** Mark one part, or take the mark away.  "None of these" and any of these shut each other out. */
  tick(p: PartRow, what: Marks, id: string, on: boolean): void {
    const rest = p[what].filter((x) => x !== id && (!on || what !== "features" || (id === "none" ? besideNone(x, this) : x !== "none")));
    p[what] = on ? [...rest, id] : rest;
  }
  /** The same of all parts: on where one lacks it, else off. */
  tickAll(what: Marks, id: string): void {
    const on = !this.common(what).all.includes(id);
    for (const p of this.parts) this.tick(p, what, id, on);
  }

  /** In what a measure of a shape is asked for; null: a plain number. */
  quantity(shape: string, name: string): Quantity | null {
    const taken = this.survey?.shapes.find((s) => s.id === shape)?.measures.find((m) => m.name === name)?.taken;
    return taken === undefined || taken === "number" ? null : taken === "length" ? "m" : taken;
  }
  /** A measure as it is stored; NaN for what is no number of its unit. */
  measured(shape: string, name: string, text: string): number {
    const q = this.quantity(shape, name);
    return q ? entered(q, text) : typed(text);
  }

  /** The parts, surface and service of a usual thing; what was typed before is replaced. */
  like(id: string): void {
    const t = this.survey?.templates.find((x) => x.id === id);
    if (!t) return;
    if (t.kind !== "any") this.kind = t.kind;
    this.wanted = [...t.wanted];
    this.parts = t.parts.map((p) => {
      const faces = noFaces();
      for (const f of FACINGS) faces[f] = field("m2", p.faces?.[f], 3);
      return row({
        name: p.name,
        area: field("m2", p.area_m2, 3),
        substrate: t.substrate,
        count: String(p.count ?? 1),
        as_set: p.as_set ?? false,
        faces,
        faces_assumed: true,
        survive: [...t.survives],
        features: [...t.features],
      });
    });
  }

  sheet(id: string): Sheet | undefined {
    return this.shelf.find((s) => s.sheet.id === id)?.sheet;
  }

  /** Dry film of a layer nobody typed one for: what so many coats usually leave [µm]. */
  usualUm(id: string, coats: number): number {
    return coats * (this.shelf.find((s) => s.sheet.id === id)?.coat_um ?? 0);
  }

  addLayer(side: Side, id: string): void {
    const on = this.shelf.find((s) => s.sheet.id === id);
    if (on) this[side].push({ sheet_id: id, coats: String(on.usual_coats), um: field("um", on.usual_um) });
  }

  /** The layers of one side that are whole enough to be judged. */
  layers(side: Side): { sheet_id: string; coats: number; target_um?: number; steps?: string[] | null }[] {
    return this[side].flatMap((l) => {
      const coats = typed(l.coats);
      const um = entered("um", l.um);
      if (!Number.isInteger(coats) || coats < 1 || coats > 40) return [];
      return [{ sheet_id: l.sheet_id, coats, target_um: um > 0 && this.sheet(l.sheet_id)?.film ? um : undefined, steps: l.steps }];
    });
  }

  /** Parts for judging: what is not typed yet is left out. */
  rough(): Schemas["PartIn"][] {
    return this.parts.map((p) => this.#part(p));
  }

  #part(p: PartRow): Schemas["PartIn"] {
    const m2 = entered("m2", p.area);
    const faces = FACINGS.map((facing) => ({ facing, area_m2: entered("m2", p.faces[facing]) })).filter((f) => f.area_m2 > 0);
    const measures = Object.fromEntries(
      Object.entries(p.measures)
        .filter(([, v]) => v.trim())
        .map(([k, v]): [string, number] => [k, this.measured(p.shape, k, v)])
        .filter(([, value]) => Number.isFinite(value)), // half typed: `wrong` says so before anything is kept
    );
    const count = typed(p.count);
    return {
      id: p.id,
      name: p.name.trim() || "part",
      area_m2: !p.shape && m2 > 0 ? m2 : null,
      substrate: p.substrate,
      condition: p.condition,
      count: Number.isInteger(count) && count > 0 ? count : 1,
      as_set: p.as_set,
      faces_assumed: p.faces_assumed,
      shape: p.shape,
      measures: p.shape ? measures : {},
      faces,
      must_survive: p.survive,
      features: p.features,
      dark: p.dark,
      bare_mm: p.bare.trim() && entered("mm", p.bare) >= 0 ? entered("mm", p.bare) : null,
      hole_mm: p.hole.trim() && entered("mm", p.hole) >= 0 ? entered("mm", p.hole) : null,
      damage: p.damage,
      set_name: p.set_name,
      shape_text: p.shape ? "" : p.shape_text,
    };
  }

  /** The first thing that cannot be taken, in words; empty: nothing. */
  wrong(): string {
    if (!this.title.trim()) return say.draft.enterAJobTitle;
    if (!this.asset.trim()) return say.draft.enterTheVehicleBoatOr;
    for (const p of this.parts) {
      const name = p.name.trim();
      if (!name) return say.draft.aPartHasNoName;
      const m2 = entered("m2", p.area);
      const most = 10000;
      if (!p.shape && !(m2 > 0 && m2 <= most)) return say.draft.areaOfEnteredExpectedA(name, p.area, unit("m2"), field("m2", most, 0));
      const count = typed(p.count);
      if (!(Number.isInteger(count) && count >= 1 && count <= 1000)) return say.draft.quantityOfEnteredExpectedA(name, p.count);
      for (const [k, v] of Object.entries(p.measures)) {
        const q = this.quantity(p.shape, k);
        if (p.shape && v.trim() && !Number.isFinite(this.measured(p.shape, k, v)))
          return say.draft.ofEnteredExpectedANumber(k.replace(/_m$/, ""), name, v, q ? say.draft.inLabel(unit(q)) : "");
      }
      for (const f of FACINGS) {
        const text = p.faces[f];
        if (text.trim() && !(entered("m2", text) >= 0)) return say.draft.facingEnteredExpected(name, f, text, unit("m2"));
      }
    }
    const rows = this[this.chosen];
    if (!rows.length) return say.draft.addAtLeastOneLayer;
    for (const l of rows) {
      const name = this.sheet(l.sheet_id)?.name ?? say.draft.layer;
      const coats = typed(l.coats);
      if (!(Number.isInteger(coats) && coats >= 1 && coats <= 40)) return say.draft.coatsOfEnteredExpectedA(name, l.coats);
      if (this.sheet(l.sheet_id)?.film && l.um.trim() && !(entered("um", l.um) > 0 && entered("um", l.um) <= 20000))
        return say.draft.dftOfEnteredExpectedA(name, l.um, unit("um"));
    }
    return "";
  }

  prepWords(side: Side): string {
    return this.prep[side]
      .split("+")
      .map((id) => this.survey?.preps.find((p) => p.id === id)?.name ?? id)
      .join(say.common.then);
  }

  words(side: Side): string {
    return this.layers(side)
      .map((l) => `${l.coats} × ${this.sheet(l.sheet_id)?.name}`)
      .join(", ");
  }

  stack(): Pick<Schemas["JobIn"], "parts" | "layers" | "overrules" | "choices"> {
    const other: Side = this.chosen === "a" ? "b" : "a";
    const choices: Record<string, string> = {};
    if (this[other].length) choices.rejected = this.words(other);
    if (this.prep[this.chosen]) choices.prep = this.prep[this.chosen];
    if (this.wanted.length) choices.wanted = this.wanted.join(" ");
    if (this.life) choices.life_s = this.life;
    if (this.within) choices.ready_s = this.within;
    if (this.planSteps) choices.steps = "planned";
    for (const [id, way] of Object.entries(this.ways)) choices[`way.${id}`] = way;
    if (this[other].length && this.rejectedWhy.trim()) choices.rejected_why = this.rejectedWhy.trim();
    return {
      parts: this.parts.map((p) => ({ ...this.#part(p), name: p.name })),
      layers: this.layers(this.chosen),
      overrules: Object.entries(this.reasons)
        .filter(([, r]) => r.trim())
        .map(([rule_id, reason]) => ({ rule_id, reason })),
      choices,
    };
  }

  job(): Schemas["JobIn"] {
    return {
      ...this.stack(),
      title: this.title,
      asset: this.asset,
      asset_kind: this.kind,
      mark: this.mark,
      paint_code: this.paint_code,
      customer: this.customer,
      place_id: this.place,
    };
  }
}
