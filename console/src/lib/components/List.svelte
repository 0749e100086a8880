<script lang="ts" generics="T extends { id: string }">
  import { tick, type Snippet } from 'svelte';
  import type { Column, Listing } from '../listing.svelte';
  import { RowWindow } from '../window.svelte';
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
  let narrow = $state(false);
  $effect(() => {
    const query = matchMedia('(max-width: 800px)');
    const look = () => (narrow = query.matches);
    look();
    query.addEventListener('change', look);
    return () => query.removeEventListener('change', look);
  });
  const shown = $derived(list.columns(columns));
  const long = $derived(!narrow && list.rows.length >= MANY);
  const rows = new RowWindow(() => list.rows.length);
  const range = $derived(long ? [rows.from, rows.to] : [0, list.rows.length]);
  const drawn = $derived(list.rows.slice(...range));
  let box: HTMLElement;
  let here = $state(0);

  /** What comes next is asked for before its place is in sight. */
  $effect(() => {
    if (long && list.next && rows.to + NEAR > list.rows.length) void list.more();
  });
  $effect.pre(() => {
    void range;
    const row = box?.contains(document.activeElement) && document.activeElement?.closest('tr');
    if (row && long && (here < range[0]! || here >= range[1]!)) box.focus({ preventScroll: true });
  });
  /** Once its rows are there, and when the text is another size; not with each row that comes into sight. */
  function measure(node: HTMLElement): void {
    const look = (): void => {
      const first = node.querySelector('tbody tr:not([aria-hidden])');
      if (first) rows.row = first.getBoundingClientRect().height;
    };
    $effect(() => {
      if (!long) return;
      look();
      addEventListener('resize', look);
      return () => removeEventListener('resize', look);
    });
  }

  const STEPS: Record<string, (page: number) => number> = {
    j: () => here + 1,
    ArrowDown: () => here + 1,
    k: () => here - 1,
    ArrowUp: () => here - 1,
    PageDown: (page) => here + page,
    PageUp: (page) => here - page,
    Home: () => 0,
    End: () => list.rows.length - 1
  };
  async function move(event: KeyboardEvent): Promise<void> {
    const target = event.target as HTMLElement;
    const row = list.rows[here];
    if (event.metaKey || event.ctrlKey || event.altKey || target.closest('button, select')) return;
    if (picks && row && event.key === 'x') return list.pick(row.id, !list.picked.has(row.id));
    const step = STEPS[event.key];
    if (!step) return;
    event.preventDefault();
    event.stopPropagation();
    here = Math.max(
      0,
      Math.min(list.rows.length - 1, step(Math.floor(rows.height / rows.row) - 2))
    );
    const place = long ? rows.place(here) : null;
    if (place !== null) box.scrollTop = rows.top = place;
    await tick();
    box
      .querySelector<HTMLElement>(`tr[aria-rowindex="${here + 2}"] a`)
      ?.focus({ preventScroll: long });
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
  use:measure
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
          here={index === here}
          onhere={() => (here = index)}
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
