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
  /** Sound film that lies there already, as the gauge shows it. */
  there: string;
  /** How many places are bare or damaged, and the edge there is to mask on one of it. */
  places: string;
  edge: string;
  /** What it must survive and what it is or hides, in words of the survey. */
  survive: string[];
  features: string[];
  dark: boolean;
  /** Key of the coating system it gets. */
  system: number;
  /** Where it stands, if not where the job does. */
  place: string;
};
export type Marks = "survive" | "features";
/** `steps`: what somebody said is done before it; kept as it came. */
export type LayerRow = {
  sheet_id: string;
  coats: string;
  um: string;
  steps?: string[] | null;
  /** On patches alone: how many, and how large across or in all, as typed. */
  patches?: { n: string; across: string; area: string; along: string } | null;
  /** Parts that get another number of coats of it, by key of the part. */
  coats_on?: Record<number, string>;
};
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
  there: "",
  places: "",
  edge: "",
  survive: [],
  features: [],
  dark: false,
  system: 0,
  place: "",
  ...known,
});

/** A coating system being put together: the wish, two options of which one is chosen, what was decided. */
export class SystemRow {
  readonly key = ++rows;
  /** What the finish is to be, in words of the survey. */
  wanted = $state<string[]>([]);
  /** How the surface is prepared, as the server names it; empty: as it is found. */
  prep = $state<Record<Side, string>>({ a: "", b: "" });
  /** Where painters differ: the way taken here, by question. */
  ways = $state<Record<string, string>>({});
  a = $state<LayerRow[]>([]);
  b = $state<LayerRow[]>([]);
  chosen = $state<Side>("a");
  rejectedWhy = $state("");
}

export class Draft {
  title = $state("");
  asset = $state("");
  kind = $state(session.who?.works_on[0] ?? "road");
  mark = $state("");
  paint_code = $state("");
  customer = $state("");
  place = $state(session.places[0]?.id ?? "");
  parts = $state<PartRow[]>([]);
  /** The coating systems of the job; most have one.  What is edited is that at `at`. */
  systems = $state<SystemRow[]>([new SystemRow()]);
  at = $state(0);
  /** How long it must last and how soon it must be in use, seconds as text; empty: not asked. */
  life = $state("");
  within = $state("");
  /** Whether the steps of the list stand in the plan, or the coats alone. */
  planSteps = $state(true);
  /** How often a usual thing was taken: what is wanted of it is known, and offers for it can be looked for. */
  taken = $state(0);
  /** How often the shop has answered a question from here: what was judged before is judged again. */
  answers = $state(0);
  reasons = $state<Record<string, string>>({});
  shelf = $state.raw<Schemas["SheetOut"][]>([]);
  survey = $state.raw<Schemas["SurveyOut"] | null>(null);
  /** A job taken over is there; until then nobody should type into what will be replaced. */
  loaded = $state(false);

  /** Pins on the damage pictures of the job that is changed, by id of the part. */
  pins = $state.raw<Record<string, number>>({});

  /** Why the words and sheets this form is made of, or the job it takes over, have not come. */
  problem = $state("");
  #over: { jobId: string; copy: boolean; repair: boolean } | null = null;

