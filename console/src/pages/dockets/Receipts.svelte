<script lang="ts">
  import type { Schemas } from '../../lib/api';
  import StepMark from '../../lib/components/StepMark.svelte';
  import type { DocketState } from '../../lib/docket.svelte';
  import { plural } from '../../lib/format';
  import { session } from '../../lib/session.svelte';
  import { PLANNED, STEP_STATES } from '../../lib/words';
  import SettleStep from '../../lib/components/SettleStep.svelte';
  import Moment from '../../lib/components/Moment.svelte';

  let { docket, view }: { docket: DocketState; view: Schemas['DocketView'] } = $props();

  function shown(side: Record<string, unknown>): string {
    if (side.held !== undefined) return side.held ? 'held' : 'not held';
    if (side.setting !== undefined) return String(side.value || 'nothing');
    if (side.owned !== undefined) return `${side.owned} owned`;
    const ways = (['session', 'key'] as const)
      .filter((k) => side[`${k}s`])
      .map((k) => plural(Number(side[`${k}s`]), k));
    return [side.account, ...ways].filter(Boolean).join(', ');
  }

  function ended(step: Schemas['StepView']): string {
    if (step.receipt?.outcome === 'already') return 'was so already';
    return step.receipt?.outcome === 'by_hand' ? 'done by hand' : STEP_STATES[step.state];
  }
</script>

<h2>Receipts</h2>
<div class="scroll">
  <table class="list">
    <thead>
      <tr><th>Step</th><th>Application</th><th>Before → after</th><th>Because</th><th>State</th></tr
      >
    </thead>
    <tbody>
      {#each view.steps as step (step.id)}
        <tr>
          <td class="name">{PLANNED[step.action] ?? step.action} {step.item}</td>
          <td>{step.application_name}</td>
          <td>
            {#if step.receipt && Object.keys(step.receipt.seen).length}
              {shown(step.receipt.found)} → {shown(step.receipt.seen)}
            {:else}{step.before} → {step.after}{/if}
          </td>
          <td class="soft">{step.reason}</td>
          <td>
            <span class="state">
              <StepMark state={step.stuck ? 'stuck' : step.state} />
              {#if step.receipt}<Moment
                  at={step.receipt.at}
                  zone={session.zone}
                  told={ended(step)}
                />
              {:else}{ended(step)}{/if}
            </span>
            {#if step.of && step.state === 'intent'}
              <progress aria-label="Handed over" max={step.of} value={step.moved}></progress>
              <span class="soft">{step.moved} of {step.of}</span>
            {/if}
            {#if step.problem && step.state !== 'done'}
              <div>{step.problem.text}</div>
              <div class="small soft">{step.problem.remedy}</div>
            {/if}
            {#if step.stuck && session.mayAct}<SettleStep
                onsettle={(how, note) => void docket.settle(step.id, how, note)}
              />{/if}
          </td>
        </tr>
      {/each}
    </tbody>
  </table>
</div>
