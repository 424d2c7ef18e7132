<script lang="ts">
  /** Who sprays and with which gun, where it is not whoever is signed in: kept on this device, logged with each coat. */
  import { crew } from "../lib/crew.svelte";
  import { say } from "../words";
</script>

<details>
  <summary>{say.taps.painter}: {crew.painter || say.taps.me}{crew.gun ? `, ${crew.gun}` : ""}</summary>
  <div>
    <label
      >{say.taps.painter}
      <input
        maxlength="60"
        value={crew.painter}
        placeholder={say.taps.me}
        onchange={(e) => crew.say({ painter: e.currentTarget.value.trim() })}
      /></label
    >
    <label
      >{say.taps.gun}
      <input
        maxlength="60"
        value={crew.gun}
        placeholder={say.taps.gunHint}
        onchange={(e) => crew.say({ gun: e.currentTarget.value.trim() })}
      /></label
    >
  </div>
</details>

<style>
  summary {
    min-height: 44px;
    display: flex;
    align-items: center;
    cursor: pointer;
    text-decoration: underline;
    font-size: 14.5px;
  }
  div {
    display: grid;
    grid-template-columns: 1fr 1fr;
    gap: 8px;
    padding-bottom: 8px;
  }
  label {
    font-weight: 640;
    font-size: 14px;
  }
</style>
