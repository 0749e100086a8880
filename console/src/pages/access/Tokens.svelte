<script lang="ts">
  import { api, got, type Schemas } from '../../lib/api';
  import Later from '../../lib/components/Later.svelte';
  import { TOKENS } from '../../lib/filters';
  import { Listing } from '../../lib/listing.svelte';
  import type { Query } from '../../lib/router.svelte';
  import AccessList from './AccessList.svelte';
  import { TOKEN_COLUMNS } from './columns';

  /** One's own tokens, and those of integrations one answers for. */
  let { query }: { query: Query } = $props();
  const list = new Listing<Schemas['TokenRow']>(
    ['access'],
    () => ({ page: 'access', query }),
    (query, signal) => got(api.GET('/api/v1/tokens', { params: { query }, signal }))
  );
  const ADDS = { label: 'New token …', load: () => import('./NewToken.svelte') };
</script>

<AccessList
  page="tokens"
  title="API tokens"
  {list}
  columns={TOKEN_COLUMNS}
  fields={TOKENS}
  adds={ADDS}
>
  {#snippet opened(row, onclose)}
    <Later load={() => import('./TokenPanel.svelte')} {row} {onclose} />
  {/snippet}
  <p class="soft">None. A token lets the command line, or a program, work as you.</p>
</AccessList>
