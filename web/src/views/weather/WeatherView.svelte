<script lang="ts">
  /** Weather of a place: is now a time to coat, when is the next, and where the hours come from. */
  import { api, inWords, type Schemas } from "../../api/client";
  import { Answer } from "../../lib/answer.svelte";
  import { pieceScale } from "../../figures/scale";
  import { serverClock } from "../../lib/clock.svelte";
  import { bare, dayName, duration, kelvin, percent, show, temp, unit, when } from "../../lib/format";
  import { readOnce, shopSensor } from "../../lib/instruments";
  import { session } from "../../lib/session.svelte";
  import { typed } from "../../lib/units";
  import { told as verdict } from "../../lib/verdicts";
  import { say } from "../../words";

  let place = $state(session.places[0]?.id ?? "");
  const told = new Answer<Schemas["WeatherPage"]>();
  const page = $derived(told.data);
  /** Why a file, the probe or the forecast was not taken. */
  let refusal = $state("");
  let said = $state("");
  let busy = $state(false);
  let files = $state<FileList>();
  let box = $state(900);
  const DAY_W = 78; // a day's name below the chart is left out where it would be cut off
  let sheets = $state.raw<Schemas["SheetOut"][]>([]);
  let sheet = $state("");
  let minutes = $state("60");
  let lay = $state<"" | "history" | "this_year">("");
  let stamps = $state<"start" | "end">("start");
  let offset = $state("");
  const now = $derived(serverClock.now);
  $effect(() => void api.GET("/api/shelf").then(({ data }) => (sheets = data ?? [])));

  async function load(id: string, sheet_id: string, minutesText: string): Promise<void> {
    const coat_min = typed(minutesText, "min");
    if (!(Number.isInteger(coat_min) && coat_min >= 1 && coat_min <= 1440))
      return told.refuse(say.weather.applicationTimeEnteredExpectedMinutes(minutesText));
    await told.ask(() => api.GET("/api/weather/{place_id}", { params: { path: { place_id: id }, query: { sheet_id, coat_min } } }));
  }
  $effect(() => void load(place, sheet, minutes));

  async function upload(event: SubmitEvent): Promise<void> {
    event.preventDefault();
    const file = files?.[0];
    if (!file) return void (refusal = say.weather.chooseAFileFirstTmy3);
    if (!lay) return void (refusal = say.weather.chooseTheDataTypeFirst);
    const hours = offset.trim() ? typed(offset) : null;
    if (hours !== null && !(hours >= -14 && hours <= 14)) return void (refusal = say.weather.utcOffsetEnteredExpected14(offset));
    busy = true;
    said = say.weather.reading(file.name);
    const body = new FormData();
    body.append("file", file);
    body.append("lay", lay);
    body.append("stamps", stamps);
    if (hours !== null) body.append("hours_from_utc", String(hours));
    const { data, error } = await api.POST("/api/weather/{place_id}/import", {
      params: { path: { place_id: place } },
      body: body as never,
      bodySerializer: (b) => b as unknown as FormData,
    });
    if (data) await load(place, sheet, minutes);
    refusal = data ? "" : inWords(error);
    said = data ? say.weather.importedHoursTo(data.rows, when(data.from_at, now), when(data.to_at, now), data.notes.join(" ")) : "";
    busy = false;
  }
  async function probe(): Promise<void> {
    const sensor = shopSensor(place, say.common.simulated);
    const { reads, refusal: why } = await readOnce(sensor);
    const read = reads[0];
    if (read) await load(place, sheet, minutes);
    refusal = why;
    said =
      read && "air_degc" in read
        ? say.weather.sensorAirSurface(sensor.name, temp(read.air_degc), temp(read.surface_degc!), percent(read.rh_frac))
        : "";
  }
  async function forecast(): Promise<void> {
    const { data, error } = await api.POST("/api/weather/{place_id}/forecast", { params: { path: { place_id: place } } });
    if (data) await load(place, sheet, minutes);
    refusal = data ? "" : inWords(error);
    said = data ? say.weather.forecastHoursAhead(data.simulated ? say.common.simulated : "", data.hours) : "";
  }
  const hours = $derived(page?.hours ?? []);
  const scale = $derived(pieceScale([[hours[0]?.at ?? 0, hours.at(-1)?.at ?? 1, 1]], Math.max(300, box - 48)));
  const H = 190;
  const yy = (k: number): number => H - (Math.max(0, Math.min(12, k)) / 12) * (H - 14);
  const point = (h: Schemas["HourOut"]): string => `${scale.x(h.at).toFixed(1)},${yy(h.margin_k).toFixed(1)}`;
  const current = $derived(hours.findLast((h) => h.at <= now));
  /** Go or not, with its numbers in the reader's units; what nobody has measured, as the server says it. */
  const reason = $derived.by((): string => {
    if (!page || !current) return "";
    const stops = current.stops.map(verdict);
    if (stops.length) return stops.map((s) => `${s.what} ${s.why} ${s.instead}`).join(" ");
    if (!page.go) return page.reason;
    const [margin, doubt] = [current.margin_k, current.uncertainty_k];
    return say.verdicts.margin(bare("k", margin), kelvin(doubt), kelvin(margin - doubt), show("k", page.least_margin_k));
  });
  const days = $derived(hours.filter((h, i) => i > 0 && dayName(h.at) !== dayName(hours[i - 1]!.at)));
  const SOURCES: Record<string, string> = {
    probe: say.weather.bySensor,
    import: say.weather.fromTheImportedFile,
    typical: say.weather.fromATypicalYearA,
    hand: say.weather.enteredByHand,
    default: say.weather.defaultNoReading,
    forecast: say.weather.forecast,
    surface: say.weather.measured,
  };
