<svelte:options namespace="svg" />

<script lang="ts">
  import type { Term } from './steps';

  /** Terms that end, as bands over a step chart. */
  let { terms }: { terms: Term[] } = $props();
</script>

{#each terms as term (term.key)}
  <rect x={term.x} y={term.y} width={term.width} height="11" />
  <text x={term.x + 4} y={term.y + 9}>{term.says}</text>
{/each}

<style>
  text {
    font-size: 9px;
    fill: var(--color-surface-700-300);
  }
  rect {
    fill: none;
    stroke: var(--color-success-600-400);
  }
</style>
