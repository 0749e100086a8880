<script lang="ts">
  import { api, got, type Schemas } from '../../lib/api';
  import { MAIL_COLUMNS } from '../../lib/columns';
  import Filters from '../../lib/components/Filters.svelte';
  import Later from '../../lib/components/Later.svelte';
  import List from '../../lib/components/List.svelte';
  import ListBar from '../../lib/components/ListBar.svelte';
  import ProblemNote from '../../lib/components/ProblemNote.svelte';
  import { asMails, chips, MAILS } from '../../lib/filters';
  import { Listing, OPEN } from '../../lib/listing.svelte';
  import { href, type Query } from '../../lib/router.svelte';

  let { query = {} }: { query?: Query } = $props();
  const list = new Listing<Schemas['MailRow']>(
    ['mails'],
    () => ({ page: 'mails', query }),
    (asked, cursor, signal) =>
      got(api.GET('/api/v1/mails', { params: { query: asMails(asked, cursor) }, signal }))
  );
  const filtered = $derived(chips(MAILS, query).length > 0);
  const opened = $derived(list.rows.find((row) => row.id === query[OPEN]));
</script>

<svelte:head><title>Mail · Yugum</title></svelte:head>
<h1>Mail</h1>
<div class="facts">
  {#if list.count !== null}<span><b>{list.count}</b> {filtered ? 'fit' : 'in all'}</span>{/if}
</div>
<div class="asked">
  <Filters fields={MAILS} {query} onask={(change) => list.ask(change)} />
  <ListBar {list} page="mails" columns={MAIL_COLUMNS} />
</div>
<ProblemNote problem={list.problem} />
{#if list.rows.length}
  <List
    {list}
    columns={MAIL_COLUMNS}
    first=""
    label="Mails"
    to={(row) => href({ page: 'mails', query: { ...query, [OPEN]: row.id } })}
  >
    {#snippet cell(row, column)}
      {#if column.name === 'sent_at'}<span class="short">{row.problem || 'on its way'}</span
        >{:else}{column.text(row)}{/if}
    {/snippet}
  </List>
{:else if list.count !== null && filtered}
  <p>No mail fits these filters. Take one away to see more.</p>
{:else if list.count !== null}
  <p>What Yugum told people stands here: credentials, approvals, reminders, notices.</p>
{/if}
{#if opened}
  <Later
    load={() => import('./MailText.svelte')}
    mail={opened}
    onclose={() => list.ask({ [OPEN]: '' })}
  />
{/if}

<style>
  .short {
    color: var(--color-error-600-400);
  }
</style>
