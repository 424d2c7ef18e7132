<script lang="ts">
  import Router from "svelte-spa-router";
  import Patterns from "./figures/Patterns.svelte";
  import { light } from "./lib/light.svelte";
  import { type Aside, outbox } from "./lib/outbox.svelte";
  import { session } from "./lib/session.svelte";
  import { stow } from "./lib/stow.svelte";
  import { version } from "./lib/version.svelte";
  import { notice } from "./lib/notice.svelte";
  import Alarms from "./ui/Alarms.svelte";
  import SetAside from "./ui/SetAside.svelte";
  import TopLine from "./ui/TopLine.svelte";
  import SignIn from "./views/SignIn.svelte";
  import JobView from "./views/job/JobView.svelte";
  import JobsView from "./views/jobs/JobsView.svelte";
  import NewJob from "./views/jobs/NewJob.svelte";
  import NowView from "./views/now/NowView.svelte";
  import RecordView from "./views/record/RecordView.svelte";
  import ShelfView from "./views/shelf/ShelfView.svelte";
  import FirstRun from "./views/shop/FirstRun.svelte";
  import ShopView from "./views/shop/ShopView.svelte";
  import WeatherView from "./views/weather/WeatherView.svelte";
  import { LANGUAGES, say, speak } from "./words";

  const routes = {
    "/": NowView,
    "/jobs": JobsView,
    "/jobs/new": NewJob,
    "/jobs/:id/:step": JobView,
    "/shelf": ShelfView,
    "/weather": WeatherView,
    "/record": RecordView,
    "/shop": ShopView,
    "/first": FirstRun,
    "*": NowView,
  };
  let main = $state<HTMLElement>();
  let spoken = $state("");
  /** What belongs together was refused together. */
  const asideGroups = $derived.by(() => {
    const groups: Record<string, Aside[]> = {};
    for (const a of outbox.aside) (groups[a.entry.group_id ?? a.entry.id] ??= []).push(a);
    return Object.entries(groups);
  });

  // Before anything is drawn: what is drawn takes its words as it comes up.
  const language = $derived.by(() => {
    const wanted = session.who?.preferences.language ?? LANGUAGES.find(([id]) => navigator.language.startsWith(id))?.[0] ?? "en";
    speak(wanted);
    return wanted;
  });
  $effect(() => {
    document.documentElement.lang = language;
  });
  $effect(() => {
    const theme = light.choice || (session.who?.preferences.theme ?? "system");
    if (theme === "system") delete document.documentElement.dataset.theme;
    else document.documentElement.dataset.theme = theme;
  });
  const AGAIN_MS = 3000;
  $effect(() => {
    let again: ReturnType<typeof setTimeout>;
    async function look(): Promise<void> {
      await session.look();
      if (session.asked) {
        outbox.start();
        stow.start();
        void version.start();
        notice.start();
      } else again = setTimeout(() => void look(), AGAIN_MS);
    }
    void look();
    return () => clearTimeout(again);
  });
  // Somebody may sign in by another window of this browser: then this one is theirs too.
  const AT_THE_DOOR_MS = 5000;
  $effect(() => {
    if (session.who || !session.asked) return;
    const again = setInterval(() => void session.look(), AT_THE_DOOR_MS);
    return () => clearInterval(again);
  });
  /** A page change is announced and takes the focus, as a document's would. */
  function arrived(): void {
    spoken = document.querySelector("main h1")?.textContent ?? "";
    document.title = [spoken, "Coat Log"].filter(Boolean).join(". ");
    main?.focus({ preventScroll: true });
  }
</script>

<Patterns />
<p class="sr" aria-live="polite">{spoken}</p>
{#key language}
  {#if session.who}
    <button class="skip" onclick={() => main?.focus()}>{say.app.skipToContent}</button>
    <TopLine />
    <Alarms />
    {#if outbox.homeless}<p class="aside" role="alert"><b>{say.app.homeless}</b></p>{/if}
    {#if version.newer}<p class="aside" role="status">
        {say.app.newVersion} <button class="btn small" onclick={() => version.load()}>{say.app.loadIt}</button>
      </p>{/if}
    {#each asideGroups as [id, some] (id)}<SetAside {some} />{/each}
    {#each outbox.others as other (other.by)}
      <p class="aside" role="status">{say.app.waitsFor(other.n, other.by)}</p>
    {/each}
    <main bind:this={main} tabindex="-1"><Router {routes} onRouteLoaded={() => setTimeout(arrived, 120)} /></main>
  {:else if session.asked}
    <SignIn />
  {:else if session.problem}
    <p class="aside" role="alert"><b>{session.problem}</b> {say.app.tryingAgainEveryFewSeconds}</p>
  {/if}
{/key}

<style>
  .skip {
    position: absolute;
    left: 8px;
    top: -60px;
    z-index: 20;
    min-height: 44px;
    padding: 0 16px;
    font: inherit;
    background: var(--ink);
    color: var(--on-ink);
    border: 0;
  }
  .skip:focus {
    top: 4px;
  }
  /* However many lines stand above it, the page ends at the foot of the screen: the big button gives way. */
  :global(#app) {
    display: flex;
    flex-direction: column;
    min-height: 100dvh;
  }
  main {
    outline: none;
    flex: 1;
    display: flex;
    flex-direction: column;
  }
  .aside {
    display: flex;
    flex-wrap: wrap;
    gap: 8px 12px;
    align-items: center;
    margin: 0;
    padding: 8px 24px;
    background: var(--lift);
    border-top: 2px solid var(--ink);
  }
</style>
