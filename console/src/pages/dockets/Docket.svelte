<script lang="ts">
  import Fidelity from '../../lib/components/Fidelity.svelte';
  import Later from '../../lib/components/Later.svelte';
  import ProblemNote from '../../lib/components/ProblemNote.svelte';
  import { DocketState } from '../../lib/docket.svelte';
  import DocketCards from './DocketCards.svelte';
  import DocketHead from './DocketHead.svelte';
  import DocketMatrix from './DocketMatrix.svelte';
  import Handovers from './Handovers.svelte';
  import Receipts from './Receipts.svelte';

  let { name }: { name: string } = $props();
  // svelte-ignore state_referenced_locally
  const docket = new DocketState(name);
  let undoing = $state(false);
  const view = $derived(docket.view);
</script>

<svelte:head><title>{name} · Yugum</title></svelte:head>
<ProblemNote problem={docket.problem} />
{#if view}
  <DocketHead {docket} {view} onundo={() => (undoing = true)} />
  <DocketCards {docket} {view} />
  {#each view.cautions as caution (caution.text)}
    <p class="sheet warn">{caution.text}</p>
  {/each}
  {#if view.steps.length}
    <DocketMatrix {docket} />
    <Receipts {docket} {view} />
    {#if view.state === 'done'}<Handovers docket={view.number} />{/if}
  {:else if view.state === 'scheduled'}
    <p>Planned again from what is seen when it is due; nothing has happened yet.</p>
    {#each view.summary as line (line)}<p>{line}</p>{/each}
  {:else if view.state === 'awaiting'}
    <p>It waits for somebody to agree; it is planned again from what is seen then.</p>
    {#each view.summary as line (line)}<p>{line}</p>{/each}
  {:else}
    <p>
      {view.state === 'cancelled'
        ? 'It was cancelled before anything was done.'
        : 'There was nothing to do.'}
    </p>
  {/if}
  <Fidelity lines={view.fidelity} />
  {#if undoing}
    <Later
      load={() => import('../../lib/components/PlanPanel.svelte')}
      wish={{ verb: 'undo', docket: view.number }}
      who={view.number}
      onclose={() => (undoing = false)}
    />
  {/if}
{/if}
