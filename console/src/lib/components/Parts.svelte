<script lang="ts">
  import './parts.css';
  import { Tabs } from '@skeletonlabs/skeleton-svelte';
  import type { Snippet } from 'svelte';
  import { router, type Query, type View } from '../router.svelte';

  interface Props {
    label: string;
    /** By the word that stands in the address; the first is shown unless another is asked for. */
    parts: { name: string; label: string }[];
    /** Where the page stands with another query. */
    to: (query: Query) => View;
    query: Query;
    children: Snippet<[string]>;
  }
  /** Parts of a page of which one is shown; which one stands in the address. */
  let { label, parts, to, query, children }: Props = $props();
  const shown = $derived(parts.find((one) => one.name === query.part)?.name ?? parts[0]!.name);

  function show(name: string): void {
    router.go(to(name === parts[0]!.name ? {} : { part: name }));
  }
</script>

{#if query.part && query.part !== shown}
  <p role="alert">There is no part {query.part} here.</p>
{/if}
<Tabs value={shown} onValueChange={(event) => show(event.value)}>
  <Tabs.List aria-label={label}>
    {#each parts as one (one.name)}
      <Tabs.Trigger value={one.name}>{one.label}</Tabs.Trigger>
    {/each}
  </Tabs.List>
  <Tabs.Content value={shown}>{@render children(shown)}</Tabs.Content>
</Tabs>
