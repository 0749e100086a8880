<script lang="ts">
  import { api, got, type Schemas } from '../../lib/api';
  import Later from '../../lib/components/Later.svelte';
  import ProblemNote from '../../lib/components/ProblemNote.svelte';
  import { money } from '../../lib/format';
  import { Load } from '../../lib/load.svelte';
  import { FINDINGS } from '../../lib/words';
  import FoundTable from './FoundTable.svelte';
  import type { Wish } from '../../lib/plan.svelte';
  import { session } from '../../lib/session.svelte';
  import Deviations from './Deviations.svelte';
  import Review from './Review.svelte';

  let kind = $state<Schemas['FindingKind'] | null>(null);
  let rows = $state.raw<Schemas['Finding'][]>([]);
  let next = $state<string | null>(null);
  const counts = new Load(() => got(api.GET('/api/v1/findings/counts')));
  const load = new Load(async () => {
    const query = { kind, limit: 100, cursor: next ?? undefined };
    const page = await got(api.GET('/api/v1/findings', { params: { query } }));
    rows = [...rows, ...page.items];
    next = page.next ?? null;
    return page;
  });
  const behind = new Load(() => got(api.GET('/api/v1/standing/behind')));
  void behind.run();
  void counts.run();
  void load.run();
  const found = $derived(counts.data ?? []);
  const all = $derived(found.reduce((sum, c) => sum + c.count, 0));
  const cents = $derived(
    found.filter((c) => c.kind !== 'leaver-seat').reduce((sum, c) => sum + c.cents, 0)
  );

  const STANDING = ['missing', 'too_much', 'differs', 'both'];
  let wish = $state.raw<Wish | null>(null);
  /** Whom the lines shown are about, as many as one plan takes. */
  const people = $derived(
    [
      ...new Set(
        rows.flatMap((r) => (STANDING.includes(r.kind) && r.person_id ? [r.person_id] : []))
      )
    ].slice(0, 500)
  );

  function choose(wanted: Schemas['FindingKind'] | null): void {
    kind = wanted;
    rows = [];
    next = null;
    void load.run();
  }
</script>

<svelte:head><title>Findings · Yugum</title></svelte:head>
<h1>Findings</h1>
{#if counts.data}
  <div class="facts">
    <span><b>{all}</b> found that should not be</span>
    <span><b>{money(cents, 'EUR')}</b> a month in their seats</span>
  </div>
{/if}
{#if behind.data?.ahead}
  <p class="soft">
    {behind.data.ahead} of {behind.data.of} people are still looked at after a change for many.
  </p>
{/if}
<div class="kinds" role="group" aria-label="Kinds of findings">
  <button class:here={kind === null} aria-pressed={kind === null} onclick={() => choose(null)}
    >all {all}</button
  >
  {#each found as c (c.kind)}
    <button
      class:here={kind === c.kind}
      aria-pressed={kind === c.kind}
      onclick={() => choose(c.kind)}>{FINDINGS[c.kind] ?? c.kind} {c.count}</button
    >
  {/each}
</div>
<ProblemNote problem={load.problem} />
{#if rows.length}
  <FoundTable {rows} />
  {#if next}<p><button class="button" onclick={() => load.run()}>Show more</button></p>{/if}
  {#if people.length && session.mayAct}
    <p>
      <button class="button" onclick={() => (wish = { verb: 'recheck', who: people })}
        >Recheck {people.length === 1 ? 'this person' : `these ${people.length} people`} …</button
      >
    </p>
  {/if}
{:else if load.data}
  <p>Nothing was found. Read an application, and what should not be stands here.</p>
{/if}
{#if wish}
  <Later
    load={() => import('../../lib/components/PlanPanel.svelte')}
    {wish}
    who={`${people.length} people`}
    onclose={() => (wish = null)}
  />
{/if}
<Deviations />
<Review />

<style>
  .kinds {
    display: flex;
    flex-wrap: wrap;
    gap: 6px;
    margin-bottom: 12px;
  }
  .kinds button {
    font: inherit;
    border: 1px solid var(--rule);
    background: var(--sheet);
    color: var(--ink);
    border-radius: 4px;
    padding: 3px 9px;
    cursor: pointer;
  }
  .kinds .here {
    background: var(--ink);
    color: var(--paper);
  }
</style>
