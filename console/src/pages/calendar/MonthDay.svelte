<script lang="ts">
  import { monthName } from './month';
  import { summed, type ShownMonth } from './shown.svelte';

  /** One day of a month: what falls on it, summed. */
  let { shown, key }: { shown: ShownMonth; key: string } = $props();
</script>

<td
  class:other={!key.startsWith(shown.month)}
  class:today={key === shown.today}
  class:chosen={key === shown.day}
>
  <button onclick={() => (shown.day = key)} aria-pressed={key === shown.day}>
    <span class="number"
      >{Number(key.slice(8))}<span class="sr-only"> {monthName(key.slice(0, 7))}</span></span
    >
    {#each summed(shown.byDay[key] ?? []) as line (line)}<span class="line">{line}</span>{/each}
  </button>
</td>

<style>
  td {
    border-bottom: 1px solid var(--color-surface-300-700);
    border-right: 1px solid var(--color-surface-300-700);
    padding: 0;
    height: 76px;
    vertical-align: top;
  }
  td:last-child {
    border-right: 0;
  }
  button {
    width: 100%;
    min-height: 76px;
    text-align: left;
    padding: 4px 6px;
    background: none;
    border: 0;
    color: inherit;
    font: inherit;
    cursor: pointer;
    display: flex;
    flex-direction: column;
  }
  button:hover {
    background: var(--color-surface-200-800);
  }
  .number {
    font-weight: 640;
  }
  .line {
    font-size: 12.5px;
    line-height: 17px;
  }
  .other .number {
    color: var(--color-surface-600-400);
    font-weight: 400;
  }
  .today .number {
    color: var(--color-error-600-400);
  }
  .chosen {
    box-shadow: inset 0 0 0 2px var(--color-surface-contrast-50-950);
  }
</style>
