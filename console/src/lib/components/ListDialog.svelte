<script lang="ts">
  import type { Schemas } from '../api';
  import { LOOK, type Column, type Listing } from '../listing.svelte';
  import ListViews from './ListViews.svelte';
  import Panel from './Panel.svelte';

  type Row = { id: string };
  interface Props {
    list: Listing<Row>;
    page: Schemas['ListName'];
    columns: Column<Row>[];
    views: Schemas['ViewRow'][];
    here: Schemas['ViewRow'] | undefined;
    onclose: () => void;
  }
  let { list, page, columns, views, here, onclose }: Props = $props();
  const shown = $derived(list.columns(columns).map((c) => c.name as string));
  const usual = $derived(columns.filter((c) => !c.more).map((c) => c.name as string));

  function choose(names: string[]): void {
    list.ask({ [LOOK]: names.join() === usual.join() ? '' : names.join() });
  }
  function turn(name: string): void {
    const all = columns.map((c) => c.name as string);
    const on = shown.includes(name) ? shown.filter((n) => n !== name) : [...shown, name];
    if (on.length) choose(all.filter((n) => on.includes(n)));
  }
  const FORMS = [
    ['csv', 'CSV'],
    ['xlsx', 'Workbook (XLSX)'],
    ['jsonl', 'JSON lines']
  ] as const;
  function file(form: string): string {
    const asked = new URLSearchParams({ ...list.asked, format: form });
    for (const name of shown) asked.append('column', name);
    return `/api/v1/exports/${page}?${asked}`;
  }
</script>

<Panel open title="This list" {onclose}>
  <h2>Columns</h2>
  <div class="columns" role="group" aria-label="Columns">
    {#each columns as column, n (column.name)}
      <label class="check"
        ><input
          type="checkbox"
          checked={shown.includes(column.name)}
          disabled={n === 0}
          onchange={() => turn(column.name)}
        />{column.label}</label
      >
    {/each}
  </div>
  <ListViews {list} {page} {views} {here} />
  <h2>Take it along</h2>
  <p>
    Every row that fits{list.count === null ? '' : `, ${list.count}`}, with the columns above:
    {#each FORMS as [form, name] (form)}
      <a class="file within" href={file(form)} download>{name}</a>
    {/each}
  </p>
  <p class="end"><button class="button" onclick={onclose}>Done</button></p>
</Panel>

<style>
  .columns {
    display: grid;
    grid-template-columns: repeat(auto-fill, minmax(150px, 1fr));
    gap: 4px 12px;
  }
  .file {
    margin-left: 12px;
  }
  .end {
    text-align: right;
  }
</style>
