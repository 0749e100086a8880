<script lang="ts">
  import type { Schemas } from '../../lib/api';
  import { href } from '../../lib/router.svelte';

  /** Whose a group is. */
  let { row }: { row: Schemas['GroupRow'] } = $props();
</script>

{#if row.owner_id}
  <a href={href({ page: 'person', who: row.owner_id })}>{row.owner_name}</a>
  {#if row.owner_left}<b class="short">has left</b>{/if}
{:else}<b class="short">nobody</b>{/if}
