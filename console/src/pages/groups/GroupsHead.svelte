<script lang="ts">
  import type { Schemas } from '../../lib/api';
  import type { Listing } from '../../lib/listing.svelte';
  import { session } from '../../lib/session.svelte';

  let { list, onnew }: { list: Listing<Schemas['GroupRow']>; onnew: () => void } = $props();
  const ownerless = $derived(list.rows.filter((r) => !r.owner_id || r.owner_left).length);
</script>

<div class="facts">
  {#if list.count !== null}
    <span><b>{list.count}</b> {list.filtered ? 'fit' : 'that can be changed'}</span>
    {#if ownerless}
      <span class="short"><b>{ownerless}</b> without an owner who is here</span>
    {:else if list.rows.length}
      <span>each has an owner who is here</span>
    {/if}
  {/if}
  {#if session.mayAct}
    <button class="button" onclick={onnew}>New group …</button>
  {/if}
</div>
