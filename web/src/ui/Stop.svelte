<script lang="ts">
  /** A stop: what, why, what to do instead. */
  import { say } from "../words";
  type Props = { what: string; why: string; instead: string; severity?: string };
  let { what, why, instead, severity = "stop" }: Props = $props();
</script>

<div class="stop" role="alert">
  <svg width="26" height="24" viewBox="0 0 26 24" aria-hidden="true"
    ><path d="M13 2L24.5 22H1.5Z" fill="none" stroke="currentColor" stroke-width="2.2" /><path
      d="M13 9v6M13 17.5v2"
      stroke="currentColor"
      stroke-width="2.4"
    /></svg
  >
  <p><b>{severity === "stop" ? say.stop.stop : say.common.caution}: {what}</b> {why} <span>{say.stop.whatToDo(instead)}</span></p>
</div>

<style>
  .stop {
    display: flex;
    gap: 12px;
    background: var(--ink);
    color: var(--on-ink);
    padding: 12px 14px;
  }
  svg {
    flex: none;
    margin-top: 1px;
  }
  span {
    display: block;
    font-weight: 680;
    margin-top: 2px;
  }
</style>
