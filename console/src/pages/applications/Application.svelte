<script lang="ts">
  import Later from '../../lib/components/Later.svelte';
  import ProblemNote from '../../lib/components/ProblemNote.svelte';
  import { applications } from '../../lib/query.svelte';
  import type { Query } from '../../lib/router.svelte';
  import { session } from '../../lib/session.svelte';
  import ApplicationAccounts from './ApplicationAccounts.svelte';
  import ApplicationFacts from './ApplicationFacts.svelte';
  import ApplicationFaults from './ApplicationFaults.svelte';
  import ApplicationHead from './ApplicationHead.svelte';
  import ReadingsPart from './ReadingsPart.svelte';
  import Windows from './Windows.svelte';

  let { id, query = {} }: { id: string; query?: Query } = $props();
  const load = applications();
  const row = $derived(load.data?.find((one) => one.id === id));
</script>

<svelte:head><title>{row?.name ?? 'Application'} · Yugum</title></svelte:head>
<ProblemNote problem={load.problem} />
{#if row}
  <ApplicationHead {row} changed={() => void load.run()} />
  <ApplicationFacts {row} />
  {#if row.kind !== 'sign-on'}
    <h2>A leaver’s account</h2>
    <Windows {row} />
    <ApplicationFaults {id} />
    <ReadingsPart {id} />
    {#if row.kind === 'manual' && session.mayAct}
      <Later load={() => import('./TakeFile.svelte')} {id} />
    {/if}
    <ApplicationAccounts {id} {query} />
  {/if}
{:else if load.data}
  <h1>No such application</h1>
  <p>
    There is no application <span class="mono">{id}</span>.
    <a href="/applications">All there are</a>
  </p>
{/if}
