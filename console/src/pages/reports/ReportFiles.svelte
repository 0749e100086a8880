<script lang="ts">
  import { savePicture } from '../../lib/picture';
  import type { Query } from '../../lib/router.svelte';
  import { period, REPORTS } from './reports.svelte';

  interface Props {
    known: string;
    query: Query;
    day: string;
    drawing: SVGSVGElement | undefined;
  }
  /** A report as a file, a picture or on paper. */
  let { known, query, day, drawing }: Props = $props();
  const file = (form: string): string => {
    const [list, asked = ''] = (REPORTS[known]!.file ?? known).split('?');
    const more = new URLSearchParams({ ...period(known, query), format: form });
    return `/api/v1/exports/${list}?${asked && `${asked}&`}${more.toString()}`;
  };
</script>

<p class="unprinted">
  <a class="within" href={file('csv')} download>CSV</a>
  <a class="within" href={file('xlsx')} download>Workbook (XLSX)</a>
  <a class="within" href={file('jsonl')} download>JSON lines</a>
  <button
    class="button plain"
    onclick={() => drawing && savePicture(drawing, `${known} ${day}.png`)}>As PNG</button
  >
  <button class="button plain" onclick={() => window.print()}>Print …</button>
</p>

<style>
  p {
    display: flex;
    flex-wrap: wrap;
    gap: 4px 16px;
    align-items: center;
  }
</style>
