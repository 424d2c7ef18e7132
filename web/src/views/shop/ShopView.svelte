<script lang="ts">
  /** The shop: its hours and usual air, its people and places, one's own password. */
  import { api, inWords, type Schemas } from "../../api/client";
  import { entered, field, unit } from "../../lib/format";
  import { session } from "../../lib/session.svelte";
  import { typed } from "../../lib/units";
  import { LANGUAGES, say } from "../../words";
  import Devices from "./Devices.svelte";
  import ThisDevice from "../../ui/ThisDevice.svelte";
  import PairPhone from "./PairPhone.svelte";
  import InThePlan from "./InThePlan.svelte";

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
    hasnt: [] as string[],
    logsSteps: true,
  });
  /** Whose role and password stand open, and a new first password for them. */
  let about = $state("");
  let fresh = $state("");
  /** Whose place in the plan stands open. */
  let hoursOf = $state("");
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
      voc: field("voc", s.voc_limit_g_per_l),
      lessWater: s.voc_less_water,
      has: s.has,
      hasnt: s.hasnt,
      logsSteps: s.logs_steps,
    };
  }
  $effect(() => void load());

  function answer(error: unknown, words: string): boolean {
    refusal = error ? inWords(error) : "";
    said = error ? "" : words;
    return !error;
  }
  const saidOf = (id: string): string => (shop.has.includes(id) ? "yes" : shop.hasnt.includes(id) ? "no" : "");
  function tell(id: string, answer: string): void {
    shop.has = [...shop.has.filter((x) => x !== id), ...(answer === "yes" ? [id] : [])];
    shop.hasnt = [...shop.hasnt.filter((x) => x !== id), ...(answer === "no" ? [id] : [])];
  }
  async function saveShop(event: SubmitEvent): Promise<void> {
    event.preventDefault();
    const [painters, guns, air, rh] = [typed(shop.painters), typed(shop.guns), entered("degc", shop.air), typed(shop.rh, "%") / 100];
    const voc = shop.voc.trim() ? entered("voc", shop.voc) : null;
    for (const [name, text] of [
      [say.shop.opens, shop.opens],
      [say.common.closes, shop.closes],
    ] as const) {
      if (!/^([01]\d|2[0-3]):[0-5]\d$/.test(text.trim())) return void (refusal = say.shop.enteredExpectedATimeLike(name, text));
    }
    if (!Number.isInteger(painters)) return void (refusal = say.shop.paintersEnteredExpectedAWhole(shop.painters));
    if (!Number.isInteger(guns)) return void (refusal = say.shop.gunsEnteredExpectedAWhole(shop.guns));
    if (!Number.isFinite(air)) return void (refusal = say.shop.defaultAirTemperatureEnteredExpected(shop.air, unit("degc")));
    if (!Number.isFinite(rh)) return void (refusal = say.shop.defaultHumidityEnteredExpected5(shop.rh));
    if (voc !== null && !Number.isFinite(voc)) return void (refusal = say.shop.vocLimitEnteredExpectedG(shop.voc, unit("voc")));
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
      has: shop.has,
      hasnt: shop.hasnt,
      logs_steps: shop.logsSteps,
    };
    const { error } = await api.PUT("/api/shop", { body });
    if (answer(error, say.shop.savedPlansAreUpdatedWith)) await session.look();
  }
  async function addPerson(event: SubmitEvent): Promise<void> {
    event.preventDefault();
    const { error } = await api.POST("/api/people", { body: person });
    if (!answer(error, say.shop.canNowSignInGive(person.username))) return;
    person = { username: "", password: "", role: "painter" };
    await load(false);
  }
  async function setSensitised(username: string, sensitised: boolean): Promise<void> {
    const { error } = await api.PUT("/api/people/{username}", { params: { path: { username } }, body: { sensitised } });
    if (!answer(error, sensitised ? say.ask.keptAwayNow(username) : say.ask.notKeptAway(username))) return void load(false);
    await session.look();
  }
  async function setRole(username: string, role: string): Promise<void> {
    const { error } = await api.PUT("/api/people/{username}", { params: { path: { username } }, body: { role } });
    answer(error, say.shop.roleChanged(username));
    await load(false);
  }
  async function newPassword(event: SubmitEvent, username: string): Promise<void> {
    event.preventDefault();
    const { error } = await api.PUT("/api/people/{username}", { params: { path: { username } }, body: { password: fresh } });
    if (!answer(error, say.shop.passwordGiven(username))) return;
    fresh = "";
    about = "";
  }
  async function removePerson(username: string): Promise<void> {
    const { error } = await api.DELETE("/api/people/{username}", { params: { path: { username } } });
    if (!answer(error, say.shop.hasLeft(username))) return;
    about = "";
    await load(false);
  }
  async function changePlace(id: string, body: { name?: string; retired?: boolean }, words: string): Promise<void> {
    const { error } = await api.PUT("/api/places/{place_id}", { params: { path: { place_id: id } }, body });
    if (answer(error, words)) await session.look();
  }
  async function setHolds(id: string, name: string, text: string): Promise<void> {
    const holds = text.trim() ? typed(text) : null;
    if (holds !== null && !Number.isInteger(holds)) return void (refusal = say.shop.capacityOfEnteredExpectedA(name, text));
    const { error } = await api.PUT("/api/places/{place_id}", { params: { path: { place_id: id } }, body: { holds } });
    answer(error, say.shop.plansAreUpdatedWithThe(name, holds === null ? say.common.noLimit : say.shop.atOnce(holds)));
  }
  async function addPlace(event: SubmitEvent): Promise<void> {
    event.preventDefault();
    const { error } = await api.POST("/api/places", { body: place });
    if (!answer(error, say.shop.added(place.name))) return;
    place = { name: "", has_probe: false, outdoors: false, holds: null };
    await session.look();
  }
  async function savePrefs(event: SubmitEvent): Promise<void> {
    event.preventDefault();
    const teeth = prefs.comb
      .trim()
      .split(/[\s;]+/)
      .map((t) => entered("um", t));
    if (!teeth.every((t) => t > 0)) return void (refusal = say.shop.wetFilmGaugeEnteredExpected(prefs.comb, unit("um")));
    const same = teeth.length === prefs.comb_um.length && teeth.every((t, i) => Math.abs(t - prefs.comb_um[i]!) < 0.2);
    const body = {
      language: prefs.language,
      clock: prefs.clock,
      units: prefs.units,
      theme: prefs.theme,
      letter_keys: prefs.letter_keys,
      comb_um: same ? prefs.comb_um : teeth,
    };
    const { data, error } = await api.PUT("/api/preferences", { body });
    if (!answer(error, say.shop.savedForYourAccount) || !data) return;
    const was = session.who?.preferences;
    const others = data.units !== was?.units || data.language !== was?.language;
    await session.look();
    prefs = asForm(data);
    if (others) await load(); // the shop's fields are written in the units that now hold
    said = say.shop.savedForYourAccount;
  }
  async function changePassword(event: SubmitEvent): Promise<void> {
    event.preventDefault();
    const { error } = await api.POST("/api/password", { body: password });
    if (answer(error, say.shop.passwordChangedOtherDevicesAre)) password = { old: "", new: "" };
    await session.look();
  }
