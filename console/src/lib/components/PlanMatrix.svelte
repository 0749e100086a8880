<script lang="ts">
  import type { Schemas } from '../api';
  import { PHASES, counted } from '../phases';

  let { plan, name }: { plan: Schemas['PlanView']; name: (id: string) => string } = $props();

  const phases = $derived(PHASES.filter((p) => plan.steps.some((s) => s.phase === p)));
  const applications = $derived([...new Set(plan.steps.map((s) => s.application_id))]);
  const cell = (application: string, phase: string) =>
    counted(plan.steps.filter((s) => s.application_id === application && s.phase === phase));
</script>

<!-- svelte-ignore a11y_no_noninteractive_tabindex -->
<div class="scroll" role="region" aria-label="Phases by application" tabindex="0">
  <table class="list">
    <thead>
      <tr>
        <th>Application</th>
        {#each phases as phase (phase)}<th>{phase}</th>{/each}
      </tr>
    </thead>
    <tbody>
      {#each applications as application (application)}
        <tr>
          <td class="name">{name(application)}</td>
          {#each phases as phase (phase)}
            <td>
              {#each cell(application, phase) as line (line)}<div>{line}</div>{:else}<span
                  class="soft">–</span
                >{/each}
            </td>
          {/each}
        </tr>
      {/each}
    </tbody>
  </table>
</div>

<style>
  td {
    vertical-align: top;
  }
  th {
    text-transform: none;
  }
</style>
