<script lang="ts">
  import { api, got, type Schemas } from '../../lib/api';
  import Later from '../../lib/components/Later.svelte';
  import { OPERATORS } from '../../lib/filters';
  import { Listing } from '../../lib/listing.svelte';
  import type { Query } from '../../lib/router.svelte';
  import AccessList from './AccessList.svelte';
  import { OPERATOR_COLUMNS } from './columns';

  /** Who works with Yugum. */
  let { query }: { query: Query } = $props();
  const list = new Listing<Schemas['OperatorRow']>(
    ['access'],
    () => ({ page: 'access', query }),
    (query, signal) => got(api.GET('/api/v1/operators', { params: { query }, signal }))
  );
  const ADDS = { label: 'New operator …', load: () => import('./NewOperator.svelte') };
</script>

<AccessList
  page="operators"
  title="Operators"
  {list}
  columns={OPERATOR_COLUMNS}
  fields={OPERATORS}
  adds={ADDS}
>
  {#snippet opened(row, onclose)}
    <Later load={() => import('./OperatorPanel.svelte')} {row} {onclose} />
  {/snippet}
  <p class="soft">None.</p>
</AccessList>
