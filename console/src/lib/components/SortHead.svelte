<script lang="ts">
  import type { Snippet } from 'svelte';
  import type { Way } from '../listing.svelte';

  /** What of a list a head needs. */
  interface Sortable {
    sorted: (name: string, first: string, usual: Way) => Way | 'none';
    sort: (name: string, first: string, usual: Way) => void;
  }
  interface Props {
    list: Sortable;
    name: string;
    /** What the list comes in unless it is asked otherwise. */
    first: string;
    /** Whether it comes with the latest first unless it is asked otherwise. */
    latest?: boolean;
    children: Snippet;
  }
  let { list, name, first, latest = false, children }: Props = $props();
  const usual = $derived<Way>(latest ? 'descending' : 'ascending');
  const way = $derived(list.sorted(name, first, usual));
</script>

<th aria-sort={way}>
  <button class="bare" onclick={() => list.sort(name, first, usual)}>
    {@render children()}<span aria-hidden="true"
      >{way === 'ascending' ? ' ↑' : way === 'descending' ? ' ↓' : ''}</span
    >
  </button>
</th>

<style>
  button {
    white-space: nowrap;
  }
  button:hover {
    text-decoration: underline;
  }
</style>
