<script lang="ts">
  import { api, got, type Schemas } from '../../lib/api';
  import Later from '../../lib/components/Later.svelte';
  import { SHARED } from '../../lib/filters';
  import { Listing } from '../../lib/listing.svelte';
  import type { Query } from '../../lib/router.svelte';
  import { session } from '../../lib/session.svelte';
  import AccessList from './AccessList.svelte';
  import { SHARED_COLUMNS } from './columns';

  /** What several people know, and who of them has left. */
  let { query }: { query: Query } = $props();
  const list = new Listing<Schemas['SharedRow']>(
    ['shared', 'people'],
    () => ({ page: 'access', query }),
    (query, signal) => got(api.GET('/api/v1/shared', { params: { query }, signal }))
  );
  const ADDS = { label: 'New shared credential …', load: () => import('./SharedDialog.svelte') };
</script>

<AccessList
  page="shared"
  title="Shared credentials"
  {list}
  columns={SHARED_COLUMNS}
  fields={SHARED}
  adds={session.mayAct ? ADDS : undefined}
>
  {#snippet opened(row, onclose)}
    <Later load={() => import('./SharedDialog.svelte')} {row} {onclose} />
  {/snippet}
  <p class="soft">
    None. What several people know – a code, a key box, a common password – is named here, never the
    credential itself: when one of them leaves, whoever changes it is asked to.
  </p>
</AccessList>
