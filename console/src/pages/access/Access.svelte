<script lang="ts">
  import type { Component } from 'svelte';
  import Later from '../../lib/components/Later.svelte';
  import Parts from '../../lib/components/Parts.svelte';
  import type { Query } from '../../lib/router.svelte';
  import { session } from '../../lib/session.svelte';
  import OwnAccess from './OwnAccess.svelte';

  let { query = {} }: { query?: Query } = $props();
  const LISTS: Record<string, () => Promise<{ default: Component<{ query: Query }> }>> = {
    tokens: () => import('./Tokens.svelte'),
    integrations: () => import('./Integrations.svelte'),
    operators: () => import('./Operators.svelte'),
    shared: () => import('./SharedList.svelte'),
    audit: () => import('./AuditList.svelte')
  };
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
    {@const load = LISTS[part]}
    {#if load}{#key part}<Later {load} {query} />{/key}{:else}<OwnAccess />{/if}
  {/snippet}
</Parts>
