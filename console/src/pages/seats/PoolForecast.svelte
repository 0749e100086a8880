<script lang="ts">
  import { api, got } from '../../lib/api';
  import ProblemNote from '../../lib/components/ProblemNote.svelte';
  import { dateOf, plural } from '../../lib/format';
  import { ask } from '../../lib/query.svelte';
  import { session } from '../../lib/session.svelte';
  import PeriodTable from './PeriodTable.svelte';
  import StepChart from './StepChart.svelte';

  let { id }: { id: string } = $props();
  const load = ask(
    ['seats', 'people', 'rules'],
    () => ['forecast', id],
    (signal) =>
      got(
        api.GET('/api/v1/seats/{pool_id}/forecast', { params: { path: { pool_id: id } }, signal })
      )
  );
  const view = $derived(load.data);
  const day = (said: string): string => dateOf(said, session.zone);
</script>

<section aria-labelledby="forecast">
  <h2 id="forecast">What comes</h2>
  <ProblemNote problem={load.problem} />
  {#if view}
    <p>
      {#if view.short_on}
        <b class="short">It runs short on {day(view.short_on)}</b>; at most {plural(
          view.lacking,
          'seat'
        )} lacking.
      {:else}<b>It does not run short</b> in the next two years.{/if}
    </p>
    <StepChart {view} zone={session.zone} />
    {#each view.renewals as one (one.purchase.id)}
      <p>
        {plural(one.purchase.count, 'seat')} end on <b>{day(one.ends)}</b>: decide by
        <b>{day(one.decide_by)}</b>{one.lacking
          ? `; without them ${plural(one.lacking, 'seat')} lacking.`
          : '; they are not needed then.'}
      </p>
    {/each}
    <details>
      <summary>As a table, and what is assumed</summary>
      <ul>
        {#each view.assumes as text (text)}<li>{text}</li>{/each}
      </ul>
      <PeriodTable periods={view.periods} zone={session.zone} />
    </details>
  {/if}
</section>

<style>
  .short {
    color: var(--color-error-600-400);
  }
</style>
