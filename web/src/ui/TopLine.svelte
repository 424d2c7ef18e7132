<script lang="ts">
  /** Mark, areas, what waits on this device, the clock. */
  import { router } from "svelte-spa-router";
  import { serverClock } from "../lib/clock.svelte";
  import { clockTime, dayName, when } from "../lib/format";
  import { network } from "../lib/network.svelte";
  import { outbox } from "../lib/outbox.svelte";
  import { session } from "../lib/session.svelte";
  import { say } from "../words";

  const areas = [
    [say.common.today, "/"],
    [say.common.jobs, "/jobs"],
    [say.common.materials, "/shelf"],
    [say.common.weather, "/weather"],
    [say.common.durability, "/record"],
  ] as const;
  const here = $derived(router.location ?? "/");
  /** On a phone the page with the big button has no room to spare. */
  const slim = $derived(/^\/jobs\/[^/]+\/run/.test(here));
  const on = (path: string): boolean => (path === "/" ? here === "/" : here.startsWith(path));
</script>

<header class="top" class:slim>
  <a class="mark" href="#/">
    <svg width="24" height="24" viewBox="0 0 24 24" aria-hidden="true"
      ><path d="M1 22V17H23V22Z" fill="var(--ink)" /><path d="M7 15.4V10.4H23V15.4Z" fill="var(--edge)" /><path
        d="M13 8.8V3.8H23V8.8Z"
        fill="none"
        stroke="var(--ink)"
        stroke-width="1.6"
        stroke-dasharray="2.6 1.8"
      /></svg
    >
    <span class="name">Coat Log</span>
  </a>
  <nav aria-label={say.menu.mainMenu}>
    {#each areas as [name, path] (path)}
      <a href={`#${path}`} aria-current={on(path) ? "page" : undefined}>{name}</a>
    {/each}
  </nav>
  <div class="right">
    {#if network.down}<span role="status" class="off"
        >{network.kept_at ? say.menu.noConnection(when(network.kept_at, serverClock.now)) : say.menu.noConnectionNothing}</span
      >{/if}
    {#if outbox.waiting > 0}<span role="status">{say.menu.notSentYet(outbox.waiting)}</span>{/if}
    <a class="who" href="#/shop" aria-current={on("/shop") ? "page" : undefined}>{session.who?.shop}</a>
    <button class="out" onclick={() => session.signOut()}>{say.menu.signOut(session.who?.user ?? "")}</button>
    <span class="num clock">{clockTime(serverClock.now)}</span>
    <span class="day">{dayName(serverClock.now)}</span>
  </div>
</header>

<style>
  .top {
    display: flex;
    align-items: center;
    min-height: 44px;
    padding: 0 24px;
    gap: 22px;
  }
  .mark {
    display: flex;
    align-items: center;
    gap: 9px;
    font-stretch: 118%;
    font-weight: 820;
    font-size: 17px;
    white-space: nowrap;
  }
  nav {
    display: flex;
    gap: 2px;
  }
  nav a {
    height: 44px;
    padding: 0 13px;
    display: flex;
    align-items: center;
    font-weight: 560;
    color: var(--ink2);
  }
  nav a[aria-current] {
    color: var(--ink);
    font-weight: 720;
    box-shadow: inset 0 -5px var(--ink);
  }
  .right {
    margin-left: auto;
    display: flex;
    align-items: center;
    gap: 18px;
    color: var(--ink2);
    white-space: nowrap;
  }
  .who {
    text-decoration: underline;
    text-underline-offset: 3px;
    min-height: 44px;
    display: inline-flex;
    align-items: center;
  }
  .off {
    font-weight: 720;
    color: var(--ink);
  }
  .clock {
    font-size: 25px;
    color: var(--ink);
  }
  .out {
    font: inherit;
    color: inherit;
    background: none;
    border: 0;
    text-decoration: underline;
    text-underline-offset: 3px;
    cursor: pointer;
    min-height: 44px;
  }
  @media (max-width: 1000px) {
    .top {
      gap: 10px;
    }
    /* The mark alone; its name is still read out. */
    .name {
      position: absolute;
      width: 1px;
      height: 1px;
      overflow: hidden;
      clip-path: inset(50%);
    }
    .right {
      min-width: 0;
    }
    .who {
      display: block;
      min-width: 0;
      line-height: 44px;
      overflow: hidden;
      text-overflow: ellipsis;
    }
    .day {
      display: none;
    }
  }
  @media (max-width: 700px) {
    .top {
      padding: 0 12px;
      gap: 6px;
      flex-wrap: wrap;
    }
    .mark {
      min-height: 44px;
      min-width: 30px;
    }
    nav {
      flex: 1;
      justify-content: space-between;
    }
    nav a {
      padding: 0 4px;
      font-size: 14px;
      font-stretch: 88%;
    }
    .right {
      gap: 14px;
      width: 100%;
      min-width: 0;
      font-size: 15px;
    }
    .clock {
      margin-left: auto;
    }
    .slim .who,
    .slim .out,
    .slim .clock {
      display: none;
    }
  }
</style>
