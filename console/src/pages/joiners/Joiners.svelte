<script lang="ts">
  import { api, got, type Schemas } from '../../lib/api';
  import ListPart from '../../lib/components/ListPart.svelte';
  import { JOINERS } from '../../lib/filters';
  import { Listing } from '../../lib/listing.svelte';
  import { href, type Query } from '../../lib/router.svelte';
  import { JOINER_COLUMNS } from './columns';
  import Declined from './Declined.svelte';
  import ReadyLines from './ReadyLines.svelte';

  let { query = {} }: { query?: Query } = $props();
  const list = new Listing<Schemas['JoinerRow']>(
    ['people', 'accounts', 'dockets'],
    () => ({ page: 'joiners', query }),
    (query, signal) => got(api.GET('/api/v1/people/joiners', { params: { query }, signal }))
  );
  const ready = $derived(list.rows.filter((r) => r.ready).length);
  const days = $derived([query.before ?? '7', query.ahead ?? '14']);
</script>

<svelte:head><title>Joiners · Yugum</title></svelte:head>
<h1>Joiners</h1>
{#if list.count !== null}
  <div class="facts">
    <span><b>{ready} of {list.rows.length}</b> ready</span>
    <span>who began in the last {days[0]} days or begins in the next {days[1]}</span>
  </div>
{/if}
<ListPart
  {list}
  page="joiners"
  columns={JOINER_COLUMNS}
  fields={JOINERS}
  label="Joiners"
  to={(row) => href({ page: 'person', who: row.id })}
  none="Nobody who begins then fits. Take a filter away, or look further ahead."
>
  {#snippet cell(row, column)}
    {#if column.name === 'missing'}
      {#if row.missing.length}<b class="open">{row.missing.join('; ')}</b>
      {:else}<span class="soft">nothing</span>{/if}
    {:else if column.name === 'starts'}<span class="day">{column.text(row)}</span>
    {:else if column.name === 'lines'}<ReadyLines lines={row.lines} />
    {:else if column.name === 'ready' && !row.ready}<b class="open">not ready</b>
    {:else}{column.text(row)}{/if}
  {/snippet}
  <p>Nobody begins these days. <a href="/people">New people are added under People</a>.</p>
</ListPart>
<Declined />

<style>
  .day {
    white-space: nowrap;
  }
  .open {
    color: var(--color-error-600-400);
  }
</style>
