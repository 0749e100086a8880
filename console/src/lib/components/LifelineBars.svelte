<script lang="ts">
  import type { Drawn } from '../lifeline.svelte';

  let { bars, y }: { bars: Drawn[]; y: number } = $props();
  const CHAR = 5.9;
</script>

{#each bars as bar (bar.state + bar.x + bar.planned)}
  {#if bar.state === 'purged'}
    <path d="M{bar.x - 5} {y + 2}l10 10M{bar.x + 5} {y + 2}l-10 10" class="cross" />
  {:else if bar.state === 'deleted'}
    <path
      d="M{bar.x} {y}H{bar.x + bar.width}V{y + 14}z"
      class="deleted"
      class:planned={bar.planned}
    />
    {#if bar.ends}<path d="M{bar.x + bar.width} {y - 3}v20" class="end" />{/if}
  {:else}
    <rect
      x={bar.x}
      {y}
      width={bar.width}
      height="14"
      rx="1.5"
      class={bar.state}
      class:planned={bar.planned}
    />
  {/if}
  {#if bar.label}
    <rect x={bar.x + 5} y={y + 1} width={bar.label.length * CHAR + 8} height="12" class="back" />
    <text x={bar.x + 9} y={y + 11} class="label">{bar.label}</text>
  {/if}
{/each}

<style>
  .active {
    fill: var(--color-success-600-400);
    stroke: var(--color-success-600-400);
  }
  .active.planned {
    fill: url(#hatch-active);
  }
  .suspended {
    fill: var(--color-surface-100-900);
    stroke: var(--color-warning-600-400);
    stroke-width: 1.4;
  }
  .suspended.planned {
    fill: url(#hatch-suspended);
  }
  .archived {
    fill: var(--color-surface-200-800);
    stroke: var(--color-tertiary-600-400);
    stroke-dasharray: 2 2;
  }
  .deleted {
    fill: var(--color-secondary-600-400);
    stroke: var(--color-secondary-600-400);
  }
  .deleted.planned {
    fill: url(#hatch-deleted);
  }
  .end {
    stroke: var(--color-secondary-600-400);
    stroke-width: 2.5;
  }
  .cross {
    stroke: var(--color-surface-contrast-50-950);
    stroke-width: 2.2;
    fill: none;
  }
  .back {
    fill: var(--color-surface-100-900);
  }
  .label {
    font-size: 11.5px;
    fill: var(--color-surface-contrast-50-950);
  }
</style>
