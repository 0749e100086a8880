<script lang="ts">
  import type { Schemas } from '../../lib/api';
  import { PEOPLE } from '../../lib/filters';
  import Filters from '../../lib/components/Filters.svelte';
  import ProblemNote from '../../lib/components/ProblemNote.svelte';
  import type { Query } from '../../lib/router.svelte';
  import MatrixActs from './MatrixActs.svelte';
  import MatrixTable from './MatrixTable.svelte';
  import { ALL, Matrix } from './matrix.svelte';

  /** People by licenses of one application or of all: who has a seat of which, and why. */
  let { query, pools }: { query: Query; pools: Schemas['PoolRow'][] } = $props();
  const matrix = new Matrix(() => query);
  const list = matrix.list;
  const shown = $derived(
    pools.filter((p) => query.matrix === ALL || query.matrix === p.application_id)
  );
</script>

<h2>People by licenses</h2>
<Filters fields={PEOPLE} {query} onask={(change) => list.ask(change)} />
<ProblemNote problem={list.problem} />
{#if list.rows.length}
  <p class="soft">
    {list.count ?? list.rows.length} people; ● by a role, ◆ by an exception, ○ found there, a number is
    a place in line.
  </p>
  <MatrixTable {matrix} pools={shown} />
  {#if list.next}<button class="button" disabled={list.busy} onclick={() => void list.more()}
      >More people</button
    >{/if}
  <MatrixActs {matrix} />
{:else if !list.busy}<p>Nobody fits.</p>{/if}
