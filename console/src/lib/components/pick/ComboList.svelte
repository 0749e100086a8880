<script lang="ts" generics="T">
  import { Combobox } from '@skeletonlabs/skeleton-svelte';
  import type { Snippet } from 'svelte';

  interface Props {
    items: T[];
    valueOf: (item: T) => string;
    nameOf: (item: T) => string;
    item?: Snippet<[T]>;
    none: string;
    open: boolean;
  }
  /** What can be picked; nothing of it is there while it is closed. */
  let { items, valueOf, nameOf, item, none, open }: Props = $props();
</script>

<Combobox.Positioner class="yg-pick-place">
  <Combobox.Content>
    {#if open}
      {#each items as one (valueOf(one))}
        <Combobox.Item item={one}>
          {#if item}{@render item(one)}{:else}{nameOf(one)}{/if}
        </Combobox.Item>
      {:else}
        <p class="soft none" role="status">{none}</p>
      {/each}
    {/if}
  </Combobox.Content>
</Combobox.Positioner>
