<script lang="ts">
  import { api, got, type Schemas } from '../../lib/api';
  import Later from '../../lib/components/Later.svelte';
  import { INTEGRATIONS } from '../../lib/filters';
  import { Listing } from '../../lib/listing.svelte';
  import type { Query } from '../../lib/router.svelte';
  import { session } from '../../lib/session.svelte';
  import AccessList from './AccessList.svelte';
  import { INTEGRATION_COLUMNS } from './columns';

  /** Programs with tokens of their own, and who answers for each. */
  let { query }: { query: Query } = $props();
  const list = new Listing<Schemas['IntegrationRow']>(
    ['access'],
    () => ({ page: 'access', query }),
    (query, signal) => got(api.GET('/api/v1/integrations', { params: { query }, signal }))
  );
  const ADDS = { label: 'New integration …', load: () => import('./NewIntegration.svelte') };
</script>

<AccessList
  page="integrations"
  title="Integrations"
  {list}
  columns={INTEGRATION_COLUMNS}
  fields={INTEGRATIONS}
  adds={session.mayAct ? ADDS : undefined}
>
  {#snippet opened(row, onclose)}
    <Later load={() => import('./IntegrationPanel.svelte')} {row} {onclose} />
  {/snippet}
  <p class="soft">
    None. An integration is a program with tokens of its own; when who answers for it leaves, their
    successor does, and it goes on.
  </p>
</AccessList>
