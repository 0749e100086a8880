<script lang="ts">
  import { api, got } from '../../lib/api';
  import ProblemNote from '../../lib/components/ProblemNote.svelte';
  import { money, together } from '../../lib/format';
  import { ask } from '../../lib/query.svelte';
  import { href, type Query } from '../../lib/router.svelte';
  import Later from '../../lib/components/Later.svelte';
  import PoolsTable from './PoolsTable.svelte';

  const load = ask(
    ['seats'],
    () => ['seats'],
    (signal) => got(api.GET('/api/v1/seats', { signal }))
  );
  let { query = {} }: { query?: Query } = $props();
  const open = $derived(query.pool ?? '');
  const pools = $derived(load.data ?? []);
  const waiting = $derived(pools.reduce((sum, p) => sum + p.waiting, 0));
  const cost = $derived(together(pools.map((p) => p.cost)));
  const free = $derived(pools.reduce((sum, p) => sum + Math.max(0, p.free), 0));
</script>

<svelte:head><title>Seats · Yugum</title></svelte:head>
<h1>Seats</h1>
<div class="facts">
  <span><b>{waiting}</b> {waiting === 1 ? 'person waits' : 'people wait'} in line</span>
  <span><b>{free}</b> free</span>
  <span><b>{money(cost) || 'nothing said'}</b> a month for seats held</span>
  {#if query.matrix}<a href={href({ page: 'seats' })}>Pools</a>{/if}
  {#if !query.matrix}
    <a href={href({ page: 'seats', query: { matrix: 'all' } })}>People by licenses</a>
  {/if}
  <a href={href({ page: 'reports', query: { report: 'seats-costs' } })}>Reports</a>
</div>
<ProblemNote problem={load.problem} />
{#if pools.length && query.matrix}
  <Later load={() => import('./MatrixPage.svelte')} {query} {pools} />
{:else if pools.length}
  <PoolsTable {pools} {open} />
  {#if open}<Later load={() => import('./PoolPart.svelte')} id={open} {query} />{/if}
{:else if load.data}
  <p>
    Pools of license seats stand here. Connect an application, or add one: <span class="mono"
      >yugum seats pool</span
    >.
  </p>
{/if}
