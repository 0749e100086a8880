<script lang="ts">
  import { api, got, type Schemas } from '../../lib/api';
  import { ACCOUNT_COLUMNS } from '../../lib/columns';
  import Filters from '../../lib/components/Filters.svelte';
  import List from '../../lib/components/List.svelte';
  import ListBar from '../../lib/components/ListBar.svelte';
  import ProblemNote from '../../lib/components/ProblemNote.svelte';
  import StateMark from '../../lib/components/StateMark.svelte';
  import { ACCOUNTS, chips } from '../../lib/filters';
  import { Listing } from '../../lib/listing.svelte';
  import { href, type Query } from '../../lib/router.svelte';

  let { query = {} }: { query?: Query } = $props();
  const list = new Listing<Schemas['AccountRow']>(
    ['accounts', 'people'],
    () => ({ page: 'accounts', query }),
    (asked, cursor, signal) =>
      got(
        api.GET('/api/v1/accounts', {
          params: { query: { ...asked, limit: cursor ? 200 : 100, cursor } },
          signal
        })
      )
  );
  const filtered = $derived(chips(ACCOUNTS, query).length > 0);
</script>

<svelte:head><title>Accounts · Yugum</title></svelte:head>
<h1>Accounts</h1>
<div class="facts">
  {#if list.count !== null}<span><b>{list.count}</b> {filtered ? 'fit' : 'in all'}</span>{/if}
</div>
<div class="asked">
  <Filters fields={ACCOUNTS} {query} onask={(change) => list.ask(change)} />
  <ListBar {list} page="accounts" columns={ACCOUNT_COLUMNS} />
</div>
<ProblemNote problem={list.problem} />
{#if list.rows.length}
  <List
    {list}
    columns={ACCOUNT_COLUMNS}
    first="application"
    label="Accounts"
    to={(row) =>
      row.person_id ? href({ page: 'person', who: row.person_id }) : href({ page: 'findings' })}
  >
    {#snippet cell(row, column)}
      {#if column.name === 'state'}<StateMark state={row.state} />{:else}{column.text(row)}{/if}
    {/snippet}
  </List>
{:else if list.count !== null && filtered}
  <p>No account fits these filters. Take one away to see more.</p>
{:else if list.count !== null}
  <p>
    No account is known yet. <a href="/applications">Read an application</a>, and they stand here.
  </p>
{/if}