  get now(): SystemRow {
    return this.systems[this.at] ?? this.systems[0]!;
  }
  get wanted(): string[] {
    return this.now.wanted;
  }
  set wanted(words: string[]) {
    this.now.wanted = words;
  }
  get prep(): Record<Side, string> {
    return this.now.prep;
  }
  set prep(ways: Record<Side, string>) {
    this.now.prep = ways;
  }
  get ways(): Record<string, string> {
    return this.now.ways;
  }
  get a(): LayerRow[] {
    return this.now.a;
  }
  set a(layers: LayerRow[]) {
    this.now.a = layers;
  }
  get b(): LayerRow[] {
    return this.now.b;
  }
  set b(layers: LayerRow[]) {
    this.now.b = layers;
  }
  get chosen(): Side {
    return this.now.chosen;
  }
  set chosen(side: Side) {
    this.now.chosen = side;
  }
  get rejectedWhy(): string {
    return this.now.rejectedWhy;
  }
  set rejectedWhy(text: string) {
    this.now.rejectedWhy = text;
  }
  /** The parts that get a system; those of the one being edited. */
  partsOf(system: SystemRow = this.now): PartRow[] {
    return this.parts.filter((p) => p.system === system.key);
  }
  /** Whether something is bare or damaged in places, so that some layers may lie on those alone. */
  hurt(p: PartRow): boolean {
    return Boolean(p.bare.trim() || p.hole.trim()) || p.features.some((x) => ["dents", "scratches", "holes"].includes(x));
  }
  /** Systems other than this one that a material is mixed for too. */
  sharedWith(sheet_id: string, system: SystemRow): SystemRow[] {
    return this.systems.filter((s) => s !== system && s[s.chosen].some((l) => l.sheet_id === sheet_id));
  }
  /** Systems by the names of their parts. */
  systemName(system: SystemRow): string {
    const names = this.partsOf(system).map((p) => p.name.trim() || say.common.part);
    return names.length > 2 ? `${names.slice(0, 2).join(", ")} +${names.length - 2}` : names.join(", ");
  }
  /** Give a part another system; 0: one of its own.  A system without parts is gone. */
  move(p: PartRow, key: number): void {
    if (!key) {
      const own = new SystemRow();
      this.systems.push(own);
      key = own.key;
    }
    p.system = key;
    const kept = this.systems.filter((s) => this.parts.some((x) => x.system === s.key));
    this.systems = kept;
    this.at = Math.max(
      0,
      kept.findIndex((s) => s.key === key),
    );
  }

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
      !this.#over || this.loaded || this.load(this.#over.jobId, this.#over.copy, this.#over.repair),
    ]);
  }
  #came<T>(error: unknown, data: T | undefined, take: (data: T) => void): void {
    if (data !== undefined) take(data);
    else this.problem = inWords(error);
  }

  /** Take over a job as it stands.  A copy gets parts of its own. */
  async load(jobId: string, copy: boolean, repair = false): Promise<void> {
    this.#over = { jobId, copy, repair };
    const params = { path: { job_id: jobId }, query: { repair } };
    const { data, error } = await api.GET("/api/jobs/{job_id}/draft", { params });
    if (!data) return void (this.problem = inWords(error));
    this.title = data.title;
    this.asset = data.asset;
    this.kind = data.asset_kind;
    this.mark = data.mark;
    this.paint_code = data.paint_code;
    this.customer = data.customer;
    this.place = data.place_id;
    const patched = (l: Schemas["LayerIn"]): LayerRow["patches"] =>
      l.patches
        ? {
            n: String(l.patches.n ?? 1),
            across: field("mm", l.patches.across_mm),
            along: field("m", l.patches.along_m, 2),
            area: l.patches.across_mm ? "" : field("m2", l.patches.area_m2, 4),
          }
        : null;
    const took = (layers: Schemas["LayerIn"][], choices: Record<string, string>): SystemRow => {
      const s = new SystemRow();
      s.prep = { a: choices.prep ?? "", b: "" };
      s.wanted = (choices.wanted ?? "").split(" ").filter(Boolean);
      s.ways = Object.fromEntries(Object.entries(choices).flatMap(([k, v]) => (k.startsWith("way.") ? [[k.slice(4), v]] : [])));
      s.a = layers.map((l) => ({
        sheet_id: l.sheet_id,
        coats: String(l.coats),
        um: field("um", l.target_um),
        steps: l.steps,
        patches: patched(l),
      }));
      return s;
    };
    this.systems = [took(data.layers, data.choices ?? {}), ...(data.systems ?? []).map((s) => took(s.layers, s.choices ?? {}))];
    this.at = 0;
    this.life = data.choices?.life_s ?? "";
    this.within = data.choices?.ready_s ?? "";
    this.planSteps = data.choices?.steps === "planned";
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
        damage: copy && !repair ? "" : p.damage,
        set_name: p.set_name,
        shape_text: p.shape_text,
        faces,
        bare: field("mm", p.bare_mm),
        hole: field("mm", p.hole_mm),
        there: field("um", p.there_um),
        places: p.patch_n ? String(p.patch_n) : "",
        edge: field("m", p.edge_m, 2),
        survive: [...(p.must_survive ?? [])],
        features: [...(p.features ?? [])],
        dark: p.dark ?? false,
        system: (this.systems[p.system ?? 0] ?? this.systems[0]!).key,
        place: p.place_id ?? "",
      });
    });
    for (const [k, s] of [data, ...(data.systems ?? [])].entries())
      for (const [i, l] of s.layers.entries())
        this.systems[k]!.a[i]!.coats_on = Object.fromEntries(
          Object.entries(l.coats_on ?? {}).flatMap(([at, n]) => {
            const part = this.parts[Number(at)];
            return part ? [[part.key, String(n)]] : [];
          }),
        );
    this.pins = Object.fromEntries(data.parts.flatMap((p) => (p.id && data.pins?.[p.id] ? [[p.id, data.pins[p.id]!]] : [])));
    this.loaded = true;
  }

  addPart(): void {
    const last = this.partsOf().at(-1);
    this.parts.push(
      row({
        system: this.now.key,
        substrate: last?.substrate ?? "sound_paint",
        condition: last?.condition ?? "",
        survive: [...(last?.survive ?? [])],
        features: [...(last?.features ?? [])],
        dark: last?.dark ?? false,
      }),
    );
  }

  /** A large part as so many sections, each with its share of the area; what was typed of shape and edge is for the whole. */
  cut(p: PartRow, n: number): void {
    const i = this.parts.findIndex((x) => x.key === p.key);
    const whole = entered("m2", p.area);
    if (i < 0 || !Number.isInteger(n) || n < 2 || n > 40 || !(whole > 0)) return;
    const share = (text: string): string => (entered("m2", text) > 0 ? field("m2", entered("m2", text) / n, 4) : text);
    const sections = Array.from({ length: n }, (_, k) => {
      const faces = noFaces();
      for (const f of FACINGS) faces[f] = share(p.faces[f]);
      return row({
        ...$state.snapshot(p),
        key: ++rows,
        id: k === 0 ? p.id : null,
        name: `${p.name.trim() || say.common.part} ${k + 1}`,
        area: field("m2", whole / n, 4),
        shape: "",
        shape_text: "",
        measures: {},
        edge: "",
        faces,
        survive: [...p.survive],
        features: [...p.features],
        set_name: p.name.trim(),
      });
    });
    this.parts.splice(i, 1, ...sections);
  }

  /** Take a part away, and the system that was its alone. */
  drop(i: number): void {
    this.parts.splice(i, 1);
    const kept = this.systems.filter((s) => this.parts.some((p) => p.system === s.key));
    const was = this.now.key;
    this.systems = kept;
    this.at = Math.max(
      0,
      kept.findIndex((s) => s.key === was),
    );
  }

  /** What all parts of the system have, and what only some have. */
  common(what: Marks): { all: string[]; some: string[] } {
    const parts = this.partsOf();
    const any = parts.flatMap((p) => p[what]).filter((id, i, list) => list.indexOf(id) === i);
    const all = any.filter((id) => parts.every((p) => p[what].includes(id)));
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
  /** The same of all parts of the system: on where one lacks it, else off. */
  tickAll(what: Marks, id: string): void {
    const on = !this.common(what).all.includes(id);
    for (const p of this.partsOf()) this.tick(p, what, id, on);
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
    this.taken += 1;
    if (t.kind !== "any") this.kind = t.kind;
    const groups = t.parts.map((p) => p.system ?? 0).filter((of, i, all) => all.indexOf(of) === i);
    this.systems = groups.map((of) => {
      const s = new SystemRow();
      s.wanted = [...(t.parts.find((p) => (p.system ?? 0) === of && p.wanted)?.wanted ?? t.wanted)];
      return s;
    });
    this.at = 0;
    if (!this.title.trim() || this.survey?.templates.some((x) => x.name === this.title)) this.title = t.name;
    this.parts = t.parts.map((p) => {
      const faces = noFaces();
      for (const f of FACINGS) faces[f] = field("m2", p.faces?.[f], 3);
      return row({
        name: p.name,
        area: field("m2", p.area_m2, 3),
        substrate: p.substrate || t.substrate,
        count: String(p.count ?? 1),
        as_set: p.as_set ?? false,
        shape: p.shape ?? "",
        measures: Object.fromEntries(
          Object.entries(p.measures ?? {}).map(([name, value]) => {
            const q = this.quantity(p.shape ?? "", name);
            return [name, q ? field(q, value, 3) : String(value)];
          }),
        ),
        edge: field("m", p.edge_m, 2),
        faces,
        faces_assumed: true,
        survive: [...(p.survives ?? t.survives)],
        features: [...(p.features ?? t.features)],
        system: this.systems[groups.indexOf(p.system ?? 0)]!.key,
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

  /** An offer taken as it stands: its preparation, its layers, and which of them lie on damaged places alone. */
  take(side: Side, offer: Schemas["CandidateOut"], system: SystemRow = this.now): void {
    system[side] = offer.layers.map((l) => ({
      sheet_id: l.sheet_id,
      coats: String(l.coats),
      um: field("um", l.target_um),
      patches: l.patches ? { n: String(l.patches.n ?? 1), across: field("mm", l.patches.across_mm), area: "", along: "" } : null,
    }));
    system.prep[side] = offer.prep;
  }

  /** Another number of coats, each as thick as before: the film of the layer follows. */
  recoat(l: LayerRow, coats: string): void {
    const [was, now, um] = [typed(l.coats), typed(coats), entered("um", l.um)];
    if (Number.isInteger(was) && was > 0 && Number.isInteger(now) && now > 0 && um > 0) l.um = field("um", (um * now) / was);
    l.coats = coats;
  }

  /** A strip of the same material over edges, seams or a waterline, right above the layer: one coat, to be measured. */
  addStrip(side: Side, i: number): void {
    const l = this[side][i];
    if (!l) return;
    const each = this.usualUm(l.sheet_id, 1);
    const strip = { n: "1", across: "", area: "", along: "" };
    this[side].splice(i + 1, 0, { sheet_id: l.sheet_id, coats: "1", um: each ? field("um", each) : "", patches: strip });
  }

  /** The layers of one side that are whole enough to be judged; `among`: the parts they are sent with. */
  layers(side: Side, system: SystemRow = this.now, among: PartRow[] = this.partsOf(system)): Schemas["LayerIn"][] {
    return system[side].flatMap((l) => {
      const coats = typed(l.coats);
      const um = entered("um", l.um);
      if (!Number.isInteger(coats) || coats < 1 || coats > 40) return [];
      const target_um = um > 0 && this.sheet(l.sheet_id)?.film ? um : undefined;
      const patches = l.patches ? this.#patches(l.patches) : null;
      if (l.patches && !patches) return [];
      const coats_on = Object.fromEntries(
        among.flatMap((p, at) => {
          const n = typed(l.coats_on?.[p.key] ?? "");
          return p.system === system.key && Number.isInteger(n) && n >= 1 && n <= 40 && n !== coats ? [[at, n]] : [];
        }),
      );
      return [{ sheet_id: l.sheet_id, coats, target_um, steps: l.steps, patches, coats_on }];
    });
  }

  /** Patches as they are stored; null while they are not typed. */
  #patches(p: NonNullable<LayerRow["patches"]>): Schemas["PatchesIn"] | null {
    const [n, across, area, along] = [typed(p.n), entered("mm", p.across), entered("m2", p.area), entered("m", p.along)];
    if (!Number.isInteger(n) || n < 1 || n > 10000) return null;
    if (p.along.trim())
      return along > 0 && along <= 1000 && across > 0 && across <= 5000 ? { n, along_m: along, across_mm: across, area_m2: null } : null;
    if (p.area.trim()) return area > 0 && area <= 10000 ? { n, area_m2: area, across_mm: null } : null;
    return across > 0 && across <= 5000 ? { n, across_mm: across, area_m2: null } : null;
  }

  /** Parts for judging: what is not typed yet is left out. */
  rough(system: SystemRow = this.now): Schemas["PartIn"][] {
    return this.partsOf(system).map((p) => ({ ...this.#part(p), system: 0 }));
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
      patch_n: Number.isInteger(typed(p.places)) && typed(p.places) >= 1 ? typed(p.places) : null,
      edge_m: p.edge.trim() && entered("m", p.edge) >= 0 ? entered("m", p.edge) : null,
      there_um: p.there.trim() && entered("um", p.there) > 0 ? entered("um", p.there) : null,
      hole_mm: p.hole.trim() && entered("mm", p.hole) >= 0 ? entered("mm", p.hole) : null,
      damage: p.damage,
      set_name: p.set_name,
      shape_text: p.shape ? "" : p.shape_text,
      system: Math.max(
        0,
        this.systems.findIndex((s) => s.key === p.system),
      ),
      place_id: p.place || null,
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
    for (const s of this.systems)
      if (!s[s.chosen].length) return this.systems.length > 1 ? say.draft.addALayerFor(this.systemName(s)) : say.draft.addAtLeastOneLayer;
    for (const l of this.systems.flatMap((s) => s[s.chosen])) {
      const name = this.sheet(l.sheet_id)?.name ?? say.draft.layer;
      const coats = typed(l.coats);
      if (!(Number.isInteger(coats) && coats >= 1 && coats <= 40)) return say.draft.coatsOfEnteredExpectedA(name, l.coats);
      if (l.patches && !this.#patches(l.patches)) return say.draft.patchesOf(name, unit("mm"), unit("m2"));
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

  words(side: Side, system: SystemRow = this.now): string {
    return this.layers(side, system)
      .map((l) => `${l.coats} × ${this.sheet(l.sheet_id)?.name}`)
      .join(", ");
  }

  /** What was chosen for one system. */
  #choicesOf(s: SystemRow): Record<string, string> {
    const other: Side = s.chosen === "a" ? "b" : "a";
    const choices: Record<string, string> = {};
    if (s[other].length) choices.rejected = this.words(other, s);
    if (s.prep[s.chosen]) choices.prep = s.prep[s.chosen];
    if (s.wanted.length) choices.wanted = s.wanted.join(" ");
    for (const [id, way] of Object.entries(s.ways)) choices[`way.${id}`] = way;
    if (s[other].length && s.rejectedWhy.trim()) choices.rejected_why = s.rejectedWhy.trim();
    return choices;
  }

  stack(): Pick<Schemas["JobIn"], "parts" | "layers" | "overrules" | "choices" | "systems"> {
    const [first, ...others] = this.systems;
    const choices = this.#choicesOf(first!);
    if (this.life) choices.life_s = this.life;
    if (this.within) choices.ready_s = this.within;
    if (this.planSteps) choices.steps = "planned";
    return {
      parts: this.parts.map((p) => ({ ...this.#part(p), name: p.name })),
      layers: this.layers(first!.chosen, first, this.parts),
      systems: others.map((s) => ({ layers: this.layers(s.chosen, s, this.parts), choices: this.#choicesOf(s) })),
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
