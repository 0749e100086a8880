<script lang="ts" generics="T extends { id: string }">
  import { api, got, type Schemas } from '../api';
  import { LOOK, type Column, type Listing } from '../listing.svelte';
  import { ask } from '../query.svelte';
  import { href, listAt } from '../router.svelte';
  import KeptViews from './KeptViews.svelte';
  import Later from './Later.svelte';

  interface Props {
    list: Listing<T>;
    page: Schemas['ListName'];
    columns: Column<T>[];
  }
  /** The views kept of a list, and what can be done with the list as it is. */
  let { list, page, columns }: Props = $props();
  let open = $state(false);
  const kept = ask(
    ['views'],
    () => ['views', page],
    (signal) => got(api.GET('/api/v1/views', { params: { query: { page, limit: 200 } }, signal }))
  );
  const unknown = $derived(list.unknown(columns));
  const rows = $derived(kept.data?.items ?? []);
  const text = (query: Record<string, string>) => JSON.stringify(Object.entries(query).sort());
  const whole = (view: Schemas['ViewRow']): Record<string, string> => ({
    ...view.query,
    ...(view.columns.length ? { columns: view.columns.join(',') } : {})
  });
  const at = (view: Schemas['ViewRow']) => href(listAt(page, whole(view)));
  const now = $derived(
    text({ ...list.asked, ...(list.query[LOOK] ? { columns: list.query[LOOK] } : {}) })
  );
  const here = $derived(rows.find((view) => text(whole(view)) === now));
</script>

<div class="bar">
  <KeptViews views={rows} here={here?.id} {at} />
  <button class="bare link" onclick={() => (open = true)}>Columns, views, files …</button>
  {#if unknown.length}
    <span role="alert">This list has no column {unknown.join(', ')}.</span>
  {/if}
  {#if list.outdated}
    <button class="button slim" onclick={() => list.again()}>The list has changed: show it</button>
  {/if}
</div>
{#if open}
  <Later
    load={() => import('./ListDialog.svelte')}
    list={list as unknown as Listing<{ id: string }>}
    {page}
    columns={columns as unknown as Column<{ id: string }>[]}
    views={rows}
    {here}
    onclose={() => (open = false)}
  />
{/if}

<style>
  .bar {
    display: flex;
    flex-wrap: wrap;
    gap: 4px 14px;
    align-items: center;
  }
  .bar {
    margin: 0 0 10px;
  }
</style>
