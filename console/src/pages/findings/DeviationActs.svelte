<script lang="ts">
  import type { Schemas } from '../../lib/api';
  import { href } from '../../lib/router.svelte';
  import { session } from '../../lib/session.svelte';
  import type { Deciding } from './deciding.svelte';

  /** What can be done about one change outside, or what was. */
  let { row, it }: { row: Schemas['Deviation']; it: Deciding } = $props();
  const MEANS: Record<Schemas['Meaning'], string> = {
    leaver: 'Leaver …',
    absence: 'Absence …',
    precaution: 'Precaution …'
  };
</script>

{#if it.done[row.id] === 'kept'}kept
{:else if it.done[row.id]}put back by
  <a href={href({ page: 'docket', name: it.done[row.id] ?? '' })}>{it.done[row.id]}</a>
{:else}
  <button class="button slim" onclick={() => it.decide(row.id, 'keep')} disabled={it.busy}
    >Keep</button
  >
  <button class="button slim" onclick={() => it.decide(row.id, 'revert')} disabled={it.busy}
    >Put back</button
  >
  {#if row.means.length && session.mayAct}
    <div class="soft">also in {row.elsewhere.length} other applications:</div>
    {#each row.means as means (means)}
      <button class="button slim" onclick={() => it.follow(row, means)}>{MEANS[means]}</button>
    {/each}
  {/if}
{/if}
