<script lang="ts">
  import Bars from '../../lib/components/Bars.svelte';
  import ProblemNote from '../../lib/components/ProblemNote.svelte';
  import { dateOf, plural } from '../../lib/format';
  import { href, router, type Query } from '../../lib/router.svelte';
  import { session } from '../../lib/session.svelte';
  import { report, REPORTS } from './reports.svelte';
  import Period from './Period.svelte';
  import ReportFiles from './ReportFiles.svelte';
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
{#if of.period}<Period {query} ongo={go} />{/if}
{#if query.report && query.report !== known}
  <p role="alert">There is no report {query.report}.</p>
{/if}
<ProblemNote problem={load.problem} />
{#if found?.rows.length}
  {#if found.more}<p>
      Told are the first {plural(found.rows.length, 'row')}; the files have all of them.
    </p>{/if}
  <Bars bars={found.bars} label={of.name} bind:drawing />
  <ReportFiles {known} {query} {day} {drawing} />
  <ReportTable head={found.head} rows={found.rows} counted={of.counted} />
{:else if found}<p>Nothing is to be told{of.period ? ' of these days' : ''}.</p>{/if}

<style>
  .parts {
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
