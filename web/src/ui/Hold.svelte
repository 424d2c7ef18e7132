<script lang="ts">
  /** The one big action: fires on release after a hold of 0.4 s, or by Enter; a brush past it does nothing.
   *
   * What it does changes with the clock and with other people's taps: a hold begun on one deed is not
   * let go on another.  `about` names what the deed is done to.
   */
  import { say } from "../words";
  /** `small`: what may be done and is not what should be: it stands back behind the wait. */
  type Props = { label: string; note: string; about: string; fire: () => void; small?: boolean };
  let { label, note, about, fire, small = false }: Props = $props();
  const HOLD_MS = 400;
  let since = $state(0);
  let armed = $state(false);
  let held = $state("");
  const deed = $derived(`${label} ${about}`);
  const ready = $derived(armed && held === deed);
  let timer: ReturnType<typeof setTimeout>;

  function down(event: PointerEvent): void {
    if (event.button !== 0) return;
    since = performance.now();
    held = deed;
    timer = setTimeout(() => (armed = true), HOLD_MS);
  }
  function up(): void {
    clearTimeout(timer);
    const long = since > 0 && performance.now() - since >= HOLD_MS;
    since = 0;
    armed = false;
    if (long && held === deed) fire();
  }
  function away(): void {
    clearTimeout(timer);
    since = 0;
    armed = false;
  }
  /** From a keyboard or a screen reader there is no holding: those do not brush past. */
  function click(event: MouseEvent): void {
    if (event.detail === 0) fire();
  }
  function key(event: KeyboardEvent): void {
    if (event.repeat) event.preventDefault();
  }
</script>

<button
  class:armed={ready}
  class:small
  onpointerdown={down}
  onpointerup={up}
  onpointerleave={away}
  onpointercancel={away}
  onkeydown={key}
  onclick={click}
  oncontextmenu={(e) => e.preventDefault()}
>
  <b>{label}</b><span>{ready ? say.hold.letGoToConfirm : note}</span><small>{say.hold.pressAndHold}</small>
</button>

<style>
  button {
    flex: 1;
    min-height: 104px;
    display: flex;
    flex-direction: column;
    justify-content: center;
    align-items: center;
    background: var(--act);
    color: var(--on-act);
    border: 0;
    border-top: 3px solid var(--ink);
    width: 100%;
    font: inherit;
    touch-action: manipulation;
    user-select: none;
  }
  b {
    font-stretch: 72%;
    font-weight: 840;
    font-size: 46px;
    line-height: 1;
  }
  span {
    font-size: 16px;
    margin-top: 4px;
  }
  small {
    font-size: 13px;
    margin-top: 6px;
    opacity: 0.8;
  }
  .small {
    flex: none;
    margin-top: auto;
    min-height: 56px;
    padding: 4px 12px;
    background: var(--field);
    color: var(--ink);
    border-top-width: 2px;
  }
  .small b {
    font-size: 20px;
  }
  .small span {
    font-size: 14px;
    margin-top: 2px;
    text-align: center;
  }
  .small small {
    margin-top: 2px;
  }
  .armed {
    background: var(--edge);
  }
</style>
