<script lang="ts">
  /** The shop: its hours and usual air, its people and places, one's own password. */
  import { api, inWords, type Schemas } from "../../api/client";
  import { session } from "../../lib/session.svelte";

  let page = $state.raw<Schemas["ShopPage"] | null>(null);
  let refusal = $state("");
  let said = $state("");
  let shop = $state({ name: "", time_zone: "", opens: "", closes: "", painters: "1", air: "", rh: "" });
  let person = $state({ username: "", password: "", role: "painter" });
  let place = $state({ name: "", has_probe: false });
  let password = $state({ old: "", new: "" });
  const owner = $derived(session.who?.role === "owner");
  const zones = Intl.supportedValuesOf("timeZone");
  const number = (text: string): number => Number(text.replace(",", ".") || NaN);

  async function load(): Promise<void> {
    const { data, error } = await api.GET("/api/shop");
    if (!data) return void (refusal = inWords(error));
    page = data;
    const s = data.shop;
    shop = {
      name: s.name, time_zone: s.time_zone, opens: s.opens.slice(0, 5), closes: s.closes.slice(0, 5), painters: String(s.painters),
      air: String(s.default_air_degc), rh: String(Math.round(s.default_rh_frac * 100)),
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
    const [painters, air, rh] = [number(shop.painters), number(shop.air), number(shop.rh) / 100];
    if (![painters, air, rh].every(Number.isFinite)) return void (refusal = "Painters, usual air and humidity: expected numbers.");
    const body = { name: shop.name, time_zone: shop.time_zone, opens: shop.opens, closes: shop.closes, painters: Math.round(painters), default_air_degc: air, default_rh_frac: rh };
    const { error } = await api.PUT("/api/shop", { body });
    if (answer(error, "Kept. Plans follow with the next entry.")) await session.look();
  }
  async function addPerson(event: SubmitEvent): Promise<void> {
    event.preventDefault();
    const { error } = await api.POST("/api/people", { body: person });
    if (!answer(error, `${person.username} may sign in now. Tell them the password; they can change it here.`)) return;
    person = { username: "", password: "", role: "painter" };
    await load();
  }
  async function addPlace(event: SubmitEvent): Promise<void> {
    event.preventDefault();
    const { error } = await api.POST("/api/places", { body: place });
    if (!answer(error, `${place.name} is there.`)) return;
    place = { name: "", has_probe: false };
    await session.look();
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
        <label class="wide">Name <input bind:value={shop.name} disabled={!owner} /></label>
        <label class="wide">Time zone <select bind:value={shop.time_zone} disabled={!owner}>{#each zones.includes(shop.time_zone) ? zones : [shop.time_zone, ...zones] as z (z)}<option>{z}</option>{/each}</select></label>
        <label>Opens <input type="time" bind:value={shop.opens} disabled={!owner} /></label>
        <label>Closes <input type="time" bind:value={shop.closes} disabled={!owner} /></label>
        <label>Painters <input inputmode="numeric" bind:value={shop.painters} disabled={!owner} /></label>
        <label>Usual air °C <input inputmode="decimal" bind:value={shop.air} disabled={!owner} /></label>
        <label>Usual humidity % <input inputmode="decimal" bind:value={shop.rh} disabled={!owner} /></label>
        {#if owner}<button class="btn go">Keep</button>{:else}<p class="mute wide">Only the owner changes these.</p>{/if}
      </form>
      <p class="mute">The usual air is what clocks assume, ± 2 K, where nobody has measured. Plans keep to the hours.</p>
      <h2>Places</h2>
      <ul>{#each session.who?.places ?? [] as p (p.id)}<li><b>{p.name}</b>{p.has_probe ? ", with a simulated probe" : ""}</li>{/each}</ul>
      {#if owner}
        <form onsubmit={addPlace}>
          <label class="wide">New place <input bind:value={place.name} /></label>
          <label class="tick"><input type="checkbox" bind:checked={place.has_probe} /> simulated probe</label>
          <button class="btn">Add place</button>
        </form>
      {/if}
    </section>
    <section>
      <h2>People</h2>
      <ul>{#each page?.people ?? [] as p (p.username)}<li><b>{p.username}</b>, {p.role}</li>{/each}</ul>
      {#if owner}
        <form onsubmit={addPerson}>
          <label>Name <input bind:value={person.username} autocomplete="off" /></label>
          <label>First password <input type="password" bind:value={person.password} autocomplete="new-password" /></label>
          <label>May <select bind:value={person.role}><option value="painter">work (painter)</option><option value="viewer">look (viewer)</option><option value="owner">everything (owner)</option></select></label>
          <button class="btn">Add person</button>
        </form>
      {/if}
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
  .page { padding: 16px 24px; display: grid; gap: 14px; align-content: start; }
  h1 { font-size: 34px; }
  h2 { margin-top: 8px; }
  .two { display: grid; grid-template-columns: 1fr 1fr; gap: 32px; }
  section { display: grid; gap: 10px; align-content: start; }
  form { display: grid; grid-template-columns: 1fr 1fr 1fr; gap: 10px; align-items: end; }
  label { font-weight: 640; font-size: 14px; }
  .wide { grid-column: 1 / -1; }
  .tick { display: flex; align-items: center; gap: 8px; min-height: 44px; grid-column: span 2; }
  .tick input { width: 24px; min-height: 24px; }
  ul { list-style: none; }
  li { padding: 5px 0; border-top: 1px solid var(--rule); }
  .refusal { border-left: 6px solid var(--ink); padding-left: 10px; }
  @media (max-width: 900px) { .two { grid-template-columns: 1fr; } form { grid-template-columns: 1fr 1fr; } .page { padding: 12px 16px; } }
</style>
