<script lang="ts">
  /** Words to pick from, in lines by what they have in common. */
  import { say } from "../words";

  type Word = { id: string; name: string; group: string };
  /** `some`: what only some of the parts have. */
  type Props = { title: string; words: Word[]; picked: string[]; some?: string[]; toggle: (id: string) => void };
  let { title, words, picked, some = [], toggle }: Props = $props();
  const NAMES = say.wordGroups as Record<string, string>;
  const groups = $derived([...new Set(words.map((w) => w.group))]);
</script>

<div class="choices" role="group" aria-label={title}>
  <b>{title}</b>
  {#each groups as g (g)}
    <span class="mute">{NAMES[g] ?? g}</span>
    <div class="row">
      {#each words.filter((w) => w.group === g) as w (w.id)}
        <button
          type="button"
          class="btn small"
          class:go={picked.includes(w.id)}
          class:some={some.includes(w.id)}
          aria-pressed={some.includes(w.id) ? "mixed" : picked.includes(w.id)}
          onclick={() => toggle(w.id)}>{w.name}{some.includes(w.id) ? say.surveyForm.someParts : ""}</button
        >
      {/each}
    </div>
  {/each}
</div>

<style>
  .choices {
    display: grid;
    grid-template-columns: 74px 1fr;
    gap: 6px 10px;
    align-items: center;
  }
  .choices > b {
    grid-column: 1 / -1;
  }
  .row {
    display: flex;
    gap: 6px;
    flex-wrap: wrap;
  }
  .row .some {
    border-style: dashed;
    border-width: 2px;
  }
  .row .btn {
    padding: 0 10px;
    font-size: 14px;
  }
  @media (max-width: 700px) {
    .choices {
      grid-template-columns: 1fr;
    }
  }
</style>
