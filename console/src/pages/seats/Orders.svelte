<script lang="ts">
  import { api, got, type Schemas } from '../../lib/api';
  import { ORDER_COLUMNS } from '../../lib/columns';
  import ListPart from '../../lib/components/ListPart.svelte';
  import { Listing } from '../../lib/listing.svelte';
  import { href, type Query } from '../../lib/router.svelte';
  import { session } from '../../lib/session.svelte';
  import NewOrder from './NewOrder.svelte';
  import OrderPart from './OrderPart.svelte';
  import { Ordering } from './ordering.svelte';

  /** Orders of more seats of a pool; the one that is opened goes on. */
  let { id, query }: { id: string; query: Query } = $props();
  const list = new Listing<Schemas['OrderRow']>(
    ['seats'],
    () => ({ page: 'seats', part: 'orders', query }),
    ({ limit, cursor }, signal) =>
      got(
        api.GET('/api/v1/orders', {
          params: { query: { pool_id: id, limit, cursor } },
          signal
        })
      )
  );
  const acts = new Ordering(() => id);
</script>

<h2>Ordered</h2>
<ListPart
  {list}
  columns={ORDER_COLUMNS}
  label="Ordered"
  to={(row) => href({ page: 'seats', query: { ...query, order: row.name } })}
  problem={acts.problem}
  none="Nothing was ordered."
>
  {#snippet cell(row, column)}{column.text(row)}{/snippet}
  <p class="soft">Nothing was ordered.</p>
</ListPart>
{#if query.order}<OrderPart {acts} order={query.order} />{/if}
{#if session.mayAct}<NewOrder {acts} />{/if}
