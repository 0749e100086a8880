<script lang="ts" generics="T extends { id: string }">
  import type { Snippet } from 'svelte';
  import type { Column, Listing } from '../listing.svelte';
  import type { RowKeys, RowWindow } from '../window.svelte';
  import ListHead from './ListHead.svelte';
  import ListRow from './ListRow.svelte';

  interface Props {
    list: Listing<T>;
    columns: Column<T>[];
    first: string;
    to: (row: T) => string;
    picks: boolean;
    cell?: Snippet<[T, Column<T>]>;
    /** Whether only the rows in sight are drawn. */
    long: boolean;
    rows: RowWindow;
    /** Which rows are drawn. */
    range: [number, number];
    keys: RowKeys;
  }
  let { list, columns, first, to, picks, cell, long, rows, range, keys }: Props = $props();
  const drawn = $derived(list.rows.slice(...range));
</script>

<table class="list" aria-rowcount={long ? list.rows.length + 1 : undefined}>
  <ListHead {list} {columns} {first} {picks} {long} />
  <tbody>
    {#if long}<tr aria-hidden="true" style:height="{rows.before}px"></tr>{/if}
    {#each drawn as row, n (long ? rows.node(range[0]! + n) : row.id)}
      {@const index = range[0]! + n}
      <ListRow
        {row}
        {index}
        {list}
        {columns}
        to={to(row)}
        {picks}
        {cell}
        here={index === keys.here}
        onhere={() => (keys.here = index)}
      />
    {/each}
    {#if long}<tr aria-hidden="true" style:height="{rows.after}px"></tr>{/if}
  </tbody>
</table>
