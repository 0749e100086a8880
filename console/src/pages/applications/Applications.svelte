<script lang="ts">
  import Later from '../../lib/components/Later.svelte';
  import ProblemNote from '../../lib/components/ProblemNote.svelte';
  import { plural } from '../../lib/format';
  import { applications } from '../../lib/query.svelte';
  import { session } from '../../lib/session.svelte';
  import ApplicationTable from './ApplicationTable.svelte';
  import Gone from './Gone.svelte';
  import Stop from './Stop.svelte';

  const load = applications();
  let connecting = $state(false);
  const rows = $derived(load.data ?? []);
  const silent = $derived(rows.filter((r) => r.problem).length);
  const watched = $derived(rows.filter((r) => r.trust === 'watch').length);
  const paused = $derived(rows.filter((r) => r.paused_until).length);
</script>

<svelte:head><title>Applications · Yugum</title></svelte:head>
<h1>Applications</h1>
{#if load.data}
  <div class="facts">
    <span><b>{rows.length}</b> connected</span>
    <span class:short={silent > 0}
      ><b>{silent}</b> {silent === 1 ? 'has a problem' : 'have a problem'}</span
    >
    <span><b>{watched}</b> only watched</span>
    {#if paused}<span><b>{plural(paused, 'pause')}</b> asked for</span>{/if}
  </div>
{/if}
<div class="acts">
  {#if session.mayAdminister}
    <button class="button do" onclick={() => (connecting = true)}>Connect an application</button>
  {/if}
  <Stop />
</div>
<ProblemNote problem={load.problem} />
{#if rows.length}
  <ApplicationTable {rows} changed={() => load.run()} />
{:else if load.data}
  <p>
    The systems where people hold accounts stand here. Connect the first one; it is only watched
    until you say more.
  </p>
{/if}
<Gone />
{#if connecting}
  <Later
    load={() => import('./Connect.svelte')}
    onclose={() => (connecting = false)}
    onmade={() => {
      connecting = false;
      void load.run();
    }}
  />
{/if}

<style>
  .acts {
    align-items: flex-start;
  }
</style>
