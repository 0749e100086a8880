<script lang="ts">
  import type { Schemas } from '../api';
  import { exactly } from '../format';
  import { session } from '../session.svelte';
  import { PLANNED } from '../words';
  import Fidelity from './Fidelity.svelte';

  let { batch }: { batch: Schemas['BatchView'] } = $props();
  const SHOWN = 5;
  const name = (id: string) => batch.applications[id] ?? id;
</script>

{#each batch.plans.slice(0, SHOWN) as plan (plan.id)}
  <div>
    <div class="soft">{exactly(plan.due_at, session.zone)}</div>
    {#each plan.summary as line (line)}<div><b>{line}</b></div>{/each}
  </div>
  {#each plan.cautions as caution (caution.text)}
    <div class="sheet warn">{caution.text}</div>
  {/each}
  {#if plan.steps.length}
    <!-- svelte-ignore a11y_no_noninteractive_tabindex -->
    <div class="scroll steps" role="region" aria-label="Steps of the plan" tabindex="0">
      <table class="list">
        <thead
          ><tr
            ><th>Phase</th><th>Application</th><th>Step</th><th>Before → after</th><th>Because</th
            ></tr
          ></thead
        >
        <tbody>
          {#each plan.steps as step, index (index)}
            <tr>
              <td class="soft">{step.phase}</td>
              <td class="name">{name(step.application_id)}</td>
              <td>{PLANNED[step.action] ?? step.action} {step.item}</td>
              <td
                >{step.before} → {step.after}{#if step.irreversible}
                  <b>cannot be put back</b>{/if}</td
              >
              <td>{step.reason}</td>
            </tr>
          {/each}
          {#each plan.stays as stay, index (index)}
            <tr class="stays"
              ><td>stays</td><td>{name(stay.application)}</td><td>{stay.item}</td><td>held</td><td
                >{stay.reason}</td
              ></tr
            >
          {/each}
        </tbody>
      </table>
    </div>
  {/if}
  <Fidelity lines={plan.fidelity} />
{/each}
{#if batch.plans.length > SHOWN}
  <p class="soft">and {batch.plans.length - SHOWN} more people with plans of their own</p>
{/if}

<style>
  .steps {
    max-height: 46vh;
    overflow-y: auto;
  }
  .stays td {
    color: var(--soft);
  }
</style>
