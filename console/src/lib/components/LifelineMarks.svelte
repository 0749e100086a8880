<script lang="ts">
  import type { Lifeline } from '../lifeline.svelte';

  interface Props {
    line: Lifeline;
    /** When access ends. */
    ends: string | null | undefined;
  }
  /** Now, the end of access, and the event that is walked to. */
  let { line, ends }: Props = $props();
  const flag = $derived(ends ? line.x(Date.parse(ends)) : null);
  const here = $derived(line.events[line.walked]);
</script>

{#if flag !== null && Date.parse(ends ?? '') > line.now}
  <path d="M{flag} 22V{line.height}" class="flag" />
  <path d="M{flag - 5} 20h10l-5 7z" class="flag-head" />
  <text x={flag + 9} y="29" class="flag-text">access ends</text>
{/if}
{#if here}
  <path d="M{line.x(Date.parse(here.at))} 30V{line.height}" class="walk" />
{/if}
<path d="M{line.x(line.now)} 20V{line.height}" class="now" />
<text x={line.x(line.now) - 5} y="14" class="now-text" text-anchor="end">now</text>

<style>
  .now {
    stroke: var(--color-error-500);
    stroke-width: 2;
  }
  .now-text {
    font-size: 12px;
    font-weight: 700;
    fill: var(--color-error-600-400);
  }
  .flag {
    stroke: var(--color-surface-contrast-50-950);
    stroke-dasharray: 2 3;
  }
  .flag-head {
    fill: var(--color-surface-contrast-50-950);
  }
  .flag-text {
    font-size: 12px;
    font-weight: 640;
    fill: var(--color-surface-contrast-50-950);
  }
  .walk {
    stroke: var(--color-primary-600-400);
    stroke-width: 2;
  }
</style>
