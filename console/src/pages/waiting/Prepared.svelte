<script lang="ts">
  import { api, got, type Problem, type Schemas } from '../../lib/api';
  import Panel from '../../lib/components/Panel.svelte';
  import PlanView from '../../lib/components/PlanView.svelte';
  import ProblemNote from '../../lib/components/ProblemNote.svelte';
  import Safeguards from '../../lib/components/Safeguards.svelte';
  import { exactly, momentOf } from '../../lib/format';
  import { asProblem, Load } from '../../lib/load.svelte';
  import { router } from '../../lib/router.svelte';
  import { session } from '../../lib/session.svelte';
  import { VERBS } from '../../lib/words';

  const load = new Load(() => got(api.GET('/api/v1/plans')));
  if (session.mayAct) void load.run();
  const rows = $derived(load.data ?? []);
  let batch = $state.raw<Schemas['BatchView'] | null>(null);
  let reference = $state('');
  let reason = $state('');
  let typed = $state('');
  let override = $state('');
  let problem = $state.raw<Problem | null>(null);
  let busy = $state(false);

  async function open(id: string): Promise<void> {
    problem = null;
    try {
      const path = { batch_id: id };
      batch = await got(api.GET('/api/v1/plans/{batch_id}', { params: { path } }));
    } catch (error) {
      problem = asProblem(error);
    }
  }

  async function fire(event: SubmitEvent): Promise<void> {
    event.preventDefault();
    if (!batch) return;
    busy = true;
    try {
      const path = { batch_id: batch.id };
      const body = { reference, reason, typed, override };
      const done = await got(api.POST('/api/v1/plans/{batch_id}/fire', { params: { path }, body }));
      const docket = done.dockets[0];
      if (docket) router.go({ page: 'docket', name: docket.number });
    } catch (error) {
      problem = asProblem(error);
    } finally {
      busy = false;
    }
  }
</script>

<ProblemNote problem={load.problem ?? (batch ? null : problem)} />
{#if rows.length}
  <h2>Prepared in confidence</h2>
  <p class="soft">Nobody but you sees these.</p>
  <div class="scroll">
    <table class="list">
      <thead><tr><th>Who</th><th>What</th><th>Prepared</th><th>Look and carry out</th></tr></thead>
      <tbody>
        {#each rows as row (row.batch_id)}
          <tr>
            <td class="name">{row.names.join(', ')}</td>
            <td>{VERBS[row.verb] ?? row.verb}</td>
            <td title={exactly(row.made_at, session.zone)}>{momentOf(row.made_at, session.zone)}</td
            >
            <td><button class="button" onclick={() => void open(row.batch_id)}>Open …</button></td>
          </tr>
        {/each}
      </tbody>
    </table>
  </div>
{/if}
{#if batch}
  <Panel open title="Prepared in confidence" wide onclose={() => (batch = null)}>
    <form onsubmit={fire}>
      <PlanView {batch} />
      <p class="soft">
        It is planned again from what is now, overtakes everything, and nobody is told until you say
        so.
      </p>
      <div class="two">
        <label class="field"><span>Reference</span><input bind:value={reference} /></label>
        <label class="field"><span>Reason</span><input bind:value={reason} /></label>
      </div>
      <Safeguards {batch} bind:typed bind:override kept asked={problem?.place === 'override'} />
      <ProblemNote {problem} />
      <div class="buttons">
        <button class="button plain" type="button" onclick={() => (batch = null)}>Close</button>
        <button class="button cut" disabled={busy}>Cut off now</button>
      </div>
    </form>
  </Panel>
{/if}

<style>
  .two {
    display: grid;
    grid-template-columns: 1fr 2fr;
    gap: 12px;
  }
</style>
