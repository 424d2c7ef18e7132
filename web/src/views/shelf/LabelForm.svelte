<script lang="ts">
  /** A product by its label, like a material of its kind: a maker's PDF is read line by line, and nothing is taken without a yes. */
  import { api, inReadersWords, inWords, type Schemas } from "../../api/client";
  import { entered, field, unit } from "../../lib/format";
  import { opened } from "../../lib/opened";
  import { type Quantity, typed } from "../../lib/units";
  import { say } from "../../words";

  /** `shelf`: what it can be like.  `done`: it stands on the shelf, in words; empty: it was closed. */
  type Props = { shelf: Schemas["SheetOut"][]; done: (said: string) => void };
  let { shelf, done }: Props = $props();
  type Proposal = Schemas["Proposal"];
  type Row = { id: string; words: string; q?: Quantity; by?: number; unit: string; timed?: boolean };
  const H = 3600;
  const ROWS: Row[] = [
    { id: "ratio", words: say.label.ratio, unit: "" },
    { id: "solids", words: say.label.solids, by: 0.01, unit: "%" },
    { id: "density", words: say.label.density, by: 1, unit: "g/ml" },
    { id: "dry_min", words: say.label.dryMin, q: "um", unit: unit("um") },
    { id: "dry_max", words: say.label.dryMax, q: "um", unit: unit("um") },
    { id: "coats", words: say.label.coats, by: 1, unit: "" },
    { id: "coverage", words: say.label.coverage, q: "m2", unit: unit("m2") },
    { id: "pot", words: say.common.potLife, by: 60, unit: "min", timed: true },
    { id: "recoat_from", words: say.label.recoatFrom, by: H, unit: "h", timed: true },
    { id: "recoat_to", words: say.label.recoatTo, by: H, unit: "h", timed: true },
    { id: "touch", words: say.label.touch, by: H, unit: "h", timed: true },
    { id: "handle", words: say.label.handle, by: H, unit: "h", timed: true },
    { id: "full", words: say.label.full, by: H, unit: "h", timed: true },
    { id: "surface_min", words: say.label.surfaceMin, q: "degc", unit: unit("degc") },
    { id: "surface_max", words: say.label.surfaceMax, q: "degc", unit: unit("degc") },
    { id: "humidity", words: say.label.humidity, by: 0.01, unit: "%" },
  ];
  const blank = (): Record<string, string> => Object.fromEntries(ROWS.map((r) => [r.id, ""]));
  let like = $state("");
  let name = $state("");
  let replaces = $state(false);
  let values = $state(blank());
  let temps = $state(blank());
  let proposals = $state.raw<Proposal[]>([]);
  let yes = $state<number[]>([]);
  let said = $state("");
  let refusal = $state("");
  let busy = $state(false);
  const kinds = $derived(shelf.filter((s) => !s.sheet.aid).toSorted((a, b) => a.sheet.name.localeCompare(b.sheet.name)));
  const alike = $derived(kinds.find((s) => s.sheet.id === like)?.sheet);
  /** A label of what builds no film says how far it goes, and the other way round. */
  const rows = $derived(ROWS.filter((r) => (alike?.film ? r.id !== "coverage" : !["dry_min", "dry_max", "coats"].includes(r.id))));

  async function read(event: Event): Promise<void> {
    const file = (event.currentTarget as HTMLInputElement).files?.[0];
    if (!file) return;
    const body = new FormData();
    body.append("file", file);
    busy = true;
    const { data, error } = await api.POST("/api/sheets/read", { body: body as never, bodySerializer: (b) => b as unknown as FormData });
    busy = false;
    refusal = data ? "" : inWords(error);
    proposals = data ?? [];
    yes = [];
    said = data ? say.label.found(data.length) : "";
  }
  const rowOf = (id: string): Row | undefined => ROWS.find((r) => r.id === id);
  const number = (x: number): string => String(Number(x.toPrecision(6)));
  function shown(r: Row, p: Proposal): string {
    if (p.parts?.length) return p.parts.map(number).join(" : ");
    return r.q ? field(r.q, p.value, r.q === "degc" ? 1 : undefined) : number((p.value ?? 0) / (r.by ?? 1));
  }
  /** Taken on a yes, and given back when the yes is. */
  function answer(i: number): void {
    const p = proposals[i]!;
    const r = rowOf(p.field)!;
    const on = !yes.includes(i);
    // Of two readings of one thing a person picks one.
    yes = on ? [...yes.filter((k) => proposals[k]!.field !== p.field), i] : yes.filter((k) => k !== i);
    values[p.field] = on ? shown(r, p) : "";
    temps[p.field] = on && p.at_degc != null ? field("degc", p.at_degc, 1) : "";
  }
  function told(): Record<string, Schemas["Told"]> {
    const out: Record<string, Schemas["Told"]> = {};
    for (const r of rows) {
      const text = values[r.id]!.trim();
      if (!text) continue;
      const at = temps[r.id]!.trim() ? entered("degc", temps[r.id]!) : null;
      const parts = r.id === "ratio" ? text.split(/[:/]/).map((x) => typed(x)) : [];
      const value = r.id === "ratio" ? null : r.q ? entered(r.q, text) : typed(text, r.unit) * (r.by ?? 1);
      if ([...parts, value ?? 0, at ?? 0].some((x) => !Number.isFinite(x))) throw new Error(say.label.expected(r.words, text, r.unit));
      out[r.id] = { value, parts, at_degc: at };
    }
    return out;
  }
  async function keep(event: SubmitEvent): Promise<void> {
    event.preventDefault();
    let says: Record<string, Schemas["Told"]>;
    try {
      says = told();
    } catch (e) {
      return void (refusal = (e as Error).message);
    }
    if (!like) return void (refusal = say.label.pickAKind);
    if (!name.trim()) return void (refusal = say.label.nameIt);
    busy = true;
    const { data, error } = await api.POST("/api/sheets/label", { body: { like, name, says, replaces } });
    busy = false;
    refusal = data ? "" : inWords(error);
    if (data) done(say.label.kept(data.sheet.name, Object.keys(says).length));
  }
