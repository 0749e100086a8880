<script lang="ts">
  import type { Schemas } from '../api';
  import { plural } from '../format';
  import type { Planning } from '../plan.svelte';
  import { PLANNED } from '../words';

  interface Props {
    plan: Planning;
    batch: Schemas['BatchView'];
  }
  /** Steps of a plan that are not to be done, with why; the plan is made anew without them. */
  let { plan, batch }: Props = $props();
  const SHOWN = 60;
  let picked = $state<string[]>([]);
  let why = $state('');
  const out = $derived(Object.entries(plan.leftOut));
  const steps = $derived.by(() => {
    const found = new Map<string, string>();
    for (const one of batch.plans)
      for (const step of one.steps) {
        const what = `${PLANNED[step.action] ?? step.action} ${step.item}`.trim();
        const where = batch.applications[step.application_id] ?? step.application_id;
        const key = [step.application_id, step.action, step.item].filter(Boolean).join('/');
        found.set(key, `${where}: ${what}`);
      }
    return [...found];
  });

  function leave(): void {
    const more = Object.fromEntries(picked.map((key) => [key, why.trim()]));
    [picked, why] = [[], ''];
    plan.leaveOut({ ...plan.leftOut, ...more });
  }
</script>

{#if out.length}
  <p class="out">
    <b>{plural(out.length, 'step')}</b> left out: {[...new Set(out.map(([, said]) => said))].join(
      '; '
    )}.
    <button class="bare link" type="button" onclick={() => plan.leaveOut({})}
      >Do them after all</button
    >
  </p>
{/if}
{#if steps.length}
  <details>
    <summary>Leave steps out …</summary>
    <fieldset>
      <legend class="soft">Not to be done{batch.plans.length > 1 ? ', of all of them' : ''}</legend>
      {#each steps.slice(0, SHOWN) as [key, text] (key)}
        <label class="check"><input type="checkbox" value={key} bind:group={picked} /> {text}</label
        >
      {/each}
      {#if steps.length > SHOWN}<p class="soft">
          {steps.length - SHOWN} more: by the command line, --leave-out.
        </p>{/if}
    </fieldset>
    <label class="field"><span>Why they are left out</span><input bind:value={why} /></label>
    <button
      class="button"
      type="button"
      disabled={plan.busy || !picked.length || !why.trim()}
      onclick={leave}>Show the plan without them</button
    >
  </details>
{/if}

<style>
  fieldset {
    margin: 6px 0;
    max-height: 30vh;
    overflow-y: auto;
  }
</style>
