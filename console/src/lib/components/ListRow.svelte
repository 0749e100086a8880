<script lang="ts" generics="T extends { id: string }">
  import type { Snippet } from 'svelte';
  import type { Column, Listing } from '../listing.svelte';
  import { session } from '../session.svelte';
  import Moment from './Moment.svelte';

  interface Props {
    row: T;
    index: number;
    list: Listing<T>;
    columns: Column<T>[];
    to: string;
    picks: boolean;
    cell?: Snippet<[T, Column<T>]>;
    here: boolean;
    onhere: () => void;
  }
  let { row, index, list, columns, to, picks, cell, here, onhere }: Props = $props();
  const picked = $derived(list.everything || list.picked.has(row.id));
</script>

<tr aria-rowindex={index + 2} aria-selected={picks ? picked : undefined} onfocusin={onhere}>
  {#if picks}
    <td class="pick">
      <input
        type="checkbox"
        checked={picked}
        tabindex={here ? 0 : -1}
        aria-label="Pick {columns[0]?.called?.(row) ?? columns[0]?.text(row)}"
        onchange={(event) => list.pick(row.id, event.currentTarget.checked)}
      />
    </td>
  {/if}
  {#each columns as column, n (column.name)}
    <td class={n === 0 ? `name ${column.look ?? ''}` : column.look} data-label={column.label}>
      {#if n === 0}
        <a href={to} tabindex={here ? 0 : -1}>{column.text(row)}</a>
      {:else if column.at?.(row)}
        <Moment at={column.at(row)!} zone={session.zone} said={column.text(row)} />
      {:else if cell}
        {@render cell(row, column)}
      {:else}
        {column.text(row)}
      {/if}
    </td>
  {/each}
</tr>

<style>
  td :global(time) {
    white-space: nowrap;
  }
  :global(.rows.long) td {
    overflow: hidden;
    text-overflow: ellipsis;
    white-space: nowrap;
  }
</style>
