<script lang="ts">
  import type { Schemas } from '../api';
  import { exactly, worded } from '../format';
  import { session } from '../session.svelte';
  import { fieldName } from '../words';
  import Fidelity from './Fidelity.svelte';
  import PlanBatch from './PlanBatch.svelte';
  import PlanColumns from './PlanColumns.svelte';
  import PlanMatrix from './PlanMatrix.svelte';
  import PlanSteps from './PlanSteps.svelte';

  let { batch }: { batch: Schemas['BatchView'] } = $props();
  const name = (id: string) => batch.applications[id] ?? id;
  const first = $derived(batch.plans[0]);
</script>

{#if batch.plans.length > 1}
  <PlanBatch {batch} />
{:else if first}
  <div>
    <div class="soft">{exactly(first.due_at, session.zone)}</div>
    {#each first.summary as line (line)}<div><b>{line}</b></div>{/each}
  </div>
  {#if first.changed.length}
    <table class="list changed" aria-label="What changes about the person">
      <tbody>
        {#each first.changed as change (change.field)}
          <tr>
            <td class="name">{fieldName(change.field)}</td>
            <td>{worded(change.before, session.zone) || 'nothing'}</td>
            <td>→ <b>{worded(change.after, session.zone) || 'nothing'}</b></td>
          </tr>
        {/each}
      </tbody>
    </table>
  {/if}
  {#each first.cautions as caution (caution.text)}
    <div class="sheet warn">{caution.text}</div>
  {/each}
  {#if first.steps.length && batch.verb === 'leaver'}
    <PlanMatrix plan={first} {name} />
    <details>
      <summary>Every step, with its reason</summary>
      <PlanSteps plan={first} {name} />
    </details>
  {:else if batch.verb === 'mover'}
    <PlanColumns plan={first} {name} />
  {:else if first.steps.length}
    <PlanSteps plan={first} {name} />
  {/if}
  <Fidelity lines={first.fidelity} />
{/if}

<style>
  .changed {
    width: auto;
  }
</style>
