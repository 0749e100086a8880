<script lang="ts">
  import { api, got, type Schemas } from '../../lib/api';
  import { MAIL_COLUMNS } from '../../lib/columns';
  import Later from '../../lib/components/Later.svelte';
  import ListPart from '../../lib/components/ListPart.svelte';
  import { MAILS } from '../../lib/filters';
  import { Listing, OPEN } from '../../lib/listing.svelte';
  import { href, type Query } from '../../lib/router.svelte';

  let { query = {} }: { query?: Query } = $props();
  const list = new Listing<Schemas['MailRow']>(
    ['mails'],
    () => ({ page: 'mails', query }),
    (query, signal) => got(api.GET('/api/v1/mails', { params: { query }, signal }))
  );
  const opened = $derived(list.rows.find((row) => row.id === query[OPEN]));
</script>

<svelte:head><title>Mail · Yugum</title></svelte:head>
<h1>Mail</h1>
<div class="facts">
  {#if list.count !== null}<span><b>{list.count}</b> {list.filtered ? 'fit' : 'in all'}</span>{/if}
</div>
<ListPart
  {list}
  page="mails"
  columns={MAIL_COLUMNS}
  fields={MAILS}
  label="Mails"
  to={(row) => href({ page: 'mails', query: { ...query, [OPEN]: row.id } })}
  none="No mail fits these filters. Take one away to see more."
>
  {#snippet cell(row, column)}
    {#if column.name === 'sent_at'}<span class="short">{row.problem || 'on its way'}</span
      >{:else}{column.text(row)}{/if}
  {/snippet}
  <p>What Yugum told people stands here: credentials, approvals, reminders, notices.</p>
</ListPart>
{#if opened}
  <Later
    load={() => import('./MailText.svelte')}
    mail={opened}
    onclose={() => list.ask({ [OPEN]: '' })}
  />
{:else if query[OPEN] && list.count !== null}
  <p role="alert">The mail of this address is not among those shown. Show more, or filter them.</p>
{/if}