</script>

<div class="page">
  <h1>{page?.shop.name ?? say.shop.shop}</h1>
  {#if page?.is_demo}<p>{say.shop.thisIsTheDemoShop} <b>{say.shop.signOutToCreateYour}</b></p>{/if}
  {#if refusal}<p class="refusal" role="alert"><b>{refusal}</b></p>{/if}
  {#if said}<p role="status">{said}</p>{/if}
  <div class="two">
    <section>
      <h2>{say.shop.openingHoursAndDefaultAir}</h2>
      <form onsubmit={saveShop}>
        <label class="wide">{say.common.nameLabel} <input bind:value={shop.name} disabled={!fillable} /></label>
        <label class="wide"
          >{say.shop.timeZone}
          <select bind:value={shop.time_zone} disabled={!fillable}
            >{#each zones.includes(shop.time_zone) ? zones : [shop.time_zone, ...zones] as z (z)}<option>{z}</option>{/each}</select
          ></label
        >
        <label>{say.shop.opens} <input type="time" bind:value={shop.opens} disabled={!fillable} /></label>
        <label>{say.common.closes} <input type="time" bind:value={shop.closes} disabled={!fillable} /></label>
        <label>{say.common.painters} <input inputmode="numeric" bind:value={shop.painters} disabled={!fillable} /></label>
        <label>{say.shop.gunsOfEachType} <input inputmode="numeric" bind:value={shop.guns} disabled={!fillable} /></label>
        <label
          >{say.shop.defaultAirTemperature(unit("degc"))} <input inputmode="decimal" bind:value={shop.air} disabled={!fillable} /></label
        >
        <label>{say.shop.defaultHumidity} <input inputmode="decimal" bind:value={shop.rh} disabled={!fillable} /></label>
        <label>{say.shop.currency} <input bind:value={shop.currency} maxlength="3" disabled={!fillable} /></label>
        <label
          >{say.shop.vocLimitGL(unit("voc"))}
          <input inputmode="decimal" bind:value={shop.voc} placeholder={say.shop.noneSet} disabled={!fillable} /></label
        >
        <label class="tick"
          ><input type="checkbox" bind:checked={shop.lessWater} disabled={!fillable} /> {say.shop.vocLessWaterUsMethod}</label
        >
        <label class="tick"><input type="checkbox" bind:checked={shop.logsSteps} disabled={!fillable} /> {say.shop.logsSteps}</label>
        <p class="mute wide">{say.shop.logsStepsHint}</p>
        <fieldset class="wide">
          <legend>{say.shop.equipmentAndSafetyControlsAvailable}</legend>
          {#each Object.entries(page?.fact_words ?? {}) as [id, words] (id)}
            <label class="fact"
              ><span>{words}</span>
              <select value={saidOf(id)} disabled={!fillable} onchange={(e) => tell(id, e.currentTarget.value)}>
                <option value="">{say.ask.notAnswered}</option>
                <option value="yes">{say.ask.yes}</option>
                <option value="no">{say.ask.no}</option>
              </select></label
            >
          {/each}
          <p class="mute">
            {say.shop.ifNoneIsTickedThe}
          </p>
        </fieldset>
        {#if owner}<button class="btn go" disabled={!fillable}>{say.common.save}</button>{:else}<p class="mute wide">
            {say.shop.onlyTheOwnerCanChange}
          </p>{/if}
      </form>
      <p class="mute">{say.shop.theDefaultAir2C}</p>
      <h2>{say.shop.baysAndLocations}</h2>
      <ul>
        {#each session.who?.places ?? [] as p (p.id)}<li>
            {#if owner}<input
                class="name"
                aria-label={say.shop.nameOfPlace(p.name)}
                value={p.name}
                onchange={(e) => changePlace(p.id, { name: e.currentTarget.value }, say.shop.placeIsCalled(e.currentTarget.value.trim()))}
              />{:else}<b>{p.name}</b>{/if}{p.outdoors ? say.shop.outdoors : ""}{p.has_probe ? say.shop.withASimulatedSensor : ""}
            <label class="holds"
              >{say.shop.holds}
              <input
                inputmode="numeric"
                placeholder={say.common.noLimit}
                value={p.holds ?? ""}
                disabled={!owner}
                onchange={(e) => setHolds(p.id, p.name, e.currentTarget.value)}
              />
              {say.common.atOnce}</label
            >
            {#if owner}<button
                class="btn small"
                onclick={() =>
                  changePlace(p.id, { retired: !p.retired }, p.retired ? say.shop.placeBack(p.name) : say.shop.placeRetired(p.name))}
                >{p.retired ? say.shop.useAgain(p.name) : say.shop.retire(p.name)}</button
              >{:else if p.retired}{say.shop.notInUse}{/if}
          </li>{/each}
      </ul>
      {#if owner}
        <form onsubmit={addPlace}>
          <label class="wide">{say.shop.newBayOrLocation} <input bind:value={place.name} /></label>
          <label class="tick"><input type="checkbox" bind:checked={place.has_probe} /> {say.shop.simulatedSensor}</label>
          <label class="tick"><input type="checkbox" bind:checked={place.outdoors} /> {say.shop.outdoorsUseForecastRainAnd}</label>
          <button class="btn">{say.shop.addBayOrLocation}</button>
        </form>
      {/if}
    </section>
    <section>
      <h2>{say.shop.people}</h2>
      <ul>
        {#each page?.people ?? [] as p (p.username)}<li>
            <b>{p.username}</b>, {p.role}{p.crew ? say.shop.counted : ""}
            <label class="tick"
              ><input
                type="checkbox"
                checked={p.sensitised}
                disabled={!owner && p.username !== session.who?.user}
                onchange={(e) => setSensitised(p.username, e.currentTarget.checked)}
              />
              {say.ask.sensitised}</label
            >
            {#if owner && p.role !== "viewer"}
              <button
                class="btn small"
                aria-expanded={hoursOf === p.username}
                onclick={() => (hoursOf = hoursOf === p.username ? "" : p.username)}>{say.shop.mayAndHours(p.username)}</button
              >
            {/if}
            {#if owner && p.username !== session.who?.user}
              <button
                class="btn small"
                aria-expanded={about === p.username}
                onclick={() => ((about = about === p.username ? "" : p.username), (fresh = ""))}>{say.shop.changePerson(p.username)}</button
              >
              {#if about === p.username}
                <form onsubmit={(e) => newPassword(e, p.username)}>
                  <label
                    >{say.shop.role}
                    <select value={p.role} onchange={(e) => setRole(p.username, e.currentTarget.value)}
                      ><option value="painter">{say.shop.painterLogsWork}</option><option value="viewer">{say.shop.viewerReadsOnly}</option
                      ><option value="owner">{say.shop.ownerEverything}</option></select
                    ></label
                  >
                  <label>{say.shop.newFirstPassword} <input type="password" bind:value={fresh} autocomplete="new-password" /></label>
                  <button class="btn">{say.shop.giveThisPassword}</button>
                  <p class="wide">{say.shop.whatTheyLoggedStays}</p>
                  <button class="btn" type="button" onclick={() => removePerson(p.username)}>{say.shop.removePerson(p.username)}</button>
                </form>
              {/if}
            {/if}
            {#if owner && hoursOf === p.username}
              <InThePlan username={p.username} crew={p.crew ?? null} rights={page?.right_words ?? {}} changed={() => load(false)} />
            {/if}
          </li>{/each}
      </ul>
      <p class="mute">{say.shop.namedOrNot}</p>
      {#if owner}
        <form onsubmit={addPerson}>
          <label>{say.common.userName} <input bind:value={person.username} autocomplete="off" /></label>
          <label>{say.shop.initialPassword} <input type="password" bind:value={person.password} autocomplete="new-password" /></label>
          <p class="mute wide">{say.signIn.passwordRule}</p>
          <label
            >{say.shop.role}
            <select bind:value={person.role}
              ><option value="painter">{say.shop.painterLogsWork}</option><option value="viewer">{say.shop.viewerReadsOnly}</option><option
                value="owner">{say.shop.ownerEverything}</option
              ></select
            ></label
          >
          <button class="btn">{say.shop.addPerson}</button>
        </form>
      {/if}
      <h2>{say.shop.preferences}</h2>
      <form onsubmit={savePrefs}>
        <label
          >{say.shop.language}
          <select bind:value={prefs.language}
            >{#each LANGUAGES as [id, name] (id)}<option value={id} lang={id}>{name}</option>{/each}</select
          ></label
        >
        <label
          >{say.shop.clock}
          <select bind:value={prefs.clock}
            ><option value="24">{say.shop.clock24}</option><option value="12">{say.shop.clock12}</option></select
          ></label
        >
        <label
          >{say.shop.units}
          <select bind:value={prefs.units}
            ><option value="metric">{say.shop.metricMCMlM}</option><option value="us">{say.shop.usMilFFlOz}</option></select
          ></label
        >
        <label
          >{say.shop.theme}
          <select bind:value={prefs.theme}
            ><option value="system">{say.shop.systemDefault}</option><option value="light">{say.shop.light}</option><option value="dark"
              >{say.shop.dark}</option
            ></select
          ></label
        >
        <label class="tick"><input type="checkbox" bind:checked={prefs.letter_keys} /> {say.shop.keyboardShortcuts1To7}</label>
        <label class="wide">{say.shop.teethOfYourWetFilm(unit("um"))} <input bind:value={prefs.comb} /></label>
        <button class="btn">{say.common.save}</button>
      </form>
      <p class="mute">{say.shop.forDisplayAndEntryOnly}</p>
      <h2>{say.shop.yourPassword}</h2>
      <form onsubmit={changePassword}>
        <label>{say.shop.currentPassword} <input type="password" bind:value={password.old} autocomplete="current-password" /></label>
        <label>{say.shop.newPassword} <input type="password" bind:value={password.new} autocomplete="new-password" /></label>
        <p class="mute wide">{say.signIn.passwordRule}</p>
        <button class="btn">{say.shop.changePassword}</button>
      </form>
      <Devices />
      <PairPhone />
      <ThisDevice />
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
  .name {
    width: 180px;
    font-weight: 640;
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
  .fact {
    grid-column: 1 / -1;
    display: flex;
    gap: 10px;
    align-items: center;
    justify-content: space-between;
    flex-wrap: wrap;
    min-height: 44px;
    margin-bottom: 4px;
  }
  .fact select {
    width: auto;
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
