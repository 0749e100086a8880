<script lang="ts">
  import { api, got, type Schemas } from '../../lib/api';
  import { ACCOUNT_COLUMNS } from '../../lib/columns';
  import ListPart from '../../lib/components/ListPart.svelte';
  import StateMark from '../../lib/components/StateMark.svelte';
  import { ACCOUNTS } from '../../lib/filters';
  import { Listing } from '../../lib/listing.svelte';
  import { href, type Query } from '../../lib/router.svelte';

  let { query = {} }: { query?: Query } = $props();
  const list = new Listing<Schemas['AccountRow']>(
    ['accounts', 'people'],
    () => ({ page: 'accounts', query }),
    (query, signal) => got(api.GET('/api/v1/accounts', { params: { query }, signal }))
  );
</script>

<svelte:head><title>Accounts · Yugum</title></svelte:head>
<h1>Accounts</h1>
<div class="facts">
  {#if list.count !== null}<span><b>{list.count}</b> {list.filtered ? 'fit' : 'in all'}</span>{/if}
</div>
<ListPart
  {list}
  page="accounts"
  columns={ACCOUNT_COLUMNS}
  fields={ACCOUNTS}
  first="application"
  label="Accounts"
  to={(row) =>
    row.person_id ? href({ page: 'person', who: row.person_id }) : href({ page: 'findings' })}
  none="No account fits these filters. Take one away to see more."
>
  {#snippet cell(row, column)}
    {#if column.name === 'state'}<StateMark
        state={row.state}
        invited={row.invited_at !== null}
      />{:else}{column.text(row)}{/if}
  {/snippet}
  <p>
    No account is known yet. <a href="/applications">Read an application</a>, and they stand here.
  </p>
</ListPart>
