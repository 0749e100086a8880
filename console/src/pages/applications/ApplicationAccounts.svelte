<script lang="ts">
  import { api, got, type Schemas } from '../../lib/api';
  import { ACCOUNT_COLUMNS } from '../../lib/columns';
  import Filters from '../../lib/components/Filters.svelte';
  import ListPart from '../../lib/components/ListPart.svelte';
  import StateMark from '../../lib/components/StateMark.svelte';
  import { ACCOUNTS } from '../../lib/filters';
  import { Listing } from '../../lib/listing.svelte';
  import { href, type Query } from '../../lib/router.svelte';

  /** The accounts of one application. */
  let { id, query }: { id: string; query: Query } = $props();
  const fields = ACCOUNTS.filter((field) => field.name !== 'application');
  const columns = ACCOUNT_COLUMNS.filter((column) => column.name !== 'application_name');
  const list = new Listing<Schemas['AccountRow']>(
    ['accounts', 'people'],
    () => ({ page: 'application', id, query }),
    (asked, signal) => {
      const query = { ...asked, application: id };
      return got(api.GET('/api/v1/accounts', { params: { query }, signal }));
    }
  );
  const whole = $derived(href({ page: 'accounts', query: { ...query, application: id } }));
</script>

<h2>
  Accounts{#if list.count !== null}: {list.count}{list.filtered ? ' fit' : ''}{/if}
</h2>
<Filters {fields} {query} onask={(change) => list.ask(change)} />
<p><a href={whole}>With columns, views and files, under Accounts</a></p>
<ListPart
  {list}
  {columns}
  first="application"
  label="Accounts"
  to={(row) =>
    row.person_id
      ? href({ page: 'person', who: row.person_id })
      : href({ page: 'findings', query: { application: id } })}
  none="No account here fits these filters. Take one away to see more."
>
  {#snippet cell(row, column)}
    {#if column.name === 'state'}<StateMark state={row.state} invited={row.invited_at !== null} />
    {:else}{column.text(row)}{/if}
  {/snippet}
  <p>It has no account that is known. Read it, and they stand here.</p>
</ListPart>
