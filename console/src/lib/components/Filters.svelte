<script lang="ts">
  import { Filtering } from '../filtering.svelte';
  import { chips, type Field } from '../filters';
  import type { Query } from '../router.svelte';
  import FilterField from './FilterField.svelte';
  import ProblemNote from './ProblemNote.svelte';

  interface Props {
    fields: Field[];
    query: Query;
    onask: (change: Record<string, string>) => void;
  }
  let { fields, query, onask }: Props = $props();
  const it = new Filtering(
    () => fields,
    (change) => onask(change)
  );
  const shown = $derived(chips(fields, query));
  const free = $derived(fields.filter((f) => !query[f.name]));
</script>

<form
  class="filters"
  onsubmit={(event) => {
    event.preventDefault();
    void it.add();
  }}
  aria-label="Filters"
>
  {#each shown as chip (chip.name)}
    <span class="chip">
      {chip.label}: <b>{chip.value}</b>
      <button
        type="button"
        class="bare"
        aria-label="Take away: {chip.label}"
        onclick={() => onask({ [chip.name]: '' })}>×</button
      >
    </span>
  {/each}
  {#if free.length}
    <select bind:value={it.adding} aria-label="Filter by" onchange={() => it.begin()}>
      <option value="">Filter by …</option>
      {#each free as one (one.name)}<option value={one.name}>{one.label}</option>{/each}
    </select>
  {/if}
  <FilterField {it} />
</form>
<ProblemNote problem={it.problem} />

<style>
  .filters {
    display: flex;
    flex-wrap: wrap;
    gap: 8px;
    align-items: center;
    margin: 0 0 12px;
  }
  .chip {
    background: var(--color-surface-200-800);
    border-radius: 3px;
    padding: 3px 4px 3px 9px;
  }
  .chip button {
    padding: 0 6px;
  }
  .filters :global(select) {
    width: auto;
  }
  .filters :global(:is(input, .yg-pick)) {
    width: 320px;
    max-width: 100%;
  }
</style>
