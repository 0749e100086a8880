<script lang="ts" generics="T extends { id: string }">
  import type { Component, Snippet } from 'svelte';
  import type { Schemas } from '../../lib/api';
  import Later from '../../lib/components/Later.svelte';
  import ListPart from '../../lib/components/ListPart.svelte';
  import type { Field } from '../../lib/filters';
  import { OPEN, type Column, type Listing } from '../../lib/listing.svelte';
  import { href, listAt } from '../../lib/router.svelte';

  interface Props {
    page: Schemas['ListName'];
    title: string;
    list: Listing<T>;
    columns: Column<T>[];
    fields: Field[];
    cell?: Snippet<[T, Column<T>]>;
    /** Where there may be new ones: what that is called, and its form. */
    adds?: { label: string; load: () => Promise<{ default: Component<{ onclose: () => void }> }> };
    /** What else can be done with the list as a whole. */
    acts?: Snippet;
    /** One row, opened. */
    opened: Snippet<[T, () => void]>;
    /** What is said where there is nothing at all yet. */
    children: Snippet;
  }
  /** A list of *Access*: a row opens in a dialog that stands in the address. */
  let { page, title, list, columns, fields, cell, adds, acts, opened, children }: Props = $props();
  let adding = $state(false);
  const one = $derived(list.rows.find((row) => row.id === list.query[OPEN]));
</script>

<div class="titled">
  <h2>
    {title}{#if list.count !== null}: {list.count}{list.filtered ? ' fit' : ''}{/if}
  </h2>
  {#if adds}
    <button class="button slim" onclick={() => (adding = true)}>{adds.label}</button>
  {/if}
  {@render acts?.()}
</div>
<ListPart
  {list}
  {page}
  {columns}
  {fields}
  {cell}
  label={title}
  to={(row) => href(listAt(page, { ...list.query, [OPEN]: row.id }))}
  none="Nothing fits these filters. Take one away to see more."
>
  {@render children()}
</ListPart>
{#if one}{@render opened(one, () => list.ask({ [OPEN]: '' }))}{/if}
{#if adds && adding}<Later load={adds.load} onclose={() => (adding = false)} />{/if}
