<script lang="ts">
  import type { Schemas } from '../api';
  import { PLANNED } from '../words';

  let { plan, name }: { plan: Schemas['PlanView']; name: (id: string) => string } = $props();
</script>

<!-- svelte-ignore a11y_no_noninteractive_tabindex -->
<div class="scroll steps" role="region" aria-label="Steps of the plan" tabindex="0">
  <table class="list">
    <thead
      ><tr
        ><th>Phase</th><th>Application</th><th>Step</th><th>Before → after</th><th>Because</th></tr
      ></thead
    >
    <tbody>
      {#each plan.steps as step, index (index)}
        <tr>
          <td class="soft">{step.phase}</td>
          <td class="name">{name(step.application_id)}</td>
          <td>{PLANNED[step.action] ?? step.action} {step.item}</td>
          <td
            >{step.before} → {step.after}{#if step.irreversible}<b>, cannot be put back</b>{/if}</td
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

<style>
  .steps {
    max-height: 46vh;
    overflow-y: auto;
  }
  .stays td {
    color: var(--color-surface-600-400);
  }
</style>
