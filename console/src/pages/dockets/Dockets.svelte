<script lang="ts">
  import { api, got, type Schemas } from '../../lib/api';
  import { DOCKET_COLUMNS } from '../../lib/columns';
  import Later from '../../lib/components/Later.svelte';
  import ListPart from '../../lib/components/ListPart.svelte';
  import StepMark from '../../lib/components/StepMark.svelte';
  import { Figures } from '../../lib/figures.svelte';
  import { DOCKETS } from '../../lib/filters';
  import { Listing } from '../../lib/listing.svelte';
  import { href, type Query } from '../../lib/router.svelte';

  let { query = {} }: { query?: Query } = $props();
  const list = new Listing<Schemas['DocketRow']>(
    ['dockets', 'people'],
    () => ({ page: 'dockets', query }),
    (query, signal) => got(api.GET('/api/v1/dockets', { params: { query }, signal }))
  );
  const figures = new Figures();
  const stuck = $derived(query.stuck === 'true');
  function mark(row: Schemas['DocketRow']): string {
    if (row.steps_stuck) return 'stuck';
    return { done: 'done', scheduled: 'due', running: 'settling' }[row.state as string] ?? 'none';
  }
  const told = (row: Schemas['DocketRow']): string =>
    row.outcome +
    (row.steps_total ? `, ${row.steps_done} of ${row.steps_total}` : '') +
    (row.steps_stuck ? `, ${row.steps_stuck} stuck` : '');
</script>

<svelte:head><title>Dockets · Yugum</title></svelte:head>
<h1>Dockets</h1>
<div class="facts">
  {#if figures.asked.data}<span><b>{figures.count('dockets') || 0}</b> not ended</span>{/if}
  {#if list.count !== null}
    <span><b>{list.count}</b> {list.filtered ? 'fit' : 'in all'}</span>
  {/if}
  {#if !stuck}
    <button class="bare link" onclick={() => list.ask({ stuck: 'true' })}
      >only those that wait for somebody</button
    >
  {/if}
</div>
{#if query.batch}<Later load={() => import('./BatchHead.svelte')} id={query.batch} {query} />{/if}
<ListPart
  {list}
  page="dockets"
  columns={DOCKET_COLUMNS}
  fields={DOCKETS}
  first="number"
  label="Dockets"
  to={(row) => href({ page: 'docket', name: row.number })}
  none="{stuck
    ? 'Nothing waits for anybody.'
    : 'No docket fits these filters.'} Take one away to see more."
>
  {#snippet cell(row, column)}
    {#if column.name === 'outcome'}
      <span class="state"><StepMark state={mark(row)} />{told(row)}</span>
    {:else if column.name === 'subject_name'}
      <a href={href({ page: 'person', who: row.subject_id })}>{row.subject_name}</a>
    {:else}{column.text(row)}{/if}
  {/snippet}
  <p>
    Plans that are carried out stand here.
    <a href="/people">Find somebody</a> to make one.
  </p>
</ListPart>
