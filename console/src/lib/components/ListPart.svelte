<script lang="ts" generics="T extends { id: string }">
  import type { Snippet } from 'svelte';
  import type { Problem, Schemas } from '../api';
  import type { Field } from '../filters';
  import type { Column, Listing } from '../listing.svelte';
  import Filters from './Filters.svelte';
  import List from './List.svelte';
  import ListBar from './ListBar.svelte';
  import ProblemNote from './ProblemNote.svelte';

  interface Props {
    list: Listing<T>;
    columns: Column<T>[];
    label: string;
    to: (row: T) => string;
    /** Of which list views and files are; without it there are none. */
    page?: Schemas['ListName'];
    fields?: Field[];
    /** Instead of chips. */
    above?: Snippet;
    first?: string;
    picks?: boolean;
    cell?: Snippet<[T, Column<T>]>;
    problem?: Problem | null;
    /** What is said where nothing fits what is asked for. */
    none: string;
    /** What is said where there is nothing at all yet. */
    children?: Snippet;
  }
  /** A list on a page: what it is asked for, its rows, and what is said where there are none. */
  let {
    list,
    columns,
    label,
    to,
    page,
    fields,
    above,
    first = '',
    picks = false,
    cell,
    problem,
    none,
    children
  }: Props = $props();
</script>

{#if page}
  <div class="asked">
    {#if fields}
      <Filters {fields} query={list.query} onask={(change) => list.ask(change)} />
    {:else}{@render above?.()}{/if}
    <ListBar {list} {page} {columns} />
  </div>
{/if}
<ProblemNote problem={problem ?? list.problem} />
{#if list.rows.length}
  <List {list} {columns} {first} {label} {to} {picks} {cell} />
{:else if list.count !== null && list.filtered}
  <p>{none}</p>
{:else if list.count !== null}
  {@render children?.()}
{/if}
