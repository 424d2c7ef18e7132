<script lang="ts">
  /** What this device does when something is due: each by itself, as it is now, and what it cannot do. */
  import { awake } from "../lib/awake.svelte";
  import { light, LIGHTS } from "../lib/light.svelte";
  import { notice } from "../lib/notice.svelte";
  import { canBuzz, canSound, ring, touched } from "../lib/sound";
  import { stow } from "../lib/stow.svelte";
  import { version } from "../lib/version.svelte";
  import { say } from "../words";

  type Props = { calendar?: string };
  /** `calendar`: where the plan is as a file whose alarms the phone rings itself. */
  let { calendar = "" }: Props = $props();
  let sounds = $state(canSound());
  let tried = $state(false);
  const touch = matchMedia("(pointer: coarse)").matches;

  function attempt(): void {
    touched();
    setTimeout(() => {
      sounds = canSound();
      ring("closes");
      tried = true;
    }, 150);
  }
</script>

<section class="device" aria-labelledby="this-device">
  <div class="row" role="group" aria-label={say.device.light}>
    <b>{say.device.light}</b>
    {#each LIGHTS as id (id)}<button
        class="btn"
        class:go={light.choice === id}
        aria-pressed={light.choice === id}
        onclick={() => light.choose(id)}>{say.device.lights[id || "asSet"]}</button
      >{/each}
  </div>
  <h2 id="this-device">{say.device.title}</h2>
  <dl>
    <dt>{say.device.sound}</dt>
    <dd>
      {sounds ? (tried ? say.device.soundTried : say.device.soundOn) : say.device.soundAfterTouch}
      <button class="btn" onclick={attempt}>{say.device.tryIt}</button>
    </dd>
    <dt>{say.device.vibration}</dt>
    <dd>{canBuzz() ? (touch ? say.device.vibrates : say.device.noMotor) : say.device.notHere}</dd>
    <dt>{say.device.screen}</dt>
    <dd>
      {!awake.known ? say.device.notHere : awake.held ? say.device.screenHeld : awake.refused ? say.device.refused : say.device.screenWill}
    </dd>
    <dt>{say.device.message}</dt>
    <dd>
      {#if !notice.known || !notice.ready}{say.device.notHere}
      {:else if notice.state === "granted"}{say.device.messageOn}
      {:else if notice.state === "denied"}{say.device.messageDenied}
      {:else}<button class="btn" onclick={() => notice.ask()}>{say.device.allow}</button>{/if}
    </dd>
    <dt>{say.device.noNetwork}</dt>
    <dd>{version.kept ? say.device.opens(stow.jobs) : say.device.staysOpen}</dd>
  </dl>
  <p>{say.device.screenOff}</p>
  {#if calendar}<a class="btn" href={calendar} download>{say.device.toCalendar}</a>{/if}
</section>

<style>
  .device {
    display: grid;
    gap: 8px;
    padding: 12px 16px;
  }
  .row {
    display: flex;
    flex-wrap: wrap;
    gap: 8px;
    align-items: center;
  }
  .row b {
    flex-basis: 100%;
  }
  dl {
    display: grid;
    grid-template-columns: auto 1fr;
    gap: 4px 16px;
    align-items: center;
  }
  dt {
    font-weight: 640;
  }
  dd {
    margin: 0;
    min-height: 32px;
    display: flex;
    flex-wrap: wrap;
    align-items: center;
    gap: 8px 12px;
  }
  .btn {
    min-height: 56px;
  }
</style>
