<script lang="ts">
  import { api, got, type Schemas } from '../../lib/api';
  import Later from '../../lib/components/Later.svelte';
  import { OPERATORS } from '../../lib/filters';
  import { Listing } from '../../lib/listing.svelte';
  import { changed } from '../../lib/query.svelte';
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
  let adding = $state(false);
</script>

<AccessList page="operators" title="Operators" {list} columns={OPERATOR_COLUMNS} fields={OPERATORS}>
  {#snippet acts()}
    <button class="button slim" onclick={() => (adding = true)}>New operator …</button>
  {/snippet}
  {#snippet opened(row, onclose)}
    <Later load={() => import('./OperatorPanel.svelte')} {row} {onclose} />
  {/snippet}
  <p class="soft">None.</p>
</AccessList>
{#if adding}
  <Later
    load={() => import('./NewOperator.svelte')}
    onclose={() => (adding = false)}
    onmade={() => changed(['access'])}
  />
{/if}