</script>

<form onsubmit={keep} novalidate {@attach opened(() => done(""))}>
  <h2>{say.label.title}</h2>
  <div class="grid">
    <label class="two"
      >{say.label.like}
      <select bind:value={like}
        ><option value="">{say.label.pick}</option>{#each kinds as s (s.sheet.id)}<option value={s.sheet.id}
            >{s.sheet.name}, {inReadersWords(s.sheet.kind)}</option
          >{/each}</select
      ></label
    >
    <label class="two">{say.label.name} <input bind:value={name} maxlength="80" /></label>
    <label class="two"
      >{say.label.paper} <input type="file" accept=".pdf,.txt,application/pdf,text/plain" disabled={busy} onchange={read} /></label
    >
    <label class="tick two"><input type="checkbox" bind:checked={replaces} /> {say.label.replaces}</label>
  </div>
  {#if said}<p role="status">{said}</p>{/if}
  {#if proposals.length}
    <ul>
      {#each proposals as p, i (i)}
        {@const r = rowOf(p.field)}
        {#if r}<li>
            <button type="button" class="btn small" class:go={yes.includes(i)} aria-pressed={yes.includes(i)} onclick={() => answer(i)}
              >{say.label.yes}</button
            >
            <span
              ><b>{r.words}: {shown(r, p)} {r.unit}{p.at_degc != null ? say.label.at(field("degc", p.at_degc, 1), unit("degc")) : ""}</b>
              <q>{p.text}</q> <span class="mute">{say.label.line(p.line)}</span></span
            >
          </li>{/if}
      {/each}
    </ul>
  {/if}
  <div class="grid">
    {#each rows as r (r.id)}
      <div class:pair={r.timed}>
        <label
          >{r.words}{r.unit ? `, ${r.unit}` : ""}
          <input
            inputmode="decimal"
            bind:value={values[r.id]}
            placeholder={r.id === "ratio"
              ? (alike?.components
                  .filter((c) => c.of === "ratio")
                  .map((c) => c.parts)
                  .join(" : ") ?? "")
              : say.label.typical}
          /></label
        >
        {#if r.timed}<label>{say.label.atTemp(unit("degc"))} <input inputmode="decimal" bind:value={temps[r.id]} /></label>{/if}
      </div>
    {/each}
  </div>
  <p class="mute">{say.label.rest}</p>
  {#if refusal}<p class="refusal" role="alert"><b>{refusal}</b></p>{/if}
  <div class="row">
    <button class="btn go" disabled={busy}>{say.common.save}</button>
    <button type="button" class="btn" onclick={() => done("")}>{say.common.cancel}</button>
  </div>
</form>

<style>
  form {
    display: grid;
    gap: 12px;
    padding: 14px 0;
    border-top: 2px solid var(--edge);
    border-bottom: 2px solid var(--edge);
  }
  .grid {
    display: grid;
    grid-template-columns: repeat(auto-fill, minmax(180px, 1fr));
    gap: 10px;
    align-items: end;
  }
  .pair {
    display: grid;
    grid-template-columns: 3fr 2fr;
    gap: 4px;
    align-items: end;
  }
  .two {
    grid-column: span 2;
  }
  label {
    font-weight: 640;
    font-size: 14px;
  }
  .tick {
    display: flex;
    gap: 8px;
    align-items: center;
    min-height: 44px;
  }
  .tick input {
    width: 24px;
    min-height: 24px;
    flex: none;
  }
  ul {
    list-style: none;
    padding: 0;
    display: grid;
    gap: 4px;
  }
  li {
    display: grid;
    grid-template-columns: auto 1fr;
    gap: 10px;
    align-items: center;
    border-top: 1px solid var(--rule);
    padding: 4px 0;
  }
  q {
    font-style: italic;
  }
  .row {
    display: flex;
    gap: 10px;
  }
  .refusal {
    border-left: 6px solid var(--ink);
    padding-left: 10px;
  }
  @media (max-width: 700px) {
    .two {
      grid-column: 1 / -1;
    }
  }
</style>
