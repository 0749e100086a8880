<script lang="ts">
  import { api, got, type Schemas } from '../../lib/api';
  import { HOLDER_COLUMNS } from '../../lib/columns';
  import ListPart from '../../lib/components/ListPart.svelte';
  import StateMark from '../../lib/components/StateMark.svelte';
  import { Listing } from '../../lib/listing.svelte';
  import { whose, type Query } from '../../lib/router.svelte';

  let { query }: { query: Query } = $props();
  const list = new Listing<Schemas['SeatHolder']>(
    ['seats', 'accounts', 'people'],
    () => ({ page: 'seats', query }),
    ({ limit, cursor }, signal) =>
      got(
        api.GET('/api/v1/seats/{pool_id}/holders', {
          params: { path: { pool_id: query.pool ?? '' }, query: { limit, cursor } },
          signal
        })
      )
  );
</script>

<h2>Who waits, and who holds one</h2>
<ListPart
  {list}
  columns={HOLDER_COLUMNS}
  label="Who waits, and who holds one"
  to={(row) => whose(row.person_id, row.login)}
  none="Nobody holds one of these seats, and nobody waits."
>
  {#snippet cell(row, column)}
    {#if column.name === 'account_state' && row.account_state}<StateMark
        state={row.account_state}
      />{:else}{column.text(row)}{/if}
  {/snippet}
</ListPart>
