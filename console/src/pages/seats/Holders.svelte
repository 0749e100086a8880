<script lang="ts">
  import { api, got, type Schemas } from '../../lib/api';
  import { HOLDER_COLUMNS } from '../../lib/columns';
  import List from '../../lib/components/List.svelte';
  import ProblemNote from '../../lib/components/ProblemNote.svelte';
  import StateMark from '../../lib/components/StateMark.svelte';
  import { Listing } from '../../lib/listing.svelte';
  import { href, type Query } from '../../lib/router.svelte';

  let { query }: { query: Query } = $props();
  const list = new Listing<Schemas['SeatHolder']>(
    ['seats', 'accounts', 'people'],
    () => ({ page: 'seats', query }),
    (asked, cursor, signal) =>
      got(
        api.GET('/api/v1/seats/{pool_id}/holders', {
          params: { path: { pool_id: asked.pool ?? '' }, query: { limit: 100, cursor } },
          signal
        })
      )
  );
</script>

<h2>Who waits, and who holds one</h2>
<ProblemNote problem={list.problem} />
{#if list.rows.length}
  <List
    {list}
    columns={HOLDER_COLUMNS}
    first=""
    label="Who waits, and who holds one"
    to={(row) =>
      row.person_id
        ? href({ page: 'person', who: row.person_id })
        : href({ page: 'accounts', query: { q: row.login ?? '' } })}
  >
    {#snippet cell(row, column)}
      {#if column.name === 'account_state' && row.account_state}<StateMark
          state={row.account_state}
        />{:else}{column.text(row)}{/if}
    {/snippet}
  </List>
{:else if list.count !== null}
  <p>Nobody holds one of these seats, and nobody waits.</p>
{/if}
