<script lang="ts">
  import Parts from '../../lib/components/Parts.svelte';
  import type { Query } from '../../lib/router.svelte';
  import { session } from '../../lib/session.svelte';
  import AuditList from './AuditList.svelte';
  import Integrations from './Integrations.svelte';
  import Operators from './Operators.svelte';
  import OwnAccess from './OwnAccess.svelte';
  import SharedList from './SharedList.svelte';
  import Tokens from './Tokens.svelte';

  let { query = {} }: { query?: Query } = $props();
  const me = $derived(session.view?.operator);
  const parts = $derived([
    { name: 'yours', label: 'Your own' },
    { name: 'tokens', label: 'Tokens' },
    { name: 'integrations', label: 'Integrations' },
    ...(session.mayAdminister ? [{ name: 'operators', label: 'Operators' }] : []),
    { name: 'shared', label: 'Shared credentials' },
    { name: 'audit', label: 'Who did what' }
  ]);
</script>

<svelte:head><title>Access · Yugum</title></svelte:head>
<h1>Access</h1>
<div class="facts">
  <span>you are <b class="mono">{me?.login}</b></span>
  <span><b>{me?.role}</b></span>
</div>
<Parts label="Parts of access" to={(query) => ({ page: 'access', query })} {parts} {query}>
  {#snippet children(part)}
    {#if part === 'tokens'}<Tokens {query} />
    {:else if part === 'integrations'}<Integrations {query} />
    {:else if part === 'operators'}<Operators {query} />
    {:else if part === 'shared'}<SharedList {query} />
    {:else if part === 'audit'}<AuditList {query} />
    {:else}<OwnAccess />{/if}
  {/snippet}
</Parts>
