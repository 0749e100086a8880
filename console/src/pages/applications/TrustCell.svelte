<script lang="ts">
  import type { Schemas } from '../../lib/api';
  import Later from '../../lib/components/Later.svelte';
  import type { Acting } from './acting.svelte';

  /** What Yugum may do in an application; another choice is asked about first. */
  let { row, acting }: { row: Schemas['ApplicationRow']; acting: Acting } = $props();
  let wanted = $state.raw<Schemas['Trust'] | null>(null);

  function ask(select: HTMLSelectElement): void {
    wanted = select.value as Schemas['Trust'];
    select.value = row.trust; // it stays so until it is said to be meant
  }
</script>

<select
  aria-label="What Yugum may do in {row.name}"
  value={row.trust}
  disabled={acting.busy !== ''}
  onchange={(e) => ask(e.currentTarget)}
>
  <option value="watch">watch</option>
  <option value="add">add</option>
  <option value="full">do everything</option>
</select>
{#if wanted}
  <Later
    load={() => import('./TrustDialog.svelte')}
    {row}
    {wanted}
    onclose={() => (wanted = null)}
    onmeant={() => {
      void acting.trust(wanted!);
      wanted = null;
    }}
  />
{/if}

<style>
  select {
    font: inherit;
    background: var(--color-surface-100-900);
    color: var(--color-surface-contrast-50-950);
    border: 1px solid var(--color-surface-300-700);
    border-radius: 4px;
    padding: 3px 6px;
  }
</style>
