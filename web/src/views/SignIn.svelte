<script lang="ts">
  import { outbox } from "../lib/outbox.svelte";
  import { session } from "../lib/session.svelte";
  import { say } from "../words";

  let name = $state("");
  let password = $state("");
  let refusal = $state("");
  let busy = $state(false);
  let shop = $state("");
  let founding = $state(false);

  /** Come here by the code on another screen: it is good once, so it goes out of the address. */
  const PAIR = /^#\/pair\/([\w-]+)$/;
  $effect(() => {
    const code = PAIR.exec(location.hash)?.[1];
    if (!code) return;
    location.hash = "#/";
    void session.pair(code).then((why) => (refusal = why));
  });

  async function submit(event: SubmitEvent): Promise<void> {
    event.preventDefault();
    busy = true;
    refusal = founding ? await session.found(shop, name, password) : await session.signIn(name, password);
    if (!refusal && founding) location.hash = "#/first";
    busy = false;
    if (!refusal) void outbox.send();
  }
</script>

<main>
  <form onsubmit={submit}>
    <svg width="64" height="64" viewBox="0 0 24 24" aria-hidden="true"
      ><path d="M1 22V17H23V22Z" fill="var(--ink)" /><path d="M7 15.4V10.4H23V15.4Z" fill="var(--edge)" /><path
        d="M13 8.8V3.8H23V8.8Z"
        fill="none"
        stroke="var(--ink)"
        stroke-width="1.6"
        stroke-dasharray="2.6 1.8"
      /></svg
    >
    <h1>Coat Log</h1>
    {#if founding}<label>{say.signIn.shopName} <input name="shop" bind:value={shop} required /></label>{/if}
    <label
      >{founding ? say.common.userName : say.common.userName}
      <input name="username" autocomplete="username" bind:value={name} required /></label
    >
    <label
      >{say.signIn.password}
      <input
        name="password"
        type="password"
        autocomplete={founding ? "new-password" : "current-password"}
        bind:value={password}
        required
      />{#if founding}<span class="rule">{say.signIn.passwordRule}</span>{/if}</label
    >
    {#if refusal}<p role="alert"><b>{refusal}</b></p>{/if}
    {#if outbox.waiting > 0}<p>{say.signIn.entriesAreStoredOnThis(outbox.waiting)}</p>{/if}
    <button class="btn go" disabled={busy}>{founding ? say.signIn.createShop : say.signIn.signIn}</button>
    <button
      class="btn"
      type="button"
      onclick={() => {
        founding = !founding;
        refusal = "";
      }}>{founding ? say.signIn.signInToAnExisting : say.signIn.createANewShop}</button
    >
  </form>
</main>

<style>
  main {
    min-height: 100vh;
    display: grid;
    place-items: center;
    padding: 16px;
  }
  form {
    width: 340px;
    max-width: 100%;
    display: grid;
    gap: 16px;
  }
  h1 {
    font-size: 42px;
    font-stretch: 100%;
  }
  .rule {
    font-weight: 450;
    font-size: 14px;
  }
  label {
    display: grid;
    gap: 4px;
    font-weight: 640;
  }
</style>
