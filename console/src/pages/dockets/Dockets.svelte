<script lang="ts">
  import { api, got, type Schemas } from '../../lib/api';
  import ProblemNote from '../../lib/components/ProblemNote.svelte';
  import StepMark from '../../lib/components/StepMark.svelte';
  import { capital, exactly, momentOf } from '../../lib/format';
  import { Load } from '../../lib/load.svelte';
  import { href } from '../../lib/router.svelte';
  import { session } from '../../lib/session.svelte';

  let rows = $state.raw<Schemas['DocketRow'][]>([]);
  let next = $state<string | null>(null);
  let total = $state<number | null>(null);
  let stuck = $state(false);
  const load = new Load(async () => {
    const query = { stuck, limit: 50, cursor: next ?? undefined };
    const page = await got(api.GET('/api/v1/dockets', { params: { query } }));
    rows = [...rows, ...page.items];
    next = page.next ?? null;
    total = page.total ?? total;
  });
  void load.run();

  function again(): void {
    rows = [];
    next = null;
    void load.run();
  }
</script>

<svelte:head><title>Dockets · Yugum</title></svelte:head>
<h1>Dockets</h1>
<div class="facts">
  {#if total !== null}<span><b>{total}</b> {stuck ? 'stuck' : 'in all'}</span>{/if}
  <label
    ><input type="checkbox" bind:checked={stuck} onchange={again} /> only those that wait for somebody</label
  >
</div>
<ProblemNote problem={load.problem} />
{#if rows.length}
  <div class="scroll">
    <table class="list">
      <thead
        ><tr
          ><th>Number</th><th>What</th><th>Who</th><th>Due</th><th>By</th><th>Reference</th><th
            >State</th
          ></tr
        ></thead
      >
      <tbody>
        {#each rows as row (row.id)}
          <tr>
            <td class="name mono"
              ><a href={href({ page: 'docket', name: row.number })}>{row.number}</a></td
            >
            <td>{capital(row.title)}</td>
            <td><a href={href({ page: 'person', who: row.subject_id })}>{row.subject_name}</a></td>
            <td title={exactly(row.due_at, session.zone)}>{momentOf(row.due_at, session.zone)}</td>
            <td class="soft">{row.author}</td>
            <td class="mono">{row.reference}</td>
            <td>
              <span class="state">
                <StepMark
                  state={row.steps_stuck
                    ? 'stuck'
                    : row.state === 'done'
                      ? 'done'
                      : row.state === 'scheduled'
                        ? 'due'
                        : row.state === 'running'
                          ? 'settling'
                          : 'none'}
                />
                {row.outcome}{row.steps_total
                  ? `, ${row.steps_done} of ${row.steps_total}`
                  : ''}{row.steps_stuck ? `, ${row.steps_stuck} stuck` : ''}
              </span>
            </td>
          </tr>
        {/each}
      </tbody>
    </table>
  </div>
  {#if next}<p>
      <button class="button" onclick={() => load.run()} disabled={load.busy}>Show more</button>
    </p>{/if}
{:else if !load.busy && !load.problem}
  <p>
    {stuck ? 'Nothing waits for anybody.' : 'Plans that are carried out stand here.'}
    <a href="/people">Find somebody</a> to make one.
  </p>
{/if}
