<script lang="ts" generics="T extends { id: string }">
  import './list.css';
  import { tick, type Snippet } from 'svelte';
  import { MediaQuery } from 'svelte/reactivity';
  import type { Column, Listing } from '../listing.svelte';
  import { measured, RowKeys, RowWindow } from '../window.svelte';
  import ListTable from './ListTable.svelte';
  import ShowMore from './ShowMore.svelte';

  interface Props {
    list: Listing<T>;
    columns: Column<T>[];
    /** What it is sorted by unless it is asked otherwise. */
    first: string;
    label: string;
    /** Where a row leads. */
    to: (row: T) => string;
    /** Whether rows can be picked. */
    picks?: boolean;
    /** What a cell says where it is more than text. */
    cell?: Snippet<[T, Column<T>]>;
  }
  let { list, columns, first, label, to, picks = false, cell }: Props = $props();
  /** From so many rows on only those in sight are drawn. */
  const MANY = 200;
  const NEAR = 40;
  const narrow = new MediaQuery('max-width: 800px');
  const long = $derived(!narrow.current && list.rows.length >= MANY);
  const rows = new RowWindow(() => list.rows.length);
  const range = $derived<[number, number]>(long ? [rows.from, rows.to] : [0, list.rows.length]);
  let box: HTMLElement;
  const keys = new RowKeys(() => list.rows.length);

  /** What comes next is asked for before its place is in sight. */
  $effect(() => {
    if (long && list.next && rows.to + NEAR > list.rows.length) void list.more();
  });
  $effect.pre(() => {
    void range;
    if (box && long && keys.leaves(box, range)) box.focus({ preventScroll: true });
  });
  async function move(event: KeyboardEvent): Promise<void> {
    const row = list.rows[keys.here];
    if (picks && row && keys.free(event) && event.key === 'x') return list.turn(row.id);
    if (!keys.move(event, Math.floor(rows.height / rows.row) - 2)) return;
    const place = long ? rows.place(keys.here) : null;
    if (place !== null) box.scrollTop = rows.top = place;
    await tick();
    keys.focus(box, long);
  }
</script>

<!-- svelte-ignore a11y_no_noninteractive_tabindex, a11y_no_noninteractive_element_interactions -->
<div
  class="rows"
  class:long
  role="region"
  aria-label={label}
  tabindex={long ? 0 : -1}
  bind:this={box}
  bind:clientHeight={rows.height}
  onscroll={() => (rows.top = box.scrollTop)}
  onkeydown={move}
  use:measured={() => (long ? rows : null)}
>
  <ListTable
    {list}
    columns={list.columns(columns)}
    {first}
    {to}
    {picks}
    {cell}
    {long}
    {rows}
    {range}
    {keys}
  />
</div>
{#if !long}<ShowMore {list} />{/if}
