<script lang="ts">
  import { session } from '../../lib/session.svelte';
  import Integrations from './Integrations.svelte';
  import Operators from './Operators.svelte';
  import OwnAccess from './OwnAccess.svelte';
  import Tokens from './Tokens.svelte';

  const me = $derived(session.view?.operator);
</script>

<svelte:head><title>Access · Yugum</title></svelte:head>
<h1>Access</h1>
<div class="facts">
  <span>you are <b class="mono">{me?.login}</b></span>
  <span><b>{me?.role}</b></span>
</div>
<OwnAccess />
<Tokens />
<Integrations />
{#if session.mayAdminister}<Operators />{/if}
