<script lang="ts">
  /** The shop: its hours and usual air, its people and places, one's own password. */
  import { api, inWords, type Schemas } from "../../api/client";
  import { entered, field, unit } from "../../lib/format";
  import { session } from "../../lib/session.svelte";
  import { typed } from "../../lib/units";

  let page = $state.raw<Schemas["ShopPage"] | null>(null);
  let refusal = $state("");
  let said = $state("");
  let shop = $state({
    name: "",
    time_zone: "",
    opens: "",
    closes: "",
    painters: "1",
    guns: "2",
    air: "",
    rh: "",
    currency: "",
    voc: "",
    lessWater: true,
    has: [] as string[],
  });
  let person = $state({ username: "", password: "", role: "painter" });
  let place = $state<{ name: string; has_probe: boolean; outdoors: boolean; holds: number | null }>({
    name: "",
    has_probe: false,
    outdoors: false,
    holds: null,
  });
  type Preferences = NonNullable<typeof session.who>["preferences"];
  const asForm = (p: Preferences) => ({ ...p, comb: p.comb_um.map((t) => field("um", t)).join(" ") });
  let prefs = $state(asForm(session.who!.preferences));
  let password = $state({ old: "", new: "" });
  const owner = $derived(session.who?.role === "owner");
  /** Nothing is typed over what has not come yet, nor kept in its place. */
  const fillable = $derived(owner && page !== null);
  const zones = Intl.supportedValuesOf("timeZone");

  /** `fill`: the form too; what is being typed into it outlives a person who is added. */
  async function load(fill = true): Promise<void> {
    const { data, error } = await api.GET("/api/shop");
    if (!data) return void (refusal = inWords(error));
    page = data;
    if (!fill) return;
    const s = data.shop;
    shop = {
      name: s.name,
      time_zone: s.time_zone,
      opens: s.opens.slice(0, 5),
      closes: s.closes.slice(0, 5),
      painters: String(s.painters),
      guns: String(s.guns),
      air: field("degc", s.default_air_degc),
      rh: String(Math.round(s.default_rh_frac * 100)),
      currency: s.currency,
      voc: s.voc_limit_g_per_l == null ? "" : String(s.voc_limit_g_per_l),
      lessWater: s.voc_less_water,
      has: s.has ?? [],
    };
  }
  $effect(() => void load());

  function answer(error: unknown, words: string): boolean {
    refusal = error ? inWords(error) : "";
    said = error ? "" : words;
    return !error;
  }
  async function saveShop(event: SubmitEvent): Promise<void> {
    event.preventDefault();
    const [painters, guns, air, rh] = [typed(shop.painters), typed(shop.guns), entered("degc", shop.air), typed(shop.rh, "%") / 100];
    const voc = shop.voc.trim() ? typed(shop.voc, "g/l") : null;
    for (const [name, text] of [
      ["Opens", shop.opens],
      ["Closes", shop.closes],
    ] as const) {
      if (!/^([01]\d|2[0-3]):[0-5]\d$/.test(text.trim())) return void (refusal = `${name}: "${text}" given, expected a time like 07:30.`);
    }
    if (!Number.isInteger(painters)) return void (refusal = `Painters: "${shop.painters}" given, expected a whole number.`);
    if (!Number.isInteger(guns)) return void (refusal = `Guns: "${shop.guns}" given, expected a whole number.`);
    if (!Number.isFinite(air)) return void (refusal = `Usual air: "${shop.air}" given, expected ${unit("degc")}.`);
    if (!Number.isFinite(rh)) return void (refusal = `Usual humidity: "${shop.rh}" given, expected 5 to 100 %.`);
    if (voc !== null && !Number.isFinite(voc)) return void (refusal = `VOC limit: "${shop.voc}" given, expected g/l, or nothing.`);
    const body = {
      name: shop.name,
      time_zone: shop.time_zone,
      opens: shop.opens,
      closes: shop.closes,
      painters,
      guns,
      default_air_degc: air,
      default_rh_frac: rh,
      currency: shop.currency.trim().toUpperCase(),
      voc_limit_g_per_l: voc,
      voc_less_water: shop.lessWater,
      has: shop.has.length || page?.shop.has ? shop.has : null,
    };
    const { error } = await api.PUT("/api/shop", { body });
    if (answer(error, "Kept. Plans follow with the next entry.")) await session.look();
  }
  async function addPerson(event: SubmitEvent): Promise<void> {
    event.preventDefault();
    const { error } = await api.POST("/api/people", { body: person });
    if (!answer(error, `${person.username} may sign in now. Tell them the password; they can change it here.`)) return;
    person = { username: "", password: "", role: "painter" };
    await load(false);
  }
  async function setHolds(id: string, name: string, text: string): Promise<void> {
    const holds = text.trim() ? typed(text) : null;
    if (holds !== null && !Number.isInteger(holds))
      return void (refusal = `${name} holds: "${text}" given, expected a whole number, or nothing.`);
    const { error } = await api.PUT("/api/places/{place_id}", { params: { path: { place_id: id } }, body: { holds } });
    answer(error, `${name}: ${holds === null ? "no limit" : `${holds} at once`}. Plans follow with the next entry.`);
  }
  async function addPlace(event: SubmitEvent): Promise<void> {
    event.preventDefault();
    const { error } = await api.POST("/api/places", { body: place });
    if (!answer(error, `${place.name} is there.`)) return;
    place = { name: "", has_probe: false, outdoors: false, holds: null };
    await session.look();
  }
  async function savePrefs(event: SubmitEvent): Promise<void> {
    event.preventDefault();
    const teeth = prefs.comb
      .trim()
      .split(/[\s;]+/)
      .map((t) => entered("um", t));
    if (!teeth.every((t) => t > 0))
      return void (refusal = `Comb: "${prefs.comb}" given, expected teeth in ${unit("um")}, rising, with spaces between.`);
    const same = teeth.length === prefs.comb_um.length && teeth.every((t, i) => Math.abs(t - prefs.comb_um[i]!) < 0.2);
    const body = { units: prefs.units, theme: prefs.theme, letter_keys: prefs.letter_keys, comb_um: same ? prefs.comb_um : teeth };
    const { data, error } = await api.PUT("/api/preferences", { body });
    if (!answer(error, "Kept, for you alone.") || !data) return;
    const others = data.units !== session.who?.preferences.units;
    await session.look();
    prefs = asForm(data);
    if (others) await load(); // the shop's fields are written in the units that now hold
    said = "Kept, for you alone.";
  }
  async function changePassword(event: SubmitEvent): Promise<void> {
    event.preventDefault();
    const { error } = await api.POST("/api/password", { body: password });
    if (answer(error, "Password changed. Other devices are signed out.")) password = { old: "", new: "" };
    await session.look();
  }
