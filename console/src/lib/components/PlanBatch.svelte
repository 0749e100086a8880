<script lang="ts">
  import type { Schemas } from '../api';
  import { plural } from '../format';
  import { session } from '../session.svelte';
  import Moment from './Moment.svelte';

  let { batch }: { batch: Schemas['BatchView'] } = $props();
  const cuts = (plan: Schemas['PlanView']) =>
    plan.steps.filter((s) => s.action === 'cut_off').length;
</script>

<!-- svelte-ignore a11y_no_noninteractive_tabindex -->
<div class="scroll people" role="region" aria-label="People of the plan" tabindex="0">
  <table class="list">
    <thead>
      <tr>
        <th>Name</th><th>Number</th><th>When</th>
        {#if batch.verb === 'leaver'}<th class="right">Cut off</th>{/if}
        <th class="right">Steps</th><th>To look at</th>
      </tr>
    </thead>
    <tbody>
      {#each batch.plans as plan (plan.id)}
        <tr>
          <td class="name">{plan.person_name}</td>
          <td class="mono">{plan.employee_number}</td>
          <td><Moment at={plan.due_at} zone={session.zone} /></td>
          {#if batch.verb === 'leaver'}
            <td class="right">{plural(cuts(plan), 'application')}</td>
          {/if}
          <td class="right mono">{plan.steps.length}</td>
          <td>
            {#each plan.cautions as caution (caution.text)}<div>{caution.text}</div>{:else}<span
                class="soft">nothing</span
              >{/each}
          </td>
        </tr>
      {/each}
    </tbody>
  </table>
</div>

<style>
  .people {
    max-height: 50vh;
    overflow-y: auto;
  }
  .right {
    text-align: right;
  }
  td {
    vertical-align: top;
  }
</style>
