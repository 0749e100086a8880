<script lang="ts" generics="T extends { id: string }">
  import { tick, type Snippet } from 'svelte';
  import { MediaQuery } from 'svelte/reactivity';
  import type { Column, Listing } from '../listing.svelte';
  import { measured, RowKeys, RowWindow } from '../window.svelte';
  import ListHead from './ListHead.svelte';
  import ListRow from './ListRow.svelte';

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
  const shown = $derived(list.columns(columns));
  const long = $derived(!narrow.current && list.rows.length >= MANY);
  const rows = new RowWindow(() => list.rows.length);
  const range = $derived(long ? [rows.from, rows.to] : [0, list.rows.length]);
  const drawn = $derived(list.rows.slice(...range));
  let box: HTMLElement;
  const keys = new RowKeys(() => list.rows.length);

  /** What comes next is asked for before its place is in sight. */
  $effect(() => {
    if (long && list.next && rows.to + NEAR > list.rows.length) void list.more();
  });
  $effect.pre(() => {
    void range;
    const row = box?.contains(document.activeElement) && document.activeElement?.closest('tr');
    if (row && long && (keys.here < range[0]! || keys.here >= range[1]!))
      box.focus({ preventScroll: true });
  });
  async function move(event: KeyboardEvent): Promise<void> {
    const row = list.rows[keys.here];
    if (picks && row && keys.free(event) && event.key === 'x') {
      return list.pick(row.id, !list.picked.has(row.id));
    }
    if (!keys.move(event, Math.floor(rows.height / rows.row) - 2)) return;
    const place = long ? rows.place(keys.here) : null;
    if (place !== null) box.scrollTop = rows.top = place;
    await tick();
    const link = `tr[aria-rowindex="${keys.here + 2}"] a`;
    box.querySelector<HTMLElement>(link)?.focus({ preventScroll: long });
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
  <table class="list" aria-rowcount={long ? list.rows.length + 1 : undefined}>
    <ListHead {list} columns={shown} {first} {picks} {long} />
    <tbody>
      {#if long}<tr aria-hidden="true" style:height="{rows.before}px"></tr>{/if}
      {#each drawn as row, n (long ? rows.node(range[0]! + n) : row.id)}
        {@const index = range[0]! + n}
        <ListRow
          {row}
          {index}
          {list}
          columns={shown}
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
</div>
{#if list.next && !long}
  <p>
    <button class="button" onclick={() => list.more()} disabled={list.busy}>Show more</button>
    <span class="soft">{list.rows.length} shown</span>
  </p>
{/if}

<style>
  .rows {
    overflow-x: auto;
    position: relative;
  }
  .long {
    contain: strict;
    overflow: auto;
    overflow-anchor: none;
    height: calc(100dvh - 15rem);
    min-height: 20rem;
  }
  .long table {
    table-layout: fixed;
    border-collapse: separate;
    border-spacing: 0;
    min-width: 62rem;
  }
</style>