</script>

<div class="page">
  <h1>{page?.shop.name ?? "Shop"}</h1>
  {#if page?.is_demo}<p>This is the demo shop. <b>Sign out to start one of your own.</b></p>{/if}
  {#if refusal}<p class="refusal" role="alert"><b>{refusal}</b></p>{/if}
  {#if said}<p role="status">{said}</p>{/if}
  <div class="two">
    <section>
      <h2>Hours and usual air</h2>
      <form onsubmit={saveShop}>
        <label class="wide">Name <input bind:value={shop.name} disabled={!fillable} /></label>
        <label class="wide"
          >Time zone <select bind:value={shop.time_zone} disabled={!fillable}
            >{#each zones.includes(shop.time_zone) ? zones : [shop.time_zone, ...zones] as z (z)}<option>{z}</option>{/each}</select
          ></label
        >
        <label>Opens <input inputmode="numeric" placeholder="07:30" bind:value={shop.opens} disabled={!fillable} /></label>
        <label>Closes <input inputmode="numeric" placeholder="18:45" bind:value={shop.closes} disabled={!fillable} /></label>
        <label>Painters <input inputmode="numeric" bind:value={shop.painters} disabled={!fillable} /></label>
        <label>Guns of each kind <input inputmode="numeric" bind:value={shop.guns} disabled={!fillable} /></label>
        <label>Usual air {unit("degc")} <input inputmode="decimal" bind:value={shop.air} disabled={!fillable} /></label>
        <label>Usual humidity % <input inputmode="decimal" bind:value={shop.rh} disabled={!fillable} /></label>
        <label>Currency <input bind:value={shop.currency} maxlength="3" disabled={!fillable} /></label>
        <label>VOC limit here, g/l <input inputmode="decimal" bind:value={shop.voc} placeholder="none set" disabled={!fillable} /></label>
        <label class="tick"><input type="checkbox" bind:checked={shop.lessWater} disabled={!fillable} /> counted less water</label>
        <fieldset class="wide">
          <legend>What holds here, for the rules to count on</legend>
          {#each Object.entries(page?.facts ?? {}) as [id, words] (id)}
            <label class="tick"><input type="checkbox" value={id} bind:group={shop.has} disabled={!fillable} /> {words}</label>
          {/each}
          <p class="mute">
            With none ticked nobody was asked, and rules only caution. Once one is, what is not ticked does not hold here, and work that
            needs it is stopped.
          </p>
        </fieldset>
        {#if owner}<button class="btn go" disabled={!fillable}>Keep</button>{:else}<p class="mute wide">
            Only the owner changes these.
          </p>{/if}
      </form>
      <p class="mute">The usual air is what clocks assume, ± 2 K, where nobody has measured. Plans keep to the hours.</p>
      <h2>Places</h2>
      <ul>
        {#each session.who?.places ?? [] as p (p.id)}<li>
            <b>{p.name}</b>{p.outdoors ? ", in the open" : ""}{p.has_probe ? ", with a simulated probe" : ""}
            <label class="holds"
              >holds <input
                inputmode="numeric"
                placeholder="any number"
                value={p.holds ?? ""}
                disabled={!owner}
                onchange={(e) => setHolds(p.id, p.name, e.currentTarget.value)}
              /> at once</label
            >
          </li>{/each}
      </ul>
      {#if owner}
        <form onsubmit={addPlace}>
          <label class="wide">New place <input bind:value={place.name} /></label>
          <label class="tick"><input type="checkbox" bind:checked={place.has_probe} /> simulated probe</label>
          <label class="tick"><input type="checkbox" bind:checked={place.outdoors} /> in the open: forecast, rain and wind count</label>
          <button class="btn">Add place</button>
        </form>
      {/if}
    </section>
    <section>
      <h2>People</h2>
      <ul>
        {#each page?.people ?? [] as p (p.username)}<li><b>{p.username}</b>, {p.role}</li>{/each}
      </ul>
      {#if owner}
        <form onsubmit={addPerson}>
          <label>Name <input bind:value={person.username} autocomplete="off" /></label>
          <label>First password <input type="password" bind:value={person.password} autocomplete="new-password" /></label>
          <label
            >May <select bind:value={person.role}
              ><option value="painter">work (painter)</option><option value="viewer">look (viewer)</option><option value="owner"
                >everything (owner)</option
              ></select
            ></label
          >
          <button class="btn">Add person</button>
        </form>
      {/if}
      <h2>How you like it</h2>
      <form onsubmit={savePrefs}>
        <label
          >Units <select bind:value={prefs.units}
            ><option value="metric">metric: µm, °C, ml, m²</option><option value="us">US: mil, °F, fl oz, ft²</option></select
          ></label
        >
        <label
          >Light <select bind:value={prefs.theme}
            ><option value="system">as the device</option><option value="light">light</option><option value="dark">dark</option></select
          ></label
        >
        <label class="tick"><input type="checkbox" bind:checked={prefs.letter_keys} /> single keys (1 to 7, S, D, N, +, −, [, ])</label>
        <label class="wide">Teeth of your comb, {unit("um")} <input bind:value={prefs.comb} /></label>
        <button class="btn">Keep</button>
      </form>
      <p class="mute">For reading and entry. What is stored stays metric and exact.</p>
      <h2>Your password</h2>
      <form onsubmit={changePassword}>
        <label>As it is <input type="password" bind:value={password.old} autocomplete="current-password" /></label>
        <label>New <input type="password" bind:value={password.new} autocomplete="new-password" /></label>
        <button class="btn">Change password</button>
      </form>
    </section>
  </div>
</div>

<style>
  fieldset {
    border: 1px solid var(--edge);
    padding: 4px 12px;
  }
  legend {
    font-weight: 640;
    padding: 0 6px;
  }
  .holds {
    display: inline-flex;
    gap: 6px;
    align-items: center;
    margin-left: 12px;
    font-weight: 450;
  }
  .holds input {
    width: 110px;
  }
  .page {
    padding: 16px 24px;
    display: grid;
    gap: 14px;
    align-content: start;
  }
  h1 {
    font-size: 34px;
  }
  h2 {
    margin-top: 8px;
  }
  .two {
    display: grid;
    grid-template-columns: 1fr 1fr;
    gap: 32px;
  }
  section {
    display: grid;
    gap: 10px;
    align-content: start;
  }
  form {
    display: grid;
    grid-template-columns: 1fr 1fr 1fr;
    gap: 10px;
    align-items: end;
  }
  label {
    font-weight: 640;
    font-size: 14px;
  }
  .wide {
    grid-column: 1 / -1;
  }
  .tick {
    display: flex;
    align-items: center;
    gap: 8px;
    min-height: 44px;
    grid-column: span 2;
  }
  .tick input {
    width: 24px;
    min-height: 24px;
  }
  ul {
    list-style: none;
  }
  li {
    padding: 5px 0;
    border-top: 1px solid var(--rule);
  }
  .refusal {
    border-left: 6px solid var(--ink);
    padding-left: 10px;
  }
  @media (max-width: 900px) {
    .two {
      grid-template-columns: 1fr;
    }
    form {
      grid-template-columns: 1fr 1fr;
    }
    .page {
      padding: 12px 16px;
    }
  }
</style>
