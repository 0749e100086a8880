<script lang="ts">
  import { untrack } from 'svelte';
  import { api, got, type Schemas } from '../../lib/api';
  import Filters from '../../lib/components/Filters.svelte';
  import ProblemNote from '../../lib/components/ProblemNote.svelte';
  import SortHead from '../../lib/components/SortHead.svelte';
  import StepMark from '../../lib/components/StepMark.svelte';
  import { capital, exactly, momentOf } from '../../lib/format';
  import { asDockets, chips, DOCKETS } from '../../lib/filters';
  import { Listing } from '../../lib/listing.svelte';
  import { href, type Query } from '../../lib/router.svelte';
  import { session } from '../../lib/session.svelte';

  let { query = {} }: { query?: Query } = $props();
  const list = new Listing<Schemas['DocketRow']>(
    (asked, cursor) =>
      got(api.GET('/api/v1/dockets', { params: { query: asDockets(asked, cursor) } })),
    () => ({ page: 'dockets', query })
  );
  const stuck = $derived(query.stuck === 'true');
  $effect(() => {
    void query;
    untrack(() => list.again());
  });
</script>

<svelte:head><title>Dockets · Yugum</title></svelte:head>
<h1>Dockets</h1>
<div class="facts">
  {#if list.count !== null}
    <span><b>{list.count}</b> {chips(DOCKETS, query).length ? 'fit' : 'in all'}</span>
  {/if}
  <label
    ><input
      type="checkbox"
      checked={stuck}
      onchange={() => list.ask({ stuck: stuck ? '' : 'true' })}
    /> only those that wait for somebody</label
  >
</div>
<Filters fields={DOCKETS} {query} onask={(change) => list.ask(change)} />
<ProblemNote problem={list.load.problem} />
{#if list.rows.length}
  <div class="scroll">
    <table class="list">
      <thead
        ><tr>
          <SortHead {list} first="number" latest name="number">Number</SortHead>
          <th>What</th><th>Who</th>
          <SortHead {list} first="number" latest name="due">Due</SortHead>
          <th>By</th><th>Reference</th><th>State</th></tr
        ></thead
      >
      <tbody>
        {#each list.rows as row (row.id)}
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
  {#if list.next}<p>
      <button class="button" onclick={() => list.load.run()} disabled={list.load.busy}
        >Show more</button
      >
    </p>{/if}
{:else if list.count !== null && chips(DOCKETS, query).length}
  <p>
    {stuck ? 'Nothing waits for anybody.' : 'No docket fits these filters.'} Take one away to see more.
  </p>
{:else if list.count !== null}
  <p>
    Plans that are carried out stand here.
    <a href="/people">Find somebody</a> to make one.
  </p>
{/if}
