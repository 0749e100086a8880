<script lang="ts">
  import { api, got, type Schemas } from '../../lib/api';
  import Panel from '../../lib/components/Panel.svelte';
  import ProblemNote from '../../lib/components/ProblemNote.svelte';
  import { Load } from '../../lib/load.svelte';

  interface Props {
    id: string;
    name: string;
    connected: boolean;
    onclose: () => void;
    ondone: () => void;
  }
  let { id, name, connected, onclose, ondone }: Props = $props();

  // svelte-ignore state_referenced_locally
  let erase = $state(!connected);
  let reason = $state('');
  let typed = $state('');
  const path = $derived({ application_id: id });
  const plan = new Load(() =>
    got(
      api.GET('/api/v1/applications/{application_id}/disconnection', {
        params: { path, query: { erase } }
      })
    )
  );
  const act = new Load(async () => {
    const body: Schemas['Disconnect'] = { digest: plan.data!.digest, erase, reason, typed };
    await got(
      api.POST('/api/v1/applications/{application_id}/disconnection', { params: { path }, body })
    );
    ondone();
    return true;
  });

  $effect(() => {
    void erase;
    plan.data = null;
    void plan.run();
  });
</script>

<Panel open title={connected ? `Disconnect ${name}` : `Erase what is kept of ${name}`} {onclose}>
  <form
    class="form"
    onsubmit={(event) => {
      event.preventDefault();
      void act.run();
    }}
  >
    {#if connected}
      <fieldset>
        <legend>Its accounts, and what they held and when</legend>
        <label class="check"
          ><input type="radio" name="kept" checked={!erase} onchange={() => (erase = false)} /> are kept
          here</label
        >
        <label class="check"
          ><input type="radio" name="kept" checked={erase} onchange={() => (erase = true)} /> are erased
          here</label
        >
      </fieldset>
    {/if}
    <div>
      <h3>What follows</h3>
      {#if plan.data}
        <ul>
          {#each plan.data.follows as line (line)}<li>{line}</li>{/each}
        </ul>
      {/if}
      <ProblemNote problem={plan.problem} />
    </div>
    <label class="field"><span>Reason</span><input bind:value={reason} required /></label>
    {#if erase}
      <label class="field"
        ><span>It cannot be put back: type <b class="mono">{id}</b></span><input
          class="mono"
          bind:value={typed}
          required
        /></label
      >
    {/if}
    <ProblemNote problem={act.problem} />
    <p class="acts">
      <button class="button cut" disabled={act.busy || !plan.data || (erase && typed !== id)}
        >{connected ? 'Disconnect it' : 'Erase it'}</button
      >
      <button type="button" class="button" onclick={onclose}>Keep it</button>
    </p>
  </form>
</Panel>

<style>
  fieldset {
    border: 0;
    padding: 0;
    margin: 0;
    display: grid;
    gap: 4px;
  }
  legend,
  h3 {
    font-weight: 600;
    font-size: inherit;
    margin: 0 0 4px;
  }
  ul {
    margin: 0;
    padding: 0;
    list-style: none;
    display: grid;
    gap: 4px;
  }
  .acts {
    display: flex;
    gap: 10px;
    margin: 0;
  }
</style>
