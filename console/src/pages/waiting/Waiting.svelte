<script lang="ts">
  import { api, got, type Schemas } from '../../lib/api';
  import ProblemNote from '../../lib/components/ProblemNote.svelte';
  import { plural } from '../../lib/format';
  import { Figures } from '../../lib/figures.svelte';
  import ShowMore from '../../lib/components/ShowMore.svelte';
  import { Listing } from '../../lib/listing.svelte';
  import { ask } from '../../lib/query.svelte';
  import AskedTable from '../handover/AskedTable.svelte';
  import Approvals from './Approvals.svelte';
  import Prepared from './Prepared.svelte';
  import Shared from './Shared.svelte';
  import StuckSteps from './StuckSteps.svelte';
  import ToCollect from './ToCollect.svelte';
  import TaskLine from './TaskLine.svelte';

  const tasks = new Listing<Schemas['TaskRow']>(
    ['waiting'],
    () => ({ page: 'waiting', part: 'tasks' }),
    (query, signal) => got(api.GET('/api/v1/tasks', { params: { query }, signal }))
  );
  const day = ask(
    ['dockets', 'findings', 'accounts', 'people', 'decisions'],
    () => ['day'],
    (signal) => got(api.GET('/api/v1/day', { signal }))
  );
  const figures = new Figures();
  const rows = $derived(tasks.rows);
  const late = $derived(figures.asked.data?.late_tasks ?? 0);
  const stuck = $derived((day.data?.stuck ?? []).filter((s) => s.state !== 'intent'));
</script>

<svelte:head><title>Waiting · Yugum</title></svelte:head>
<h1>Waiting</h1>
{#if tasks.count !== null}
  <div class="facts">
    <span
      ><b>{tasks.count} {rows.length === 1 ? 'task' : 'tasks'}</b> with owners of applications</span
    >
    <span class:short={late > 0}><b>{late}</b> past their time</span>
    <span
      ><b>{plural(stuck.length, 'step')}</b>
      {stuck.length === 1 ? 'waits' : 'wait'} for somebody</span
    >
  </div>
{/if}
<ProblemNote problem={tasks.problem ?? day.problem} />
<Approvals />
<Prepared />
<AskedTable />
<Shared />
<ToCollect />
{#if rows.length}
  <h2>Tasks</h2>
  <div class="scroll">
    <table class="list">
      <thead>
        <tr
          ><th>What</th><th>Who does it</th><th>Since</th><th>Due</th><th>It blocks</th><th
            >State</th
          ></tr
        >
      </thead>
      <tbody>
        {#each rows as row (row.id)}<TaskLine {row} changed={() => void tasks.again()} />{/each}
      </tbody>
    </table>
  </div>
  <ShowMore list={tasks} />
{/if}
<StuckSteps {stuck} />
{#if tasks.count !== null && day.data && !rows.length && !stuck.length}
  <p>Nobody waits for anybody.</p>
{/if}
