<script lang="ts" generics="T extends { id: string }">
  import type { Column, Listing } from '../listing.svelte';
  import SortHead from './SortHead.svelte';

  interface Props {
    list: Listing<T>;
    columns: Column<T>[];
    first: string;
    picks: boolean;
    long: boolean;
  }
  let { list, columns, first, picks, long }: Props = $props();
  const all = $derived(list.rows.length > 0 && list.picked.size === list.rows.length);
</script>

{#if long}
  <colgroup>
    {#if picks}<col style:width="2rem" />{/if}
    {#each columns as column (column.name)}
      <col style:width={column.width ? `${column.width}rem` : undefined} />
    {/each}
  </colgroup>
{/if}
<thead>
  <tr aria-rowindex={long ? 1 : undefined}>
    {#if picks}
      <th>
        <input
          type="checkbox"
          aria-label="Pick all that are shown"
          checked={all || list.everything}
          indeterminate={!all && !list.everything && list.picked.size > 0}
          onchange={(event) => list.pickAll(event.currentTarget.checked)}
        />
      </th>
    {/if}
    {#each columns as column (column.name)}
      {#if column.sort}
        <SortHead {list} {first} name={column.sort} latest={column.latest}>{column.label}</SortHead>
      {:else}
        <th class:num={column.look?.startsWith('num')}>{column.label}</th>
      {/if}
    {/each}
  </tr>
</thead>