</script>

<div class="page" bind:clientWidth={box}>
  <div class="ttl">
    <h1>{say.common.weather}</h1>
    <div class="tabs" role="group" aria-label={say.weather.location}>
      {#each session.places as p (p.id)}<button
          class="btn small"
          class:go={p.id === place}
          aria-pressed={p.id === place}
          onclick={() => (place = p.id)}>{p.name}</button
        >{/each}
    </div>
  </div>
  {#each [refusal, told.problem].filter(Boolean) as text, i (i)}<p class="refusal" role="alert"><b>{text}</b></p>{/each}
  {#if said}<p role="status">{said}</p>{/if}
  {#if page && current}
    <section class="nowair">
      <span><span class="num">{bare("degc", current.air_degc)}°</span>{say.weather.air(SOURCES[current.source] ?? "")}</span>
      <span><span class="num">{percent(current.rh_frac)}</span>{say.weather.humidity}</span>
      <span><span class="num">{bare("degc", current.dew_point_degc)}°</span>{say.common.dewPoint}</span>
      <span><span class="num">{bare("k", current.margin_k)} ± {kelvin(current.uncertainty_k)}</span>{say.weather.surfaceAboveDewPoint}</span
      >
      {#if page.outdoors && current.wind_m_s !== null}<span
          ><span class="num">{show("m_s", current.wind_m_s ?? 0)}</span>{say.weather.meanWind}</span
        >{/if}
      <p class="verdict">
        <b>{page.go ? say.weather.okToCoat : current.stops.length ? say.weather.doNotCoatNow : say.weather.measureFirst}</b>
        {reason}
      </p>
      {#each current.warnings.map(verdict) as w, i (i)}<p><b>{say.weather.caution}</b> {w.what} {w.instead}</p>{/each}
    </section>
    <figure>
      <figcaption>
        <b>{say.weather.surfaceAboveDewPoint2(unit("k"))}</b>
        <span class="mute">{say.weather.hatchedOutsideTheLimitsDark}</span>
      </figcaption>
      <svg
        width={Math.max(300, box - 48)}
        height={H + 24}
        role="img"
        aria-label={say.weather.hoursAheadAt(
          page.place,
          page.windows.map((w) => say.weather.startTo(when(w.from_at, now), when(w.latest_start_at, now))).join(", ") ||
            say.weather.noOpenWindowKnown,
        )}
      >
        <rect width="100%" height={H} fill="var(--field)" />
        {#each hours.slice(0, -1) as h, i (i)}
          {@const x = scale.x(h.at)}
          {@const w = Math.max(0.5, scale.x(hours[i + 1]!.at) - x + 0.4)}
          {#if h.source !== "default"}<rect {x} y={yy(h.margin_k)} width={w} height={H - yy(h.margin_k)} fill="var(--b2)" />{/if}
          {#if h.rain_mm}<rect {x} y={H - 8} width={w} height="8" fill="var(--ink2)" />{/if}
          {#if h.stops.length}<rect {x} y="0" width={w} height={H} fill="url(#p-nogo)" opacity=".8" />{/if}
        {/each}
        <polyline points={hours.map(point).join(" ")} fill="none" stroke="var(--edge)" stroke-width="1.4" stroke-dasharray="3 3" />
        <polyline
          points={hours
            .filter((h) => h.source !== "default")
            .map(point)
            .join(" ")}
          fill="none"
          stroke="var(--ink)"
          stroke-width="1.8"
        />
        <line x1="0" x2="100%" y1={yy(page.least_margin_k)} y2={yy(page.least_margin_k)} stroke="var(--ink)" stroke-dasharray="2 3" /><text
          class="halo"
          x="4"
          y={yy(page.least_margin_k) - 4}
          font-size="13">{kelvin(page.least_margin_k)}</text
        >
        {#each days as d, i (i)}<line
            x1={scale.x(d.at)}
            x2={scale.x(d.at)}
            y1="0"
            y2={H + 20}
            stroke="var(--ink)"
          />{#if scale.x(d.at) < box - 48 - DAY_W}<text x={scale.x(d.at) + 5} y={H + 18} font-size="14">{dayName(d.at)}</text>{/if}{/each}
        <line x1={scale.x(now)} x2={scale.x(now)} y1="0" y2={H} stroke="var(--ink)" stroke-width="3" />
      </svg>
    </figure>
    <div class="two">
      <section>
        <h2>{say.weather.nextWindows}</h2>
        <div class="ask">
          <label
            >{say.common.material}
            <select bind:value={sheet}
              ><option value="">{say.weather.anyMaterial}</option>{#each sheets as x (x.sheet.id)}<option value={x.sheet.id}
                  >{x.sheet.name}</option
                >{/each}</select
            ></label
          >
          <label>{say.weather.applicationTimeMin} <input inputmode="numeric" bind:value={minutes} /></label>
        </div>
        <p class="mute">
          {say.weather.neededApplication(
            duration(page.need.coat_s),
            page.need.flash_s ? say.weather.flashOff(duration(page.need.flash_s)) : "",
            page.need.dry_s ? say.weather.then(duration(page.need.dry_s), page.outdoors ? say.weather.withoutRain : say.weather.toDry) : "",
            page.need_why,
          )}
        </p>
        {#each page.windows as w, i (i)}<p>
            <b>{say.weather.startTo2(when(w.from_at, now), when(w.latest_start_at, now))}</b><br /><span class="mute"
              >{say.weather.goodUntil(when(w.to_at, now), w.ends_because, w.warnings.join(" "))}</span
            >
          </p>{:else}<p>{say.weather.noWindowLongEnoughIn}</p>{/each}
      </section>
      <section>
        <h2>{say.weather.weatherData}</h2>
        {#if session.mayWrite}
          <div class="row">
            {#if page.has_probe}<button class="btn small" type="button" onclick={probe}>{say.common.readSensor}</button>{/if}
            {#if page.outdoors}<button class="btn small" type="button" onclick={forecast}>{say.weather.loadDemoForecastSimulated}</button
              >{:else}<p class="mute">
                {say.weather.indoorsForecastsDoNotApply}
              </p>{/if}
          </div>
          <form onsubmit={upload}>
            <label class="wide"
              >{say.weather.weatherFileHourlyTmy3Or} <input type="file" bind:files accept=".csv,text/csv,text/plain" /></label
            >
            <label
              >{say.weather.dataType}
              <select bind:value={lay}
                ><option value="">{say.weather.choose}</option><option value="history">{say.weather.measured}</option><option
                  value="this_year">{say.weather.typicalYearMappedToThis}</option
                ></select
              ></label
            >
            <label
              >{say.weather.timestampsMark}
              <select bind:value={stamps}
                ><option value="start">{say.weather.theStartOfItsHour}</option><option value="end">{say.weather.theEndOfItsHour}</option
                ></select
              ></label
            >
            <label
              >{say.weather.utcOffsetOfLocalTimes}
              <input inputmode="decimal" bind:value={offset} placeholder={say.weather.onlyForTimeLocal} /></label
            >
            <button class="btn small go" disabled={busy}>{say.common.importWord}</button>
          </form>
        {/if}
        {#each page.imports as i (i.id)}<p>
            <b>{i.file_name}</b>{say.weather.hoursImported(i.rows, when(i.at, now))} <span class="mute">{i.notes.join(" ")}</span>
          </p>{/each}
      </section>
    </div>
  {/if}
</div>

<style>
  .page {
    padding: 16px 24px;
    display: grid;
    gap: 14px;
    align-content: start;
    min-width: 0;
  }
  .ttl {
    display: flex;
    gap: 24px;
    align-items: center;
    flex-wrap: wrap;
  }
  .tabs {
    display: flex;
    gap: 8px;
  }
  h1 {
    font-size: 34px;
  }
  .nowair {
    display: flex;
    gap: 34px;
    align-items: end;
    flex-wrap: wrap;
    font-size: 14px;
  }
  .nowair .num {
    display: block;
    font-size: 44px;
  }
  .verdict {
    max-width: 420px;
    font-size: 16px;
  }
  .two {
    display: grid;
    grid-template-columns: 1fr 1fr;
    gap: 24px;
    border-top: 2px solid var(--ink);
    padding-top: 12px;
  }
  .two section {
    display: grid;
    gap: 8px;
    align-content: start;
  }
  form,
  .ask {
    display: grid;
    grid-template-columns: 1fr 1fr;
    gap: 10px;
    align-items: end;
  }
  .wide {
    grid-column: 1 / -1;
  }
  .row {
    display: flex;
    gap: 10px;
    align-items: center;
    flex-wrap: wrap;
  }
  label {
    font-weight: 640;
    font-size: 14px;
  }
  .refusal {
    border-left: 6px solid var(--ink);
    padding-left: 10px;
  }
  figure {
    overflow: hidden;
  }
  @media (max-width: 700px) {
    .two {
      grid-template-columns: 1fr;
    }
    .page {
      padding: 12px 16px;
    }
  }
</style>
