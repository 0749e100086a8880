<script lang="ts">
  import Bars from '../../lib/components/Bars.svelte';
  import ProblemNote from '../../lib/components/ProblemNote.svelte';
  import { dateOf, plural } from '../../lib/format';
  import { href, router, type Query } from '../../lib/router.svelte';
  import { session } from '../../lib/session.svelte';
  import { savePicture } from '../../lib/picture';
  import { period, report, REPORTS } from './reports.svelte';
  import ReportTable from './ReportTable.svelte';

  /** A report with its picture, as it is now; to be printed, or taken along as a file. */
  let { query = {} }: { query?: Query } = $props();
  const known = $derived(query.report && query.report in REPORTS ? query.report : 'cut-offs');
  const load = report(
    () => known,
    () => query,
    () => session.zone
  );
  let drawing = $state<SVGSVGElement>();
  const of = $derived(REPORTS[known]!);
  const found = $derived(load.data?.name === known ? load.data : null);
  const day = $derived(session.clock ? dateOf(session.clock.now, session.zone) : '');
  const file = (form: string): string => {
    const [list, asked = ''] = (of.file ?? known).split('?');
    const more = new URLSearchParams({ ...period(known, query), format: form });
    return `/api/v1/exports/${list}?${asked && `${asked}&`}${more.toString()}`;
  };
  const go = (days: Record<string, string>) =>
    router.go({ page: 'reports', query: { ...query, report: known, ...days } });
</script>

<svelte:head><title>Reports · Yugum</title></svelte:head>
<h1>Reports</h1>
<nav class="parts unprinted" aria-label="Reports">
  {#each Object.entries(REPORTS) as [key, one] (key)}
    <a
      href={href({ page: 'reports', query: { report: key } })}
      aria-current={key === known ? 'page' : undefined}>{one.name}</a
    >
  {/each}
</nav>
<h2>{of.name}</h2>
<p class="soft">As of {day}. {of.says}</p>
{#if of.period}
  <form class="form-row unprinted" aria-label="Period">
    {#each [['begin', 'From'], ['end', 'To']] as const as [name, label] (name)}
      <label class="field"
        ><span>{label}</span><input
          type="date"
          value={query[name] ?? ''}
          onchange={(event) => go({ [name]: event.currentTarget.value })}
        /></label
      >
    {/each}
    <p class="soft">Without days the last ninety.</p>
  </form>
{/if}
{#if query.report && query.report !== known}
  <p role="alert">There is no report {query.report}.</p>
{/if}
<ProblemNote problem={load.problem} />
{#if found?.rows.length}
  {#if found.more}<p>
      Told are the first {plural(found.rows.length, 'row')}; the files have all of them.
    </p>{/if}
  <Bars bars={found.bars} label={of.name} bind:drawing />
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
  <ReportTable head={found.head} rows={found.rows} counted={of.counted} />
{:else if found}<p>Nothing is to be told{of.period ? ' of these days' : ''}.</p>{/if}

<style>
  .parts,
  p.unprinted {
    display: flex;
    flex-wrap: wrap;
    gap: 4px 16px;
    align-items: center;
  }
  .parts [aria-current] {
    font-weight: 600;
    text-decoration: none;
  }
</style>
