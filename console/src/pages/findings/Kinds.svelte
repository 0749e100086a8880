<script lang="ts">
  import type { Schemas } from '../../lib/api';
  import { FINDINGS } from '../../lib/words';

  interface Props {
    found: Schemas['FindingCount'][];
    /** How many in all, in words. */
    all: string;
    kind: string;
    onask: (kind: string) => void;
  }
  let { found, all, kind, onask }: Props = $props();
</script>

<div class="kinds" role="group" aria-label="Kinds of findings">
  <button class:here={!kind} aria-pressed={!kind} onclick={() => onask('')}>all {all}</button>
  {#each found as c (c.kind)}
    <button
      class:here={kind === c.kind}
      aria-pressed={kind === c.kind}
      onclick={() => onask(c.kind)}
      >{FINDINGS[c.kind] ?? c.kind} {c.over ? 'over ' : ''}{c.count.toLocaleString('en-GB')}</button
    >
  {/each}
</div>

<style>
  .kinds {
    display: flex;
    flex-wrap: wrap;
    gap: 6px;
    margin-bottom: 12px;
  }
  .kinds button {
    font: inherit;
    border: 1px solid var(--color-surface-300-700);
    background: var(--color-surface-100-900);
    color: var(--color-surface-contrast-50-950);
    border-radius: 4px;
    padding: 3px 9px;
    cursor: pointer;
  }
  .kinds .here {
    background: var(--color-surface-contrast-50-950);
    color: var(--color-surface-50-950);
  }
</style>
