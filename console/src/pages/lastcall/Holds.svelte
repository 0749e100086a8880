<script lang="ts">
  import { api, got } from '../../lib/api';
  import ProblemNote from '../../lib/components/ProblemNote.svelte';
  import { Load } from '../../lib/load.svelte';
  import { ask } from '../../lib/query.svelte';
  import { session } from '../../lib/session.svelte';
  import HoldLine from './HoldLine.svelte';

  let asked = '';
  const load = ask(
    ['decisions'],
    () => ['holds'],
    (signal) => got(api.GET('/api/v1/holds', { params: { query: { limit: 200 } }, signal }))
  );
  const ending = new Load(async () => {
    const params = { path: { decision_id: asked } };
    await got(api.DELETE('/api/v1/decisions/{decision_id}', { params }));
    await load.run();
    return true;
  });

  function end(id: string): void {
    asked = id;
    void ending.run();
  }

  const rows = $derived(load.data?.items ?? []);
  const more = $derived((load.data?.total ?? 0) - rows.length);
</script>

{#if rows.length}
  <h2>On hold</h2>
  <div class="scroll">
    <table class="list">
      <thead>
        <tr
          ><th>Who or what</th><th>Why</th><th>By</th><th>Until</th>{#if session.mayAct}<th
              ><span class="visually-hidden">End</span></th
            >{/if}</tr
        >
      </thead>
      <tbody>
        {#each rows as hold (hold.id)}
          <HoldLine {hold} busy={ending.busy} onend={() => end(hold.id)} />
        {/each}
      </tbody>
    </table>
  </div>
  <p class="soft">
    {#if more > 0}{more} more: <span class="mono">yugum holds</span>.{/if}
    Nothing of these is deleted or purged. Once a hold is ended, what is past its day is closed.
  </p>
{/if}
<ProblemNote problem={ending.problem ?? load.problem} />

<style>
  p {
    margin-top: 12px;
  }
</style>
