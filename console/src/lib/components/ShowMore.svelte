<script lang="ts" generics="T extends { id: string }">
  import type { Listing } from '../listing.svelte';

  /** What follows the rows of a list that are here. */
  let { list }: { list: Listing<T> } = $props();
</script>

{#if list.next}
  <p>
    <button class="button" disabled={list.busy} onclick={() => void list.more()}>Show more</button>
    <span class="soft">{list.rows.length} of {list.count ?? 'more'} shown</span>
  </p>
{/if}
