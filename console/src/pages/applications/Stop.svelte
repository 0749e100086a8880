<script lang="ts">
  import { api, got } from '../../lib/api';
  import ProblemNote from '../../lib/components/ProblemNote.svelte';
  import { Load } from '../../lib/load.svelte';
  import { ask } from '../../lib/query.svelte';
  import { session } from '../../lib/session.svelte';
  import Moment from '../../lib/components/Moment.svelte';

  let reason = $state('');
  let asking = $state(false);
  const load = ask(
    ['applications'],
    () => ['status/stop'],
    (signal) => got(api.GET('/api/v1/status/stop', { signal }))
  );
  const change = new Load(async () => {
    if (load.data?.stopped) await got(api.DELETE('/api/v1/status/stop'));
    else await got(api.POST('/api/v1/status/stop', { body: { reason } }));
    asking = false;
    reason = '';
    await load.run();
    return true;
  });
</script>

{#if load.data?.stopped}
  <div class="sheet bad" role="status">
    <b>Everything but cut-offs is stopped.</b>
    {load.data.author}: {load.data.reason}
    {#if load.data.since_at}
      <span class="soft">since <Moment at={load.data.since_at} zone={session.zone} /></span>
    {/if}
    <button class="button" onclick={() => change.run()} disabled={change.busy}>Go on</button>
  </div>
{:else if asking}
  <form
    class="sheet warn"
    onsubmit={(e) => {
      e.preventDefault();
      void change.run();
    }}
  >
    <label for="why"
      >Every step but cut-offs waits, in all applications, until somebody lifts the stop. Why?</label
    >
    <input id="why" bind:value={reason} required />
    <button class="button" disabled={change.busy || !reason.trim()}>Stop</button>
    <button class="button" type="button" onclick={() => (asking = false)}>Leave it</button>
  </form>
{:else}
  <p>
    <button class="button" onclick={() => (asking = true)}>Stop everything but cut-offs</button>
  </p>
{/if}
<ProblemNote problem={change.problem} />

<style>
  .sheet {
    display: flex;
    flex-wrap: wrap;
    gap: 6px 12px;
    align-items: center;
    margin-bottom: 14px;
  }
  p {
    margin: 0 0 16px;
  }
  input {
    flex: 1 1 260px;
  }
</style>
