<script lang="ts">
  import type { Schemas } from '../../lib/api';
  import Later from '../../lib/components/Later.svelte';
  import ProblemNote from '../../lib/components/ProblemNote.svelte';
  import StandingTable from '../../lib/components/StandingTable.svelte';
  import type { Wish } from '../../lib/plan.svelte';
  import { session } from '../../lib/session.svelte';
  import { Settling } from './settling.svelte';

  let { view, onwish }: { view: Schemas['PersonView']; onwish: (wish: Wish) => void } = $props();
  const open = $derived(view.standing.some((row) => row.status === 'finding'));
  const settling = new Settling();
</script>

{#if view.standing.length}
  <h2>Not as it should be</h2>
  <ProblemNote problem={settling.open ? null : settling.problem} />
  <StandingTable rows={view.standing}>
    {#snippet act(row)}
      {#if !session.mayAct}{:else if row.status === 'finding'}
        <button class="bare link" onclick={() => settling.begin(row)}>Accept …</button>
      {:else if row.acceptance_id}
        <button
          class="bare link"
          disabled={settling.busy}
          onclick={() => void settling.reopen(row.acceptance_id!)}>Accept it no longer</button
        >
      {/if}
    {/snippet}
  </StandingTable>
  {#if open && session.mayAct}
    <p>
      <button class="button" onclick={() => onwish({ verb: 'recheck', who: [view.id] })}
        >Recheck …</button
      >
    </p>
  {/if}
{/if}
{#if settling.open}
  <Later load={() => import('./SettleLine.svelte')} {settling} />
{/if}
