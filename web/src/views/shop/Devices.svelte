<script lang="ts">
  /** Where one is signed in, and the way out from each: a phone that is lost, a tablet that stays behind. */
  import { api, inWords, type Schemas } from "../../api/client";
  import { Answer } from "../../lib/answer.svelte";
  import { serverClock } from "../../lib/clock.svelte";
  import { when } from "../../lib/format";
  import { say } from "../../words";

  const told = new Answer<Schemas["DeviceOut"][]>();
  let refusal = $state("");
  let said = $state("");
  const devices = $derived(told.data ?? []);
  const load = async (): Promise<void> => void (await told.ask(() => api.GET("/api/devices")));
  $effect(() => void load());

  async function ended(error: unknown): Promise<void> {
    [refusal, said] = error ? [inWords(error), ""] : ["", say.devices.signedOut];
    await load();
  }
  const end = async (device_id: number): Promise<void> =>
    ended((await api.DELETE("/api/devices/{device_id}", { params: { path: { device_id } } })).error);
  const endOthers = async (): Promise<void> => ended((await api.DELETE("/api/devices")).error);
</script>

<h2>{say.devices.whereYouAreSignedIn}</h2>
{#if told.problem}<p class="mute" role="alert">{told.problem}</p>{/if}
{#if refusal}<p role="alert"><b>{refusal}</b></p>{/if}
{#if said}<p role="status">{said}</p>{/if}
<ul aria-label={say.devices.whereYouAreSignedIn}>
  {#each devices as d (d.id)}
    <li>
      <span><b>{d.name || say.devices.unknown}</b>, {say.devices.since(when(d.began_at, serverClock.now))}</span>
      {#if d.here}<span class="mute">{say.devices.here}</span>{:else}<button class="btn small" onclick={() => end(d.id)}
          >{say.devices.signOut}</button
        >{/if}
    </li>
  {/each}
</ul>
{#if devices.length > 1}<button class="btn" onclick={endOthers}>{say.devices.signOutOthers}</button>{/if}

<style>
  h2 {
    margin-top: 8px;
  }
  ul {
    list-style: none;
  }
  li {
    display: flex;
    flex-wrap: wrap;
    justify-content: space-between;
    align-items: center;
    gap: 8px 16px;
    min-height: 52px;
    border-top: 1px solid var(--rule);
  }
</style>
