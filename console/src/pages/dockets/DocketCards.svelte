<script lang="ts">
  import type { Schemas } from '../../lib/api';
  import type { DocketState } from '../../lib/docket.svelte';
  import { momentOf, plural, took } from '../../lib/format';
  import { session } from '../../lib/session.svelte';

  let { docket, view }: { docket: DocketState; view: Schemas['DocketView'] } = $props();
  const cuts = $derived(view.steps.filter((s) => s.action === 'cut_off'));
  const open = $derived(docket.stillOpen);
  const slowest = $derived(
    [...cuts].sort((a, b) => (b.receipt?.took_ms ?? 0) - (a.receipt?.took_ms ?? 0))[0]
  );
</script>

{#if view.steps.length}
  <div class="cards">
    {#if cuts.length}
      <section class="sheet" class:bad={open.length > 0}>
        <h2>{open.length} of {cuts.length} still open</h2>
        {#each open as step (step.id)}
          <div>
            {step.application_name}: {step.problem?.text ?? 'being cut off'}
            {#if step.contact}<span class="soft">On call: {step.contact}</span>{/if}
          </div>
        {:else}<div class="soft">Nobody gets in any more.</div>{/each}
      </section>
    {:else}
      <section class="sheet" class:warn={docket.stuck.length > 0}>
        <h2>{view.steps_done} of {plural(view.steps_total, 'step')} done</h2>
        {#each view.summary as line (line)}<div class="soft">{line}</div>{/each}
      </section>
    {/if}
    <section class="sheet" class:warn={docket.stuck.length > 0 && cuts.length > 0}>
      {#if docket.stuck.length}
        <h2>{plural(docket.stuck.length, 'step')} stuck</h2>
        {#each docket.stuck.slice(0, 2) as step (step.id)}<div>
            {step.application_name}: {step.problem?.text}
          </div>{/each}
      {:else if view.cut_off_ms !== null && view.cut_off_ms !== undefined}
        <h2>{cuts.length} cut off in {took(view.cut_off_ms)}</h2>
        <div class="soft">slowest: {slowest?.application_name}</div>
      {:else}
        <h2>Nothing is stuck</h2>
        <div class="soft">
          {view.state === 'done' ? 'All receipts are below.' : 'Steps go on by themselves.'}
        </div>
      {/if}
    </section>
    <section class="sheet">
      {#if view.irreversible}
        <h2>Irreversible</h2>
        <div>{view.irreversible.text}, {momentOf(view.irreversible.at, session.zone)}</div>
      {:else}
        <h2>Nothing irreversible in it</h2>
        <div class="soft">What closes later has a docket of its own on its day.</div>
      {/if}
    </section>
  </div>
{/if}
