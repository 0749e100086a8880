<script lang="ts" generics="T extends { id: string }">
  import type { Snippet } from 'svelte';
  import type { Listing } from '../listing.svelte';

  interface Props {
    list: Listing<T>;
    /** So many of them, in words. */
    words: (count: number) => string;
    /** What dropping them all is called. */
    none?: string;
    children: Snippet;
  }
  /** What is picked and what can be done with it; all that fit can be picked, not only those shown. */
  let { list, words, none = 'Pick nobody', children }: Props = $props();
  const shown = $derived(list.picked.size === list.rows.length && list.next);
</script>

{#if list.picked.size}
  <div class="picked" role="region" aria-label="What is picked">
    {#if list.everything}
      <b>all {list.count} that fit</b>
    {:else}
      <b>{words(list.picked.size)}</b>
      {#if shown}
        <button class="bare link" onclick={() => (list.everything = true)}
          >Pick all {list.count} that fit</button
        >
      {/if}
    {/if}
    {@render children()}
    <button class="button plain" onclick={() => list.drop()}>{none}</button>
  </div>
{/if}
