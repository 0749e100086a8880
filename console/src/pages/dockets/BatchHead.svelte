<script lang="ts">
  import { api, got } from '../../lib/api';
  import Bars from '../../lib/components/Bars.svelte';
  import ProblemNote from '../../lib/components/ProblemNote.svelte';
  import { plural } from '../../lib/format';
  import { ask } from '../../lib/query.svelte';
  import { href, type Query } from '../../lib/router.svelte';

  /** How the dockets stand that were confirmed together: what went wrong first, then how long it took. */
  let { id, query }: { id: string; query: Query } = $props();
  const load = ask(
    ['dockets'],
    () => ['dockets/batches', id],
    (signal) =>
      got(
        api.GET('/api/v1/dockets/batches/{batch_id}', {
          params: { path: { batch_id: id } },
          signal
        })
      )
  );
  let drawing = $state<SVGSVGElement>();
  const found = $derived(load.data);
  const bars = $derived(
    (found
      ? ([
          ['done', found.done],
          ['running', found.running - found.stuck],
          ['stuck', found.stuck],
          ['to come', found.scheduled],
          ['cancelled or taken over', found.otherwise]
        ] as const)
      : []
    ).flatMap(([label, count]) => (count ? [{ label, count, says: String(count) }] : []))
  );
  const seconds = (ms: number): string => `${(ms / 1000).toFixed(1)} s`;
</script>

<ProblemNote problem={load.problem} />
{#if found}
  <section aria-label="Confirmed together">
    <p>
      <b>{plural(found.dockets, 'docket')}</b> confirmed together.
      {#if found.stuck}
        <a class="bad" href={href({ page: 'dockets', query: { ...query, stuck: 'true' } })}
          >{found.stuck} {found.stuck === 1 ? 'waits' : 'wait'} for somebody</a
        >.
      {/if}
      {#if found.half_ms !== null && found.longest_ms !== null}
        {plural(found.cut_offs, 'person is', 'people are')} cut off: half of them within
        {seconds(found.half_ms)}, all within {seconds(found.longest_ms)}.
      {/if}
    </p>
    {#if bars.length > 1}<Bars {bars} label="How they stand" bind:drawing />{/if}
  </section>
{/if}

<style>
  section {
    margin-bottom: 12px;
  }
  .bad {
    color: var(--color-error-600-400);
    font-weight: 600;
  }
</style>
