<script lang="ts">
  import { api, got, type Schemas } from '../../lib/api';
  import Later from '../../lib/components/Later.svelte';
  import { money, together } from '../../lib/format';
  import { ask } from '../../lib/query.svelte';

  /** How much was found, what it costs, and its course; `found` is null until it is known. */
  let { found, all, kind }: { found: Schemas['FindingCount'][] | null; all: string; kind: string } =
    $props();
  const behind = ask(
    ['findings', 'people'],
    () => ['standing/behind'],
    (signal) => got(api.GET('/api/v1/standing/behind', { signal }))
  );
  const uncounted = $derived((found ?? []).some((c) => c.cost === null));
  const cost = $derived(
    together((found ?? []).filter((c) => c.kind !== 'leaver-seat').map((c) => c.cost))
  );

  let course = $state(false);
</script>

<h1>Findings</h1>
{#if found}
  <div class="facts">
    <span><b>{all}</b> found that should not be</span>
    <span
      ><b>{money(cost) || 'nothing'}</b> a month in their seats{uncounted
        ? ', kinds with over 10,000 apart'
        : ''}</span
    >
  </div>
{/if}
{#if behind.data?.ahead}
  <p class="soft">
    {behind.data.ahead} of {behind.data.of} people are still looked at after a change for many.
  </p>
{/if}
<details ontoggle={(event) => (course ||= event.currentTarget.open)}>
  <summary>Course over weeks</summary>
  {#if course && found}<Later load={() => import('./CoursePart.svelte')} {kind} now={found} />{/if}
</details>

<style>
  details {
    margin-bottom: 12px;
  }
</style>
